-- Events that one transaction writes at one moment, under the same retention class, share a row for each word that they have in
-- common: one of them and the others.
ALTER TABLE event_term ADD COLUMN others uuid[];
ALTER TABLE event_term DROP CONSTRAINT event_term_pkey, ADD PRIMARY KEY (term, at, event) INCLUDE (others);

CREATE VIEW event_word AS SELECT t.term, t.at, e.event FROM event_term t
    CROSS JOIN LATERAL unnest(array_prepend(t.event, t.others)) AS e(event);
GRANT SELECT ON event_word TO ${runningRole};

CREATE OR REPLACE FUNCTION concerned_events(words text[]) RETURNS TABLE (id uuid, at timestamptz, class text)
    LANGUAGE sql STABLE SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    WITH named AS (
        SELECT e.id, e.occurred_at, e.retention_class, e.attempt FROM event_word t
            JOIN event e ON e.id = t.event AND e.occurred_at = t.at
            WHERE t.term = ANY(words) AND e.kind NOT LIKE 'administrator.%')
    SELECT n.id, n.occurred_at, n.retention_class FROM named n
    UNION SELECT e.id, e.occurred_at, e.retention_class FROM event e
        WHERE e.attempt IN (SELECT n.attempt FROM named n WHERE n.attempt IS NOT NULL)
$$;

CREATE OR REPLACE FUNCTION erase_person(request uuid) RETURNS text
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    wanted  erasure%ROWTYPE;
    words   text[];
    mention text;
    typed   text;
    hold    uuid;
    gone    bigint;
    names   jsonb;
BEGIN
    -- Keeps new holds out meanwhile.
    LOCK TABLE legal_hold IN SHARE MODE;
    SELECT * INTO wanted FROM erasure WHERE id = request AND done_at IS NULL FOR UPDATE;
    IF NOT FOUND THEN
        RETURN 'nothing';
    END IF;
    words := words_of(wanted.person, wanted.login);
    -- Values that contain one of the names as whole words, such as searches and alerts. A typed name that no directory has must be the
    -- whole value, and very short names are ignored, because they could be any word.
    mention := words_like(ARRAY(SELECT n FROM unnest(names_of(wanted.person, NULL)
            || ARRAY(SELECT lower(btrim(p.display_name)) FROM person p WHERE p.id = wanted.person AND NOT EXISTS (
                SELECT FROM person o WHERE lower(btrim(o.display_name)) = lower(btrim(p.display_name)) AND o.id <> p.id))) AS n
            WHERE n ~ '[[:alpha:]]' AND length(n) > 2));
    typed := words_like(names_of(wanted.person, wanted.login));
    CREATE TEMP TABLE concerned ON COMMIT DROP AS
        SELECT c.id, c.at, c.class, NULL::text AS name FROM concerned_events(words) c;
    -- Of all other events the values alone that say the name.
    INSERT INTO concerned SELECT e.id, e.occurred_at, e.retention_class, p.name FROM event_personal p JOIN event e ON e.id = p.event
        WHERE p.name NOT IN ('administrator', 'approver', 'author', 'network', 'recipient')
            AND (lower(p.value) ~ mention OR lower(p.value) = ANY (names_of(wanted.person, wanted.login))
                OR p.name = 'asked' AND lower(p.value) ~ typed)
            AND NOT EXISTS (SELECT FROM concerned c WHERE c.id = p.event);
    IF EXISTS (SELECT FROM concerned c JOIN event_pending w ON w.event = c.id) THEN
        DROP TABLE concerned;
        RETURN 'waits';
    END IF;
    SELECT h.id INTO hold FROM legal_hold h WHERE h.lifted_at IS NULL AND (
        h.person = wanted.person OR words_of(h.person, h.login) && words
        OR EXISTS (SELECT FROM concerned c WHERE h.since IS NOT NULL AND c.at >= h.since
            AND c.at < coalesce(h.until, 'infinity'))
        OR EXISTS (SELECT FROM concerned c JOIN event e ON e.id = c.id AND e.occurred_at = c.at WHERE e.attempt = h.attempt)
        OR EXISTS (SELECT FROM concerned c JOIN concerned_events(words_of(h.person, h.login)) o ON o.id = c.id)) LIMIT 1;
    IF FOUND THEN
        UPDATE erasure SET held_by = hold WHERE id = request;
        DROP TABLE concerned;
        RETURN 'held';
    END IF;
    PERFORM set_config('entente.retention', 'on', true);
    WITH removed AS (
        DELETE FROM event_personal p USING concerned c WHERE p.event = c.id AND p.name = coalesce(c.name, p.name)
            AND p.name NOT IN ('administrator', 'approver', 'author') RETURNING p.event, p.name),
    placed AS (SELECT r.name, listed_positions(range_agg(int8range(l.seq, l.seq + 1)))::jsonb AS positions, count(*) AS many
        FROM removed r JOIN event_leaf l ON l.event = r.event GROUP BY r.name)
    SELECT coalesce(jsonb_object_agg(name, positions), '{}'), coalesce(sum(many), 0) INTO names, gone FROM placed;
    PERFORM set_config('entente.retention', 'off', true);
    -- Other events in the same row keep the word.
    WITH removed AS (
        DELETE FROM event_term t WHERE (t.term LIKE 'login:%' OR t.term LIKE 'network:%' OR t.term LIKE 'person:%'
                OR t.term LIKE 'name:%')
            AND EXISTS (SELECT FROM concerned c WHERE c.at = t.at AND (c.id = t.event OR c.id = ANY (t.others)))
            RETURNING t.term, t.at, t.event, t.others),
    kept AS (SELECT r.term, r.at, array_agg(e.event) AS events
        FROM removed r CROSS JOIN LATERAL unnest(array_prepend(r.event, r.others)) AS e(event)
        WHERE NOT EXISTS (SELECT FROM concerned c WHERE c.id = e.event) GROUP BY r.term, r.at, r.event)
    INSERT INTO event_term (term, at, event, others) SELECT term, at, events[1], nullif(events[2:], '{}') FROM kept;
    -- Beside the record: what was on hold once, and what administrators look for again and again.
    UPDATE legal_hold SET login = NULL, person = NULL, terms = '{}'
        WHERE lifted_at IS NOT NULL AND (person = wanted.person OR words_of(person, login) && words);
    DELETE FROM saved_search WHERE lower(filters ->> 'person') = ANY (SELECT substring(w FROM 7) FROM unnest(words) w
        WHERE w LIKE 'login:%') OR coalesce(lower(filters ->> 'text') ~ mention, false);
    UPDATE erasure SET done_at = entente_time(), told_at = entente_time(), held_by = NULL, login = NULL, terms = '{}',
        values_gone = gone, events = (SELECT count(DISTINCT id) FROM concerned), first_at = (SELECT min(at) FROM concerned),
        last_at = (SELECT max(at) FROM concerned) WHERE id = request RETURNING * INTO wanted;
    PERFORM record_gone_by('erasure.done', format('{"erasure":"%s","events":%s,"gone":"","values":%s}',
        wanted.id, wanted.events, wanted.values_gone), wanted.requested_by, list_of('{}', names));
    DROP TABLE concerned;
    RETURN 'done';
END
$$;
