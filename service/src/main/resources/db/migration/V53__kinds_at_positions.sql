-- Readers that want some kinds of events see by the positions which ones they need. Null where an event was sealed before this.
ALTER TABLE event_pending ADD COLUMN kind text;
ALTER TABLE event_leaf ADD COLUMN kind text;

CREATE OR REPLACE FUNCTION event_waits() RETURNS trigger
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
BEGIN
    INSERT INTO event_pending (event, retention_class, occurred_at, leaf_hash, kind)
        SELECT id, retention_class, occurred_at, leaf_hash, kind FROM fresh;
    RETURN NULL;
END
$$;

CREATE OR REPLACE FUNCTION seal_events(first_position bigint, events uuid[], hashes bytea[]) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    sealed bigint;
BEGIN
    IF first_position <> (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) THEN
        RAISE EXCEPTION 'events are sealed at the next position, which is another one';
    END IF;
    WITH waiting AS (DELETE FROM event_pending WHERE event = ANY(events) RETURNING event, leaf_hash, occurred_at, kind)
    INSERT INTO event_leaf (seq, event, leaf_hash, at, kind)
        SELECT first_position + t.number - 1, t.event, t.hash, w.occurred_at, w.kind
        FROM unnest(events, hashes) WITH ORDINALITY AS t(event, hash, number)
        JOIN waiting w ON w.event = t.event AND w.leaf_hash = t.hash;
    GET DIAGNOSTICS sealed = ROW_COUNT;
    IF sealed <> cardinality(events) THEN
        RAISE EXCEPTION 'only events that wait are sealed, under their own hash';
    END IF;
END
$$;
