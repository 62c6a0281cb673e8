-- The leaf of version 2 seals the reference, by which mails and callers name an attempt, and how long the event is kept.
ALTER TABLE event ADD COLUMN leaf_version int NOT NULL DEFAULT 1, ADD COLUMN reference text;

-- Nothing of the record is removed but by the functions below.
DROP TRIGGER event_append_only ON event;
CREATE TRIGGER event_append_only BEFORE UPDATE OR DELETE ON event FOR EACH ROW EXECUTE FUNCTION record_is_append_only();

-- What a cut or an erasure took out: the event that tells of it seals the SHA-256 of the list.
CREATE TABLE record_gone (
    event uuid PRIMARY KEY,
    list  text NOT NULL
);
GRANT SELECT ON record_gone TO ${runningRole};

CREATE FUNCTION record_gives_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF coalesce(current_setting('entente.retention', true), '') <> 'on' THEN
        RAISE EXCEPTION 'values and lists of the record go by its functions alone';
    END IF;
    RETURN OLD;
END
$$;
CREATE TRIGGER personal_kept BEFORE UPDATE OR DELETE ON event_personal FOR EACH ROW EXECUTE FUNCTION record_gives_only();
CREATE TRIGGER gone_kept BEFORE UPDATE OR DELETE ON record_gone FOR EACH ROW EXECUTE FUNCTION record_gives_only();

-- Positions as the list has them, [[first,last],…], and back.
CREATE FUNCTION listed_positions(positions int8multirange) RETURNS text LANGUAGE sql IMMUTABLE AS $$
    SELECT '[' || coalesce(string_agg(format('[%s,%s]', lower(r), upper(r) - 1), ',' ORDER BY lower(r)), '') || ']'
        FROM unnest(positions) AS r
$$;
CREATE FUNCTION positions_listed(list jsonb) RETURNS int8multirange LANGUAGE sql IMMUTABLE AS $$
    SELECT coalesce(range_agg(int8range((p ->> 0)::bigint, (p ->> 1)::bigint + 1)), '{}') FROM jsonb_array_elements(list) AS p
$$;

-- An event of the retention functions, in their transaction, as AuditEvent hashes it. Data is in canonical form and holds no personal value.
CREATE FUNCTION record_event(what text, data text, administrator text) RETURNS uuid
    LANGUAGE plpgsql SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    this   uuid := gen_random_uuid();
    moment timestamptz := date_trunc('milliseconds', entente_time());
    salt   bytea := substring(sha256(uuid_send(gen_random_uuid()) || uuid_send(gen_random_uuid())) FOR 16);
    sealed text := '{}';
BEGIN
    IF administrator IS NOT NULL THEN
        sealed := format('{"administrator":"%s"}',
            encode(sha256(salt || convert_to('administrator', 'UTF8') || '\x00'::bytea || convert_to(administrator, 'UTF8')), 'hex'));
        INSERT INTO event_personal (event, name, value, salt) VALUES (this, 'administrator', administrator, salt);
        INSERT INTO event_term (term, at, event)
            VALUES ('administrator:' || left(lower(btrim(administrator)), 120), moment, this);
    END IF;
    INSERT INTO event_term (term, at, event) VALUES ('kind:' || what, moment, this);
    INSERT INTO event (id, retention_class, occurred_at, kind, attempt, reference, ordinal, revision, data, commitments,
            leaf_version, leaf_hash)
        VALUES (this, 'administration', moment, what, NULL, NULL, 0, 0, data::jsonb, sealed::jsonb, 2,
            sha256('\x00'::bytea || convert_to(format('{"at":%s,"attempt":null,"data":%s,"id":"%s","kept":"administration",'
                || '"kind":"%s","ordinal":0,"personal":%s,"reference":null,"revision":0,"v":2}',
                floor(extract(epoch FROM moment) * 1000)::bigint, data, this, what, sealed), 'UTF8')));
    RETURN this;
END
$$;

-- What an event took out, beside it.
CREATE FUNCTION record_gone_by(what text, data text, administrator text, list text) RETURNS void
    LANGUAGE plpgsql SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
BEGIN
    INSERT INTO record_gone (event, list) VALUES (
        record_event(what, replace(data, '"gone":""', format('"gone":"%s"', encode(sha256(convert_to(list, 'UTF8')), 'hex'))),
            administrator), list);
