-- What came back: a mail server took it, and told later that it reached nobody.
ALTER TABLE notification DROP CONSTRAINT notification_state_check;
ALTER TABLE notification ADD CONSTRAINT notification_state_check
    CHECK (state IN ('queued', 'sending', 'sent', 'failed', 'uncertain', 'expired', 'bounced'));

-- The mailbox that mail comes back to; none unless one was named.
CREATE TABLE bounce_mailbox (
    id        boolean PRIMARY KEY DEFAULT true CHECK (id),
    host      text NOT NULL,
    port      int NOT NULL,
    security  text NOT NULL CHECK (security IN ('tls', 'starttls', 'none')),
    login     text NOT NULL,
    -- Encrypted.
    password  bytea NOT NULL,
    next_at   timestamptz NOT NULL,
    -- The last look that succeeded, and why the last one did not; null if it did.
    looked_at timestamptz,
    why       text,
    failures  int NOT NULL DEFAULT 0
);
GRANT SELECT, INSERT, UPDATE, DELETE ON bounce_mailbox TO ${runningRole};
