-- Whose approval a change needs, and what is planned.
CREATE TABLE approval_rule (
    id         boolean PRIMARY KEY DEFAULT true CHECK (id),
    asked_for  text NOT NULL CHECK (asked_for IN ('nothing', 'weakening', 'everything')),
    changed_at timestamptz NOT NULL
);
ALTER TABLE draft
    ADD COLUMN submitted_by     text,
    ADD COLUMN approved_by      text,
    ADD COLUMN approved_version int;
ALTER TABLE revision ADD COLUMN approved_by text;

-- A draft that is published, or a revision that ends, by itself at a time.
CREATE TABLE planned_change (
    id         uuid PRIMARY KEY,
    kind       text NOT NULL CHECK (kind IN ('publish', 'back')),
    draft      uuid,
    version    int,
    revision   int,
    back_to    int,
    at         timestamptz NOT NULL,
    ends_at    timestamptz,
    note       text NOT NULL,
    loses_way  int,
    author     text NOT NULL,
    made_at    timestamptz NOT NULL,
    ended_at   timestamptz,
    outcome    text
);
CREATE INDEX planned_change_due ON planned_change (at) WHERE ended_at IS NULL;
GRANT SELECT, INSERT, UPDATE, DELETE ON approval_rule, planned_change TO ${runningRole};
