-- people: when the passwords of accounts end that are there and not disabled
CREATE VIEW password_end AS SELECT person, password_ends_at FROM account
    WHERE gone_at IS NULL AND NOT quarantined AND NOT disabled AND password_ends_at IS NOT NULL;
CREATE INDEX account_by_password_end ON account (password_ends_at) WHERE gone_at IS NULL;
GRANT SELECT ON password_end TO ${runningRole};

-- How often somebody was looked at for being reminded, and of what.
CREATE TABLE reminder (
    person uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    kind   text NOT NULL,
    -- What it was about: when a password ends; null for an invitation.
    about  timestamptz,
    step   int NOT NULL,
    at     timestamptz NOT NULL,
    PRIMARY KEY (person, kind)
);
-- How far everybody was gone through for invitations, one node at a time.
CREATE TABLE reminder_look (
    id        boolean PRIMARY KEY DEFAULT true CHECK (id),
    after     uuid,
    -- When everybody is gone through again.
    again_at  timestamptz NOT NULL,
    next_at   timestamptz NOT NULL
);
INSERT INTO reminder_look (again_at, next_at) VALUES (entente_time(), entente_time());
GRANT SELECT, INSERT, UPDATE, DELETE ON reminder TO ${runningRole};
GRANT SELECT, UPDATE ON reminder_look TO ${runningRole};
