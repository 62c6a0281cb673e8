-- Words that an event can be found by stand among its terms: word:… of its names and texts, name:… of values that name somebody. They are
-- found by how they begin, so that their order is that of their characters, whatever the database's.
ALTER TABLE event_term ALTER COLUMN term TYPE text COLLATE "C";

-- Events of before.
INSERT INTO event_term (term, at, event)
    SELECT DISTINCT 'word:' || left(w, 40), e.occurred_at, e.id
        FROM event e, jsonb_each_text(e.data) d, regexp_split_to_table(lower(normalize(d.value, NFKC)), '[^[:alnum:]]+') AS w
        WHERE length(w) > 1
    UNION SELECT 'name:' || left(w, 40), e.occurred_at, e.id
        FROM event e JOIN event_personal p ON p.event = e.id,
            regexp_split_to_table(lower(normalize(p.value, NFKC)), '[^[:alnum:]]+') AS w
        WHERE length(w) > 1
    ON CONFLICT DO NOTHING;

-- The same as before, and names go with the values that they were made of.
CREATE OR REPLACE FUNCTION erase_person(request uuid) RETURNS text
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
        AND (t.term LIKE 'login:%' OR t.term LIKE 'network:%' OR t.term LIKE 'person:%' OR t.term LIKE 'name:%');
    UPDATE erasure SET done_at = entente_time(), held_by = NULL, login = NULL, terms = '{}', values_gone = gone,
        events = (SELECT count(*) FROM concerned), first_at = (SELECT min(at) FROM concerned),
        last_at = (SELECT max(at) FROM concerned) WHERE id = request;
    DROP TABLE concerned;
    RETURN 'done';
END
$$;

-- What administrators look for again and again, for all of them.
CREATE TABLE saved_search (
    name     text PRIMARY KEY,
    filters  jsonb NOT NULL,
    saved_by text NOT NULL,
    saved_at timestamptz NOT NULL
);
GRANT SELECT, INSERT, UPDATE, DELETE ON saved_search TO ${runningRole};
