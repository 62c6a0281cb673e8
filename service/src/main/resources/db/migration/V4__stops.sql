-- What administrators stopped at once, and when it went on.
CREATE TABLE stop (
    id         uuid PRIMARY KEY,
    kind       text NOT NULL CHECK (kind IN ('everything', 'action', 'method', 'directory', 'policy')),
    name       text NOT NULL,
    reason     text NOT NULL,
    started_at timestamptz NOT NULL,
    started_by text NOT NULL,
    ends_at    timestamptz,
    ended_at   timestamptz,
    ended_by   text
);
CREATE UNIQUE INDEX stop_in_force ON stop (kind, name) WHERE ended_at IS NULL;
GRANT SELECT, INSERT, UPDATE ON stop TO ${runningRole};
