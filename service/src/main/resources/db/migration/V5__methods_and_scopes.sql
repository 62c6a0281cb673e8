-- What scopes may ask about, and the values that directories have of it.
ALTER TABLE directory ADD COLUMN attributes text[] NOT NULL
    DEFAULT '{department,departmentNumber,title,employeeType,company,physicalDeliveryOfficeName,l}';
ALTER TABLE account ADD COLUMN attributes jsonb NOT NULL DEFAULT '{}';
-- What was read so far lacks them.
UPDATE directory SET sync_cursor = NULL, sync_due_at = now() WHERE roster IS NOT NULL AND removed_at IS NULL;

-- What a person set up to be recognised by. Secrets are encrypted under a key from outside the database.
CREATE TABLE enrolment (
    id           uuid PRIMARY KEY,
    person       uuid NOT NULL REFERENCES person,
    method       text NOT NULL,
    label        text NOT NULL,
    secret       bytea,
    -- The last time step whose code was taken: none is taken twice (RFC 6238 section 5.2).
    last_step    bigint NOT NULL DEFAULT 0,
    created_at   timestamptz NOT NULL,
    confirmed_at timestamptz,
    last_used_at timestamptz,
    removed_at   timestamptz
);
CREATE INDEX enrolment_person ON enrolment (person) WHERE removed_at IS NULL;
CREATE TABLE recovery_code (
    enrolment uuid NOT NULL REFERENCES enrolment ON DELETE CASCADE,
    code_hash bytea NOT NULL,
    used_at   timestamptz,
    PRIMARY KEY (enrolment, code_hash)
);

-- An attempt may ask for several proofs: what it asks for is settled when it starts.
ALTER TABLE attempt
    ADD COLUMN required jsonb,
    ADD COLUMN proved text[] NOT NULL DEFAULT '{}',
    ADD COLUMN device bytea,
    ADD COLUMN terms_accepted text;
CREATE INDEX attempt_device ON attempt (person, device) WHERE device IS NOT NULL;
CREATE INDEX attempt_of_person ON attempt (person, created_at DESC) WHERE person IS NOT NULL;
ALTER TABLE challenge
    ALTER COLUMN code_hash DROP NOT NULL,
    ADD COLUMN enrolment uuid REFERENCES enrolment;

GRANT SELECT, INSERT, UPDATE, DELETE ON enrolment, recovery_code TO ${runningRole};
