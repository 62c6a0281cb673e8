-- Places outside that are told what is sealed, each with its own cursor.
CREATE TABLE outlet (
    name         text PRIMARY KEY,
    kind         text NOT NULL,
    goes_to      text,
    authority    text,
    audience     text,
    credential   bytea,
    kinds        text[] NOT NULL,
    parts        text[] NOT NULL,
    severity     text NOT NULL,
    personal     boolean NOT NULL,
    state        text NOT NULL,
    position     bigint NOT NULL,
    failures     int NOT NULL DEFAULT 0,
    why          text,
    since        timestamptz,
    sent_at      timestamptz,
    next_try     timestamptz NOT NULL,
    lease        bigint NOT NULL DEFAULT 0,
    leased_until timestamptz NOT NULL
);

-- Handed to whoever fetches, and not acknowledged yet.
CREATE TABLE outlet_offered (
    outlet text NOT NULL REFERENCES outlet ON DELETE CASCADE,
    seq    bigint NOT NULL,
    event  uuid NOT NULL,
    at     timestamptz NOT NULL,
    PRIMARY KEY (outlet, seq)
);

-- Keys that sign for receivers; the newest one is used.
CREATE TABLE outlet_key (
    thumbprint text PRIMARY KEY,
    made_at    timestamptz NOT NULL,
    key        bytea NOT NULL
);

GRANT SELECT, INSERT, UPDATE, DELETE ON outlet, outlet_offered, outlet_key TO ${runningRole};

-- audit: how far the record reaches
CREATE VIEW sealed_events AS SELECT coalesce(max(seq) + 1, 0) AS size FROM event_leaf;
GRANT SELECT ON sealed_events TO ${runningRole};
