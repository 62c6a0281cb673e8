-- When an event happened says in which partition it is: whoever knows its position alone need not look through all of them.
ALTER TABLE event_leaf ADD COLUMN at timestamptz;
ALTER TABLE event_leaf DISABLE TRIGGER leaf_append_only;
UPDATE event_leaf l SET at = e.occurred_at FROM event e WHERE e.id = l.event;
-- Those whose partition was cut off already are in none.
UPDATE event_leaf SET at = 'epoch' WHERE at IS NULL;
ALTER TABLE event_leaf ENABLE TRIGGER leaf_append_only;
ALTER TABLE event_leaf ALTER COLUMN at SET NOT NULL;

CREATE OR REPLACE FUNCTION seal_events(first_position bigint, events uuid[], hashes bytea[]) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    sealed bigint;
BEGIN
    IF first_position <> (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) THEN
        RAISE EXCEPTION 'events are sealed at the next position, which is another one';
    END IF;
    WITH waiting AS (DELETE FROM event_pending WHERE event = ANY(events) RETURNING event, leaf_hash, occurred_at)
    INSERT INTO event_leaf (seq, event, leaf_hash, at)
        SELECT first_position + t.number - 1, t.event, t.hash, w.occurred_at
        FROM unnest(events, hashes) WITH ORDINALITY AS t(event, hash, number)
        JOIN waiting w ON w.event = t.event AND w.leaf_hash = t.hash;
    GET DIAGNOSTICS sealed = ROW_COUNT;
    IF sealed <> cardinality(events) THEN
        RAISE EXCEPTION 'only events that wait are sealed, under their own hash';
    END IF;
END
$$;
