-- Devices that approve. Until one has registered, the hash of the word that lets it; then its public key.
CREATE TABLE push_device (
    enrolment  uuid PRIMARY KEY REFERENCES enrolment ON DELETE CASCADE,
    word_hash  bytea UNIQUE,
    public_key jsonb
);
-- What they are asked; gone a day after it ended.
CREATE TABLE push_request (
    challenge  uuid PRIMARY KEY,
    person     uuid NOT NULL,
    shown      text NOT NULL,
    attempt_key text NOT NULL,
    action     text NOT NULL,
    network    text NOT NULL,
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    wrong      int NOT NULL DEFAULT 0,
    verdict    text CHECK (verdict IN ('approved', 'denied', 'wrong-number')),
    device     uuid,
    -- What the device signed.
    signed     text,
    used       boolean NOT NULL DEFAULT false
);
CREATE INDEX push_request_of ON push_request (person, expires_at);
GRANT SELECT, INSERT, UPDATE, DELETE ON push_device, push_request TO ${runningRole};
