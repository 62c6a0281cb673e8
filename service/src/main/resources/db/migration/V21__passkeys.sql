-- Passkeys: the challenge while one is being registered, and then what it is verified with. Nothing of it is secret.
CREATE TABLE passkey (
    enrolment     uuid PRIMARY KEY REFERENCES enrolment ON DELETE CASCADE,
    challenge     bytea,
    credential_id bytea UNIQUE,
    data          bytea,
    counter       bigint NOT NULL DEFAULT 0,
    synced        boolean NOT NULL DEFAULT false
);
GRANT SELECT, INSERT, UPDATE, DELETE ON passkey TO ${runningRole};
