-- The running role can make no event vanish before it is sealed: that an event waits is written by the table itself, and what
-- waits goes only by being sealed, in one step, at the next positions, under the hash that was written with it.
CREATE FUNCTION event_waits() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT AS $$
BEGIN
    INSERT INTO event_pending (event) VALUES (NEW.id);
    RETURN NULL;
END
$$;
CREATE TRIGGER event_waits AFTER INSERT ON event FOR EACH ROW EXECUTE FUNCTION event_waits();

CREATE FUNCTION seal_events(first_position bigint, events uuid[], hashes bytea[]) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT AS $$
DECLARE
    sealed bigint;
BEGIN
    IF first_position <> (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) THEN
        RAISE EXCEPTION 'events are sealed at the next position, which is another one';
    END IF;
    WITH waiting AS (DELETE FROM event_pending WHERE event = ANY(events) RETURNING event)
    INSERT INTO event_leaf (seq, event, leaf_hash)
        SELECT first_position + t.number - 1, t.event, t.hash
        FROM unnest(events, hashes) WITH ORDINALITY AS t(event, hash, number)
        JOIN waiting w ON w.event = t.event
        JOIN event e ON e.id = t.event AND e.leaf_hash = t.hash;
    GET DIAGNOSTICS sealed = ROW_COUNT;
    IF sealed <> cardinality(events) THEN
        RAISE EXCEPTION 'only events that wait are sealed, under their own hash';
    END IF;
END
$$;
REVOKE EXECUTE ON FUNCTION event_waits, seal_events FROM PUBLIC;
GRANT EXECUTE ON FUNCTION seal_events TO ${runningRole};
REVOKE INSERT, UPDATE, DELETE ON event_pending, event_leaf FROM ${runningRole};

-- At the start the service looks whether the migrations were run.
GRANT SELECT ON "${flyway:table}" TO ${runningRole};
