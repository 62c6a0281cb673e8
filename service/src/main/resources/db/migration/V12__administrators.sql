-- Administrators: suspended ones, second factors, and sessions that can be listed and ended.
ALTER TABLE administrator
    ADD COLUMN suspended_at  timestamptz,
    ADD COLUMN second_secret bytea,
    ADD COLUMN second_step   bigint NOT NULL DEFAULT 0,
    ADD COLUMN second_since  timestamptz;
CREATE TABLE administrator_code (
    administrator uuid NOT NULL REFERENCES administrator ON DELETE CASCADE,
    code_hash     bytea NOT NULL,
    used_at       timestamptz,
    PRIMARY KEY (administrator, code_hash)
);

-- Sessions are rows of plain values; tokens of the command line are sessions, too.
DROP TABLE spring_session_attributes;
DROP TABLE spring_session;
DROP TABLE api_token;
CREATE TABLE administrator_session (
    id            uuid PRIMARY KEY,
    token_hash    bytea NOT NULL UNIQUE,
    administrator uuid NOT NULL REFERENCES administrator ON DELETE CASCADE,
    kind          text NOT NULL CHECK (kind IN ('console', 'command-line')),
    network       text NOT NULL,
    client        text NOT NULL,
    made_at       timestamptz NOT NULL,
    last_used_at  timestamptz NOT NULL,
    ends_at       timestamptz NOT NULL,
    -- When a second factor, or the password where there is none, was asked for last.
    confirmed_at  timestamptz NOT NULL
);
CREATE INDEX administrator_session_of ON administrator_session (administrator);

-- Browsers, command lines and networks from which an administrator signed in before: keyed hashes.
CREATE TABLE administrator_place (
    administrator uuid NOT NULL REFERENCES administrator ON DELETE CASCADE,
    kind          text NOT NULL CHECK (kind IN ('browser', 'network')),
    place         bytea NOT NULL,
    last_at       timestamptz NOT NULL,
    PRIMARY KEY (administrator, kind, place)
);

-- Settings that decide who gets codes, changed by one administrator and waiting for another.
CREATE TABLE proposed_change (
    id         uuid PRIMARY KEY,
    kind       text NOT NULL,
    subject    text NOT NULL,
    says       text[] NOT NULL,
    wanted     bytea NOT NULL,
    author     text NOT NULL,
    made_at    timestamptz NOT NULL,
    decided_at timestamptz,
    decided_by text,
    outcome    text CHECK (outcome IN ('approved', 'refused', 'withdrawn'))
);
CREATE INDEX proposed_change_open ON proposed_change (made_at) WHERE decided_at IS NULL;

-- Keys outside the database belong to it: their thumbprints.
CREATE TABLE key_thumbprint (
    name       text PRIMARY KEY,
    thumbprint text NOT NULL
);

GRANT SELECT, INSERT, UPDATE, DELETE ON administrator_code, administrator_session, administrator_place, proposed_change
    TO ${runningRole};
GRANT SELECT, INSERT ON key_thumbprint TO ${runningRole};

-- Of directories that were believed alike, the one whose address was taken stays first.
UPDATE directory d SET trust = r.place
    FROM (SELECT id, row_number() OVER (ORDER BY trust, name DESC) AS place FROM directory WHERE removed_at IS NULL) r
    WHERE r.id = d.id AND EXISTS (SELECT 1 FROM directory o WHERE o.removed_at IS NULL
        GROUP BY o.trust HAVING count(*) > 1);
CREATE UNIQUE INDEX directory_trust ON directory (trust) WHERE removed_at IS NULL;
