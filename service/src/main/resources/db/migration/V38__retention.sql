-- How long what is kept: what has to be kept whatever else is said, whose values are to go, and what went. What removes anything is a
-- function that looks at the holds in the same transaction; the retention role may do nothing but call it.
CREATE TABLE legal_hold (
    id        uuid PRIMARY KEY,
    reason    text NOT NULL,
    login     text,
    person    uuid,
    terms     text[] NOT NULL,
    attempt   uuid,
    since     timestamptz,
    until     timestamptz,
    placed_by text NOT NULL,
    placed_at timestamptz NOT NULL,
    lifted_by text,
    lifted_at timestamptz
);
CREATE TABLE erasure (
    id           uuid PRIMARY KEY,
    reason       text NOT NULL,
    login        text,
    person       uuid,
    terms        text[] NOT NULL,
    requested_by text NOT NULL,
    requested_at timestamptz NOT NULL,
    held_by      uuid,
    done_at      timestamptz,
    told_at      timestamptz,
    events       bigint,
    values_gone  bigint,
    first_at     timestamptz,
    last_at      timestamptz
);
CREATE TABLE record_cut (
    retention_class text NOT NULL,
    month           date NOT NULL,
    events          bigint NOT NULL,
    cut_at          timestamptz NOT NULL,
    told_at         timestamptz,
    PRIMARY KEY (retention_class, month)
);
CREATE TABLE retention_run (
    at             timestamptz PRIMARY KEY,
    attempt        int NOT NULL,
    administration int NOT NULL,
    operation      int NOT NULL,
    held           int NOT NULL
);
GRANT SELECT, INSERT ON legal_hold, erasure TO ${runningRole};
GRANT UPDATE (lifted_by, lifted_at) ON legal_hold TO ${runningRole};
GRANT UPDATE (told_at) ON erasure, record_cut TO ${runningRole};
GRANT SELECT ON record_cut, retention_run TO ${runningRole};
GRANT SELECT ON erasure, legal_hold, record_cut TO ${retentionRole};
GRANT INSERT ON retention_run TO ${retentionRole};
-- Where no retention role is named, it is the owner's, who keeps what is theirs.
DO $$
BEGIN
    IF current_user <> trim(BOTH '"' FROM '${retentionRole}') THEN
        REVOKE DELETE ON event_personal, event_term, event_subtree FROM ${retentionRole};
    END IF;
END
$$;

-- audit: what nothing may remove for now
CREATE VIEW hold_in_force AS SELECT id, person, attempt, since, until FROM legal_hold WHERE lifted_at IS NULL;
GRANT SELECT ON hold_in_force TO ${runningRole};

-- Events that bear one of these words, and all of the attempts that they belong to.
CREATE FUNCTION concerned_events(words text[]) RETURNS TABLE (id uuid, at timestamptz, class text)
    LANGUAGE sql STABLE SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    WITH named AS (
        SELECT e.id, e.occurred_at, e.retention_class, e.attempt FROM event_term t
            JOIN event e ON e.id = t.event AND e.occurred_at = t.at
            WHERE t.term = ANY(words) AND e.kind NOT LIKE 'administrator.%')
    SELECT n.id, n.occurred_at, n.retention_class FROM named n
    UNION SELECT e.id, e.occurred_at, e.retention_class FROM event e
        WHERE e.attempt IN (SELECT n.attempt FROM named n WHERE n.attempt IS NOT NULL)
$$;

-- The words of somebody, with the names by which they are known meanwhile.
CREATE FUNCTION words_of(whom uuid, words text[]) RETURNS text[]
    LANGUAGE sql STABLE SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT words || ARRAY(SELECT 'login:' || left(login_key, 120) FROM known_login WHERE person = whom)
$$;

-- Takes a person's values out of the record, unless something of it is on hold. Hashes stay as they were: they are of commitments.
CREATE FUNCTION erase_person(request uuid) RETURNS text
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    wanted erasure%ROWTYPE;
    hold   uuid;
    gone   bigint;
