-- Telephone numbers, encrypted as addresses are.
ALTER TABLE account ADD COLUMN phone bytea, ADD COLUMN calls_only boolean NOT NULL DEFAULT false,
    ADD COLUMN phone_undialable boolean NOT NULL DEFAULT false;
CREATE OR REPLACE VIEW present_account AS SELECT id, directory, person, phone_undialable FROM account WHERE gone_at IS NULL;
-- What is known of everybody has to be read again.
UPDATE directory SET sync_due_at = now() WHERE roster IS NOT NULL AND removed_at IS NULL;

-- Messages go by a channel, and those to telephones through a gateway that tells later what became of them.
ALTER TABLE notification ADD COLUMN channel text NOT NULL DEFAULT 'mail' CHECK (channel IN ('mail', 'text', 'voice')),
    ADD COLUMN gateway text, ADD COLUMN gateway_reference text, ADD COLUMN arrival text
    CHECK (arrival IN ('delivered', 'undelivered', 'unknown')), ADD COLUMN arrival_asked_at timestamptz;
CREATE UNIQUE INDEX notification_at_gateway ON notification (gateway, gateway_reference) WHERE gateway_reference IS NOT NULL;
CREATE INDEX notification_arrival ON notification (arrival_asked_at) WHERE gateway_reference IS NOT NULL AND arrival IS NULL;
CREATE TABLE phone_channel (
    id         boolean PRIMARY KEY DEFAULT true CHECK (id),
    -- Settings with the gateways' secrets, encrypted.
    sealed     bytea NOT NULL,
    changed_at timestamptz NOT NULL
);
CREATE TRIGGER standing_channel AFTER INSERT OR UPDATE OR DELETE ON phone_channel
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('channel');
-- What was spent, by day.
CREATE TABLE phone_use (
    day      date NOT NULL,
    gateway  text NOT NULL,
    channel  text NOT NULL,
    messages int NOT NULL,
    cost     numeric NOT NULL,
    PRIMARY KEY (day, gateway, channel)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON phone_channel, phone_use TO ${runningRole};
