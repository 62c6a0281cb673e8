-- Messages: whom they are for and by what they go, so that each can be found, and news be sent again. News waits behind codes, at a pace.
ALTER TABLE notification ADD COLUMN person uuid, ADD COLUMN administrator text, ADD COLUMN recipient text,
    ADD COLUMN news boolean NOT NULL DEFAULT false, ADD COLUMN reference text, ADD COLUMN why text,
    ADD COLUMN again_of uuid, ADD COLUMN begun_at timestamptz;
DROP INDEX notification_open;
CREATE INDEX notification_open ON notification (news, lane, next_try) WHERE state IN ('queued', 'sending');
CREATE INDEX notification_pace ON notification (begun_at) WHERE news;
CREATE INDEX notification_listed ON notification (created_at, id);
CREATE INDEX notification_person ON notification (person, created_at) WHERE person IS NOT NULL;
CREATE INDEX notification_kept ON notification (ended_at) WHERE news AND payload IS NOT NULL AND ended_at IS NOT NULL;

ALTER TABLE alarm_link ADD COLUMN person uuid;

-- How much news a minute, and the key that signs mail (RFC 6376).
ALTER TABLE mail_channel ADD COLUMN news_per_minute int NOT NULL DEFAULT 300, ADD COLUMN dkim_selector text,
    ADD COLUMN dkim_key bytea;

-- What a person chose not to be told of, and the links by which they choose.
CREATE TABLE quiet_link (
    token_hash bytea PRIMARY KEY,
    person     uuid NOT NULL,
    kind       text NOT NULL,
    made_at    timestamptz NOT NULL
);
CREATE INDEX quiet_link_made ON quiet_link (made_at);
CREATE TABLE quiet (
    person uuid NOT NULL,
    kind   text NOT NULL,
    since  timestamptz NOT NULL,
    PRIMARY KEY (person, kind)
);

-- People for whom self-service is closed until somebody has looked.
CREATE TABLE closed_person (
    person    uuid PRIMARY KEY,
    attempt   uuid,
    reference text,
    closed_at timestamptz NOT NULL
);
CREATE TRIGGER standing_closed AFTER INSERT OR DELETE ON closed_person
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('stop');
GRANT SELECT, INSERT, UPDATE, DELETE ON quiet_link, quiet, closed_person TO ${runningRole};

-- What administrators are told of: each by their own choice, from the record, at once or once a day.
CREATE TABLE notice_choice (
    administrator uuid PRIMARY KEY,
    address       bytea,
    paces         text[] NOT NULL,
    hour          int NOT NULL
);
CREATE TABLE notice_follower (
    id       boolean PRIMARY KEY DEFAULT true CHECK (id),
    position bigint NOT NULL
);
INSERT INTO notice_follower (position) SELECT size FROM sealed_events;
-- What waits for the daily list; the administrator is none where it is for the addresses of the mail channel.
CREATE TABLE notice_waiting (
    administrator uuid NOT NULL,
    seq           bigint NOT NULL,
    event         uuid NOT NULL,
    at            timestamptz NOT NULL,
    due_at        timestamptz NOT NULL,
    PRIMARY KEY (administrator, seq)
);
CREATE INDEX notice_waiting_due ON notice_waiting (due_at);
CREATE OR REPLACE VIEW known_administrator AS SELECT id, suspended_at IS NULL AS active, login, role FROM administrator;
GRANT SELECT, INSERT, UPDATE, DELETE ON notice_choice, notice_waiting TO ${runningRole};
GRANT SELECT, UPDATE ON notice_follower TO ${runningRole};

-- What needs attention, since when, and whether that is on record.
CREATE TABLE attention (
    key      text PRIMARY KEY,
    what     text NOT NULL,
    about    text,
    severity text NOT NULL,
    says     text NOT NULL,
    since    timestamptz NOT NULL,
    told_at  timestamptz
);
CREATE TABLE attention_look (
    id      boolean PRIMARY KEY DEFAULT true CHECK (id),
    next_at timestamptz NOT NULL
);
INSERT INTO attention_look (next_at) VALUES (entente_time());
GRANT SELECT, INSERT, UPDATE, DELETE ON attention TO ${runningRole};
GRANT SELECT, UPDATE ON attention_look TO ${runningRole};

-- When a checkpoint was put into the record last, from where it goes to everybody who is told what happens.
CREATE TABLE checkpoint_told (
    id      boolean PRIMARY KEY DEFAULT true CHECK (id),
    size    bigint NOT NULL,
    next_at timestamptz NOT NULL
);
INSERT INTO checkpoint_told (size, next_at) SELECT size, entente_time() + interval '1 hour' FROM sealed_events;
GRANT SELECT, UPDATE ON checkpoint_told TO ${runningRole};

-- What Today looks for is looked for once a minute now, and few accounts have it.
CREATE INDEX account_changed_elsewhere ON account (person) WHERE changed_elsewhere_at IS NOT NULL;
CREATE INDEX account_undialable ON account (directory) WHERE phone_undialable;