BEGIN
    -- Nobody places a hold meanwhile.
    LOCK TABLE legal_hold IN SHARE MODE;
    SELECT * INTO wanted FROM erasure WHERE id = request AND done_at IS NULL FOR UPDATE;
    IF NOT FOUND THEN
        RETURN 'nothing';
    END IF;
    -- A name that means somebody else as well is left out: their values would go, too.
    wanted.terms := ARRAY(SELECT t.word FROM unnest(words_of(wanted.person, wanted.terms)) AS t(word)
        WHERE NOT EXISTS (SELECT FROM known_login k WHERE 'login:' || left(k.login_key, 120) = t.word
            AND k.person IS DISTINCT FROM wanted.person));
    CREATE TEMP TABLE concerned ON COMMIT DROP AS SELECT * FROM concerned_events(wanted.terms);
    SELECT h.id INTO hold FROM legal_hold h WHERE h.lifted_at IS NULL AND (
        h.person = wanted.person OR h.terms && wanted.terms
        OR EXISTS (SELECT FROM concerned c WHERE h.since IS NOT NULL AND c.at >= h.since
            AND c.at < coalesce(h.until, 'infinity'))
        OR EXISTS (SELECT FROM concerned c JOIN event e ON e.id = c.id AND e.occurred_at = c.at WHERE e.attempt = h.attempt)
        OR EXISTS (SELECT FROM concerned c JOIN concerned_events(words_of(h.person, h.terms)) o ON o.id = c.id)) LIMIT 1;
    IF FOUND THEN
        UPDATE erasure SET held_by = hold WHERE id = request;
        DROP TABLE concerned;
        RETURN 'held';
    END IF;
    WITH removed AS (
        DELETE FROM event_personal p USING concerned c WHERE p.event = c.id AND p.name <> 'administrator' RETURNING 1)
    SELECT count(*) INTO gone FROM removed;
    DELETE FROM event_term t USING concerned c WHERE t.event = c.id AND t.at = c.at
        AND (t.term LIKE 'login:%' OR t.term LIKE 'network:%' OR t.term LIKE 'person:%');
    UPDATE erasure SET done_at = entente_time(), held_by = NULL, login = NULL, terms = '{}', values_gone = gone,
        events = (SELECT count(*) FROM concerned), first_at = (SELECT min(at) FROM concerned),
        last_at = (SELECT max(at) FROM concerned) WHERE id = request;
    DROP TABLE concerned;
    RETURN 'done';
END
$$;

-- Which months of the record there are, oldest first.
CREATE FUNCTION event_months() RETURNS TABLE (class text, month date)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT substring(c.relname FROM '^event_(.*)_\d{4}_\d\d$'), to_date(right(c.relname, 7), 'YYYY_MM')
        FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
        WHERE i.inhparent IN ('event_attempt'::regclass, 'event_administration'::regclass, 'event_operation'::regclass)
            AND c.relname ~ '_\d{4}_\d\d$'
        ORDER BY 2, 1
$$;

-- Cuts off a month of one class, unless something in it is on hold. The hashes of its events stay, so the rest is proven as before.
CREATE FUNCTION cut_month(class text, of_month date) RETURNS text
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    part  text := 'event_' || class || to_char(of_month, '_YYYY_MM');
    first timestamptz := date_trunc('month', of_month)::date::timestamptz;
    next  timestamptz := (date_trunc('month', of_month) + interval '1 month')::date::timestamptz;
    many  bigint;
BEGIN
    IF class NOT IN ('attempt', 'administration', 'operation') OR to_regclass(part) IS NULL OR next > entente_time() THEN
        RETURN 'nothing';
    END IF;
    IF EXISTS (SELECT FROM event_pending WHERE occurred_at >= first AND occurred_at < next) THEN
        RETURN 'nothing';
    END IF;
    LOCK TABLE legal_hold IN SHARE MODE;
    IF EXISTS (
        SELECT FROM legal_hold h WHERE h.lifted_at IS NULL AND (
            h.since IS NOT NULL AND h.since < next AND coalesce(h.until, 'infinity') > first
            OR h.attempt IS NOT NULL AND EXISTS (SELECT FROM event e WHERE e.attempt = h.attempt
                AND e.retention_class = class AND e.occurred_at >= first AND e.occurred_at < next)
            OR EXISTS (SELECT FROM concerned_events(words_of(h.person, h.terms)) c WHERE c.class = cut_month.class AND c.at >= first
                AND c.at < next))) THEN
        RETURN 'held';
    END IF;
    EXECUTE format('DELETE FROM event_personal WHERE event IN (SELECT id FROM %I)', part);
    EXECUTE format('DELETE FROM event_term t USING %I e WHERE t.event = e.id AND t.at = e.occurred_at', part);
    EXECUTE format('SELECT count(*) FROM %I', part) INTO many;
    EXECUTE format('DROP TABLE %I', part);
    INSERT INTO record_cut (retention_class, month, events, cut_at) VALUES (class, of_month, many, entente_time());
    RETURN 'cut';
END
$$;
REVOKE EXECUTE ON FUNCTION concerned_events, words_of, erase_person, event_months, cut_month FROM PUBLIC;
GRANT EXECUTE ON FUNCTION erase_person, event_months, cut_month TO ${retentionRole};
