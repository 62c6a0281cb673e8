-- Events of one statement wait to be sealed by one statement, too.
DROP TRIGGER event_waits ON event;
CREATE OR REPLACE FUNCTION event_waits() RETURNS trigger
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
BEGIN
    INSERT INTO event_pending (event, retention_class, occurred_at, leaf_hash)
        SELECT id, retention_class, occurred_at, leaf_hash FROM fresh;
    RETURN NULL;
END
$$;
CREATE TRIGGER event_waits AFTER INSERT ON event REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT EXECUTE FUNCTION event_waits();
