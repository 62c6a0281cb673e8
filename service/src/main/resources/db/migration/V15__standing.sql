-- What changes rarely is kept in memory by every node. Each part of it has a stamp here, which the transaction that changes the
-- part replaces by its own number: whoever reads the stamp knows whether what it keeps is still what is committed.
CREATE TABLE standing (
    topic text PRIMARY KEY,
    changed_by xid8 NOT NULL DEFAULT pg_current_xact_id()
);
INSERT INTO standing (topic) VALUES ('directory'), ('people'), ('steward'), ('stop'), ('channel'), ('revision');
GRANT SELECT ON standing TO ${runningRole};

-- The setting tells the rest of the transaction that what it reads now may be its own and not committed.
CREATE FUNCTION standing_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    UPDATE standing SET changed_by = pg_current_xact_id()
        WHERE topic = ANY(TG_ARGV) AND changed_by <> pg_current_xact_id();
    PERFORM set_config('entente.changes', 'yes', true);
    RETURN NULL;
END $$;
REVOKE ALL ON FUNCTION standing_changed() FROM PUBLIC;

CREATE TRIGGER standing_added AFTER INSERT OR DELETE ON directory
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('directory', 'people');
CREATE TRIGGER standing_directory AFTER UPDATE ON directory FOR EACH ROW WHEN (
    (OLD.name, OLD.title, OLD.kind, OLD.operator_key, OLD.roster, OLD.suspended_at, OLD.trust, OLD.removed_at, OLD.attributes)
    IS DISTINCT FROM
    (NEW.name, NEW.title, NEW.kind, NEW.operator_key, NEW.roster, NEW.suspended_at, NEW.trust, NEW.removed_at, NEW.attributes))
    EXECUTE FUNCTION standing_changed('directory');
CREATE TRIGGER standing_people AFTER UPDATE ON directory FOR EACH ROW WHEN (
    (OLD.changed_at, OLD.removed_at, OLD.protected_groups, OLD.name, OLD.trust) IS DISTINCT FROM
    (NEW.changed_at, NEW.removed_at, NEW.protected_groups, NEW.name, NEW.trust))
    EXECUTE FUNCTION standing_changed('people');
CREATE TRIGGER standing_added AFTER INSERT OR DELETE ON steward
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('steward');
CREATE TRIGGER standing_steward AFTER UPDATE ON steward FOR EACH ROW WHEN (
    (OLD.name, OLD.directory, OLD.identity_key, OLD.retired_at) IS DISTINCT FROM
    (NEW.name, NEW.directory, NEW.identity_key, NEW.retired_at)) EXECUTE FUNCTION standing_changed('steward');
CREATE TRIGGER standing_keys AFTER INSERT OR UPDATE OR DELETE ON sealing_key
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('steward');
CREATE TRIGGER standing_stops AFTER INSERT OR UPDATE OR DELETE ON stop
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('stop');
CREATE TRIGGER standing_channel AFTER INSERT OR UPDATE OR DELETE ON channel_state
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('channel');
CREATE TRIGGER standing_channel AFTER INSERT OR UPDATE OR DELETE ON mail_channel
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('channel');
CREATE TRIGGER standing_revision AFTER INSERT OR DELETE ON revision
    FOR EACH STATEMENT EXECUTE FUNCTION standing_changed('revision');

-- What is told of a delivery or a message belongs to it: nobody has to ask another feature for each event.
ALTER TABLE delivery ADD COLUMN revision int, ADD COLUMN policy text, ADD COLUMN reference text, ADD COLUMN login text;
UPDATE delivery d SET revision = a.revision, policy = a.policy, reference = a.reference,
    login = coalesce((SELECT c.login FROM account c WHERE c.id = d.account), 'a removed account')
    FROM attempt a WHERE a.id = d.attempt;
ALTER TABLE delivery ALTER COLUMN revision SET NOT NULL, ALTER COLUMN policy SET NOT NULL,
    ALTER COLUMN reference SET NOT NULL, ALTER COLUMN login SET NOT NULL;
ALTER TABLE notification ADD COLUMN revision int NOT NULL DEFAULT 0;
UPDATE notification n SET revision = a.revision FROM attempt a WHERE a.id = n.attempt;

-- Looking for what a ciphertext is still needed for reads no whole table.
CREATE INDEX delivery_by_seal ON delivery (sealed) WHERE sealed IS NOT NULL;

-- What waits to be sealed says in which partition it is, and under which hash it was written.
ALTER TABLE event_pending ADD COLUMN retention_class text, ADD COLUMN occurred_at timestamptz, ADD COLUMN leaf_hash bytea;
UPDATE event_pending p SET retention_class = e.retention_class, occurred_at = e.occurred_at, leaf_hash = e.leaf_hash
    FROM event e WHERE e.id = p.event;
ALTER TABLE event_pending ALTER COLUMN retention_class SET NOT NULL, ALTER COLUMN occurred_at SET NOT NULL,
    ALTER COLUMN leaf_hash SET NOT NULL;
CREATE OR REPLACE FUNCTION event_waits() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT AS $$
BEGIN
    INSERT INTO event_pending (event, retention_class, occurred_at, leaf_hash)
        VALUES (NEW.id, NEW.retention_class, NEW.occurred_at, NEW.leaf_hash);
    RETURN NULL;
END
$$;
CREATE OR REPLACE FUNCTION seal_events(first_position bigint, events uuid[], hashes bytea[]) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT AS $$
DECLARE
    sealed bigint;
BEGIN
    IF first_position <> (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) THEN
        RAISE EXCEPTION 'events are sealed at the next position, which is another one';
    END IF;
    WITH waiting AS (DELETE FROM event_pending WHERE event = ANY(events) RETURNING event, leaf_hash)
    INSERT INTO event_leaf (seq, event, leaf_hash)
        SELECT first_position + t.number - 1, t.event, t.hash
        FROM unnest(events, hashes) WITH ORDINALITY AS t(event, hash, number)
        JOIN waiting w ON w.event = t.event AND w.leaf_hash = t.hash;
    GET DIAGNOSTICS sealed = ROW_COUNT;
    IF sealed <> cardinality(events) THEN
        RAISE EXCEPTION 'only events that wait are sealed, under their own hash';
    END IF;
END
$$;
