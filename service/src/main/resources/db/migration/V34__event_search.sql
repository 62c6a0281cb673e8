-- What an event can be found by: words such as kind:order.done, directory:shore and login:astrid, newest first for each. Personal ones
-- go with the value that they were made of.
CREATE TABLE event_term (
    term  text NOT NULL,
    at    timestamptz NOT NULL,
    event uuid NOT NULL,
    PRIMARY KEY (term, at, event)
);
GRANT SELECT, INSERT ON event_term TO ${runningRole};
GRANT SELECT, DELETE ON event_term TO ${retentionRole};

-- Events of before, by what they say; texts are not searched.
INSERT INTO event_term (term, at, event)
    SELECT 'kind:' || kind, occurred_at, id FROM event
    UNION SELECT d.key || ':' || lower(d.value #>> '{}'), e.occurred_at, e.id FROM event e, jsonb_each(e.data) d
        WHERE jsonb_typeof(d.value) = 'string' AND length(d.value #>> '{}') BETWEEN 1 AND 120
        AND d.key NOT IN ('why', 'says', 'reason', 'detail', 'result', 'before', 'after', 'what', 'until', 'at')
    UNION SELECT p.name || ':' || lower(p.value), e.occurred_at, e.id FROM event e JOIN event_personal p ON p.event = e.id
        WHERE p.name IN ('administrator', 'login', 'network', 'account') AND length(p.value) BETWEEN 1 AND 120;

-- people: by which names somebody is known
CREATE VIEW known_login AS SELECT a.person, l.login_key FROM account a JOIN account_login l ON l.account = a.id;
GRANT SELECT ON known_login TO ${runningRole};
