-- What tries cost is counted in fractions of a chance. What was counted before had other keys.
ALTER TABLE limit_count ALTER COLUMN used TYPE bigint;
DELETE FROM limit_count;

-- Lifting a person's limits begins a new era, under which everything is counted anew.
CREATE TABLE person_limits (
    person    uuid PRIMARY KEY,
    era       int NOT NULL DEFAULT 0,
    lifted_at timestamptz,
    -- When the person and the administrators were told last of strangers who try.
    told_at   timestamptz
);

-- Where a person proved who they are before: keyed hashes of browsers and networks.
CREATE TABLE known_place (
    person          uuid NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('browser', 'network')),
    place           bytea NOT NULL,
    first_at        timestamptz NOT NULL,
    last_at         timestamptz NOT NULL,
    -- When the person got a new password there; null if never.
    password_set_at timestamptz,
    PRIMARY KEY (person, kind, place)
);
CREATE INDEX known_place_browser ON known_place (place) WHERE kind = 'browser';
INSERT INTO known_place (person, kind, place, first_at, last_at, password_set_at)
    SELECT person, 'browser', device, min(ended_at), max(ended_at),
        max(ended_at) FILTER (WHERE action IN ('reset', 'change'))
    FROM attempt WHERE state = 'completed' AND decoy IS NULL AND person IS NOT NULL AND device IS NOT NULL
        AND action <> 'temporary' GROUP BY person, device;
DROP INDEX attempt_device;

-- The last code of an hour is good for the whole of it, so that nobody's code is withheld because others ask, too.
CREATE TABLE standing_code (
    id         uuid PRIMARY KEY,
    person     uuid NOT NULL,
    code_hash  bytea NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at    timestamptz
);
CREATE INDEX standing_code_person ON standing_code (person);

-- What strangers do, by the hour: how often, from which network, in whose name.
CREATE TABLE pressure (
    hour     timestamptz NOT NULL,
    kind     text NOT NULL,
    network  text NOT NULL DEFAULT '',
    person   uuid NOT NULL DEFAULT '00000000-0000-0000-0000-000000000000',
    count    bigint NOT NULL,
    -- How many of them an event has told of.
    reported bigint NOT NULL DEFAULT 0,
    PRIMARY KEY (hour, kind, network, person)
);

-- Attempts: whose it is, is looked up after the answer; what a flood does is not put on record one by one.
ALTER TABLE attempt
    ADD COLUMN resolved boolean NOT NULL DEFAULT true,
    ADD COLUMN quiet boolean NOT NULL DEFAULT false;
-- References outlive attempts, which are purged.
CREATE TABLE attempt_reference (
    attempt   uuid PRIMARY KEY,
    reference text NOT NULL UNIQUE
);
INSERT INTO attempt_reference SELECT id, reference FROM attempt WHERE person IS NOT NULL;
ALTER TABLE challenge
    ADD COLUMN beyond_guessing boolean NOT NULL DEFAULT false,
    ADD COLUMN prepaid boolean NOT NULL DEFAULT false;

-- Messages of the same origin stand one behind the other, so that a flood of them waits and nobody else does.
ALTER TABLE notification ADD COLUMN lane int NOT NULL DEFAULT 0, ADD COLUMN origin bytea;
DROP INDEX notification_open;
CREATE INDEX notification_open ON notification (lane, next_try) WHERE state IN ('queued', 'sending');
CREATE INDEX notification_origin ON notification (origin) WHERE state IN ('queued', 'sending');

-- A network can be stopped, too.
ALTER TABLE stop DROP CONSTRAINT stop_kind_check;
ALTER TABLE stop ADD CONSTRAINT stop_kind_check
    CHECK (kind IN ('everything', 'action', 'method', 'directory', 'policy', 'network'));

GRANT SELECT, INSERT, UPDATE, DELETE ON person_limits, known_place, standing_code, pressure, attempt_reference
    TO ${runningRole};

-- What the attempt's key signed is taken once.
CREATE TABLE attempt_act (
    attempt uuid NOT NULL REFERENCES attempt ON DELETE CASCADE,
    jti     uuid NOT NULL,
    PRIMARY KEY (attempt, jti)
);
GRANT SELECT, INSERT, DELETE ON attempt_act TO ${runningRole};