END
$$;

CREATE FUNCTION list_of(events int8multirange, by_name jsonb) RETURNS text LANGUAGE sql IMMUTABLE
    SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT format('{"events":%s,"values":{%s}}', listed_positions(events), coalesce((
        SELECT string_agg(format('%s:%s', to_json(n.key)::text, listed_positions(positions_listed(n.value))), ',' ORDER BY n.key)
            FROM jsonb_each(by_name) AS n), ''))
$$;

-- Accounts once for everything that was missing before lists existed. Why it is missing can no longer be determined.
DO $$
DECLARE
    events int8multirange;
    names  jsonb;
BEGIN
    SELECT coalesce(range_agg(int8range(l.seq, l.seq + 1)), '{}') INTO events FROM event_leaf l
        LEFT JOIN event e ON e.id = l.event AND e.occurred_at = l.at WHERE e.id IS NULL;
    SELECT coalesce(jsonb_object_agg(v.name, v.positions), '{}') INTO names FROM (
        SELECT c.name, listed_positions(range_agg(int8range(l.seq, l.seq + 1)))::jsonb AS positions
            FROM event_leaf l JOIN event e ON e.id = l.event AND e.occurred_at = l.at
                CROSS JOIN LATERAL jsonb_object_keys(e.commitments) AS c(name)
                LEFT JOIN event_personal p ON p.event = e.id AND p.name = c.name
            WHERE p.event IS NULL GROUP BY c.name) v;
    IF NOT isempty(events) OR names <> '{}' THEN
        PERFORM record_gone_by('record.gaps', format('{"events":%s,"gone":"","values":%s}',
            (SELECT coalesce(sum(upper(r) - lower(r)), 0) FROM unnest(events) AS r),
            (SELECT coalesce(sum(upper(r) - lower(r)), 0) FROM jsonb_each(names) AS n, unnest(positions_listed(n.value)) AS r)),
            NULL, list_of(events, names));
    END IF;
END
$$;

-- The running role asks; whom it concerns follows from the person alone. What was asked before in words of the service is derived anew.
REVOKE INSERT ON erasure FROM ${runningRole};
GRANT INSERT (id, reason, login, person, requested_by, requested_at) ON erasure TO ${runningRole};
REVOKE INSERT ON legal_hold FROM ${runningRole};
GRANT INSERT (id, reason, login, person, attempt, since, until, placed_by, placed_at) ON legal_hold TO ${runningRole};
REVOKE UPDATE (lifted_by, lifted_at) ON legal_hold FROM ${runningRole};
REVOKE UPDATE (told_at) ON erasure FROM ${runningRole};
REVOKE UPDATE (told_at) ON record_cut FROM ${runningRole};
ALTER TABLE erasure ALTER COLUMN terms SET DEFAULT '{}';
ALTER TABLE legal_hold ALTER COLUMN terms SET DEFAULT '{}';
DROP FUNCTION words_of(uuid, text[]);

-- The names of a person: those in directories and the one that was typed, without names that another person has too.
CREATE FUNCTION names_of(whom uuid, typed text) RETURNS text[]
    LANGUAGE sql STABLE SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT ARRAY(SELECT DISTINCT n.name FROM (
            SELECT login_key AS name FROM known_login WHERE person = whom
            UNION SELECT lower(btrim(typed)) WHERE typed IS NOT NULL) n
        WHERE n.name <> '' AND NOT EXISTS (SELECT FROM known_login k WHERE k.login_key = n.name AND k.person IS DISTINCT FROM whom))
$$;
CREATE FUNCTION words_of(whom uuid, typed text) RETURNS text[]
    LANGUAGE sql STABLE SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT ARRAY(SELECT 'login:' || left(n, 120) FROM unnest(names_of(whom, typed)) AS n
        UNION SELECT 'person:' || whom WHERE whom IS NOT NULL)
$$;

-- An expression that finds one of these as words of their own; null for none.
CREATE FUNCTION words_like(names text[]) RETURNS text LANGUAGE sql IMMUTABLE AS $$
    SELECT '(^|[^[:alnum:]._-])(' || string_agg(regexp_replace(n, '([^[:alnum:] ])', '\\\1', 'g'), '|')
        || ')($|[^[:alnum:]._-]|[._-]($|[^[:alnum:]]))' FROM unnest(names) AS n WHERE n <> ''
