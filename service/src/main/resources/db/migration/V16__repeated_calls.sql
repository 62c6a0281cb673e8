-- What creates something can be asked for twice under one key, and is done once (draft-ietf-httpapi-idempotency-key-header).
CREATE TABLE repeated_call (
    administrator uuid NOT NULL,
    key_hash      bytea NOT NULL,
    fingerprint   bytea NOT NULL,
    made_at       timestamptz NOT NULL,
    -- Null while the first call has not been answered.
    status        int,
    content_type  text,
    -- Encrypted: an answer may hold a join code or a password.
    body          bytea,
    PRIMARY KEY (administrator, key_hash)
);
CREATE INDEX repeated_call_age ON repeated_call (made_at);
GRANT SELECT, INSERT, UPDATE, DELETE ON repeated_call TO ${runningRole};
