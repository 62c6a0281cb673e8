-- Which key signs the record from which point on, after the first; both keys sign that.
CREATE TABLE record_key_change (
    number     int PRIMARY KEY,
    size       bigint NOT NULL,
    by_old     text NOT NULL,
    by_new     text NOT NULL,
    changed_at timestamptz NOT NULL
);
CREATE TRIGGER record_key_change_append_only BEFORE UPDATE OR DELETE ON record_key_change
    FOR EACH ROW EXECUTE FUNCTION record_is_append_only();
GRANT SELECT, INSERT ON record_key_change TO ${runningRole};
GRANT SELECT ON record_key_change TO ${retentionRole};