$$;

-- A request that waits already, for the same person or name.
CREATE FUNCTION erasure_waits(whom uuid, typed text) RETURNS boolean
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
    SELECT EXISTS (SELECT FROM erasure WHERE done_at IS NULL AND (person = whom OR words_of(person, login) && words_of(whom, typed)))
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
    DELETE FROM event_term t USING concerned c WHERE t.event = c.id AND t.at = c.at
        AND (t.term LIKE 'login:%' OR t.term LIKE 'network:%' OR t.term LIKE 'person:%' OR t.term LIKE 'name:%');
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

CREATE OR REPLACE FUNCTION cut_month(class text, of_month date) RETURNS text
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
DECLARE
    part    text := 'event_' || class || to_char(of_month, '_YYYY_MM');
    first   timestamptz := date_trunc('month', of_month)::date::timestamptz;
    next    timestamptz := (date_trunc('month', of_month) + interval '1 month')::date::timestamptz;
    many    bigint;
    places  int8multirange;
    before  int8multirange;
    names   jsonb;
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
            OR EXISTS (SELECT FROM concerned_events(words_of(h.person, h.login)) c WHERE c.class = cut_month.class AND c.at >= first
                AND c.at < next))) THEN
        RETURN 'held';
    END IF;
    EXECUTE format('SELECT count(*), coalesce(range_agg(int8range(l.seq, l.seq + 1)), ''{}'') FROM %I e'
        || ' LEFT JOIN event_leaf l ON l.event = e.id', part) INTO many, places;
    -- Lists of the events being cut are repeated in the list of this cut.
    EXECUTE format('SELECT coalesce(range_agg(r), ''{}'') FROM record_gone g JOIN %I e ON e.id = g.event,'
        || ' unnest(positions_listed(g.list::jsonb -> ''events'')) AS r', part) INTO before;
    EXECUTE format('SELECT coalesce(jsonb_object_agg(n.name, n.positions), ''{}'') FROM (SELECT v.key AS name,'
        || ' listed_positions(range_agg(r))::jsonb AS positions FROM record_gone g JOIN %I e ON e.id = g.event,'
        || ' jsonb_each(g.list::jsonb -> ''values'') AS v, unnest(positions_listed(v.value)) AS r GROUP BY v.key) n', part) INTO names;
    PERFORM set_config('entente.retention', 'on', true);
    EXECUTE format('DELETE FROM event_personal WHERE event IN (SELECT id FROM %I)', part);
    EXECUTE format('DELETE FROM record_gone WHERE event IN (SELECT id FROM %I)', part);
    PERFORM set_config('entente.retention', 'off', true);
    EXECUTE format('DELETE FROM event_term t USING %I e WHERE t.event = e.id AND t.at = e.occurred_at', part);
    EXECUTE format('DROP TABLE %I', part);
    INSERT INTO record_cut (retention_class, month, events, cut_at, told_at)
        VALUES (class, of_month, many, entente_time(), entente_time());
    PERFORM record_gone_by('record.cut', format('{"events":%s,"gone":"","kept":"%s","month":"%s"}',
        many, class, to_char(of_month, 'YYYY-MM')), NULL, list_of(places + before, names));
    RETURN 'cut';
END
$$;

-- Lifting a hold is on record with who did, whatever the service says.
CREATE FUNCTION lift_hold(which uuid, administrator text) RETURNS boolean
    LANGUAGE plpgsql SECURITY DEFINER SET search_path = ${flyway:defaultSchema}, pg_temp AS $$
BEGIN
    UPDATE legal_hold SET lifted_by = administrator, lifted_at = entente_time() WHERE id = which AND lifted_at IS NULL;
    IF NOT FOUND THEN
        RETURN false;
    END IF;
    PERFORM record_event('hold.lifted', format('{"hold":"%s"}', which), administrator);
    RETURN true;
END
$$;

REVOKE EXECUTE ON FUNCTION record_gives_only, listed_positions, positions_listed, record_event, record_gone_by, list_of, names_of,
    words_of, words_like, erasure_waits, lift_hold FROM PUBLIC;
GRANT EXECUTE ON FUNCTION erasure_waits, lift_hold TO ${runningRole};
