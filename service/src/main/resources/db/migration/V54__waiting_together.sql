-- Events that one statement writes wait in one row, at most a thousand of them: a row of its own costs more than what it holds.
CREATE TABLE event_waiting (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    retention_class text NOT NULL,
    occurred_at timestamptz NOT NULL,
    events uuid[] NOT NULL,
    leaf_hashes bytea[] NOT NULL,
    kinds text[] NOT NULL
);
INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds)
    SELECT retention_class, occurred_at, ARRAY[event], ARRAY[leaf_hash], ARRAY[kind] FROM event_pending ORDER BY occurred_at;
REVOKE ALL ON event_waiting FROM ${runningRole};
GRANT SELECT ON event_waiting TO ${runningRole};

DROP TABLE event_pending;
CREATE VIEW event_pending AS SELECT p.id AS waiting, p.retention_class, p.occurred_at, w.event, w.leaf_hash, w.kind
    FROM event_waiting p CROSS JOIN LATERAL unnest(p.events, p.leaf_hashes, p.kinds) AS w(event, leaf_hash, kind);
REVOKE ALL ON event_pending FROM ${runningRole};
GRANT SELECT ON event_pending TO ${runningRole};

CREATE OR REPLACE FUNCTION event_waits() RETURNS trigger
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
BEGIN
    INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds)
        SELECT f.retention_class, f.occurred_at, array_agg(f.id), array_agg(f.leaf_hash), array_agg(f.kind)
        FROM (SELECT id, retention_class, occurred_at, leaf_hash, kind, (row_number() OVER () - 1) / 1000 AS part FROM fresh) f
        GROUP BY f.retention_class, f.occurred_at, f.part;
    RETURN NULL;
END
$$;

DROP FUNCTION seal_events(bigint, uuid[], bytea[]);
-- Rows that wait are sealed whole, their events in the order that is given.
CREATE FUNCTION seal_events(first_position bigint, waiting_rows bigint[], events uuid[], hashes bytea[]) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    waited bigint;
    sealed bigint;
BEGIN
    IF first_position <> (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) THEN
        RAISE EXCEPTION 'events are sealed at the next position, which is another one';
    END IF;
    SELECT coalesce(sum(cardinality(w.events)), 0) INTO waited FROM event_waiting w WHERE w.id = ANY(waiting_rows);
    INSERT INTO event_leaf (seq, event, leaf_hash, at, kind)
        SELECT first_position + t.number - 1, t.event, t.hash, p.occurred_at, p.kind
        FROM unnest(seal_events.events, hashes) WITH ORDINALITY AS t(event, hash, number)
        JOIN event_pending p ON p.event = t.event AND p.leaf_hash = t.hash WHERE p.waiting = ANY(waiting_rows);
    GET DIAGNOSTICS sealed = ROW_COUNT;
    DELETE FROM event_waiting w WHERE w.id = ANY(waiting_rows);
    IF sealed <> cardinality(seal_events.events) OR sealed <> waited THEN
        RAISE EXCEPTION 'only events that wait are sealed, under their own hash';
    END IF;
END
$$;
REVOKE EXECUTE ON FUNCTION seal_events FROM PUBLIC;
GRANT EXECUTE ON FUNCTION seal_events TO ${runningRole};
