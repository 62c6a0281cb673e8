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
CREATE INDEX event_by_time ON event (occurred_at, id);

-- Events of before.
INSERT INTO event_term (term, at, event)
    SELECT 'kind:' || kind, occurred_at, id FROM event
    UNION SELECT d.key || ':' || left(lower(btrim(d.value)), 120), e.occurred_at, e.id FROM event e, jsonb_each_text(e.data) d
        WHERE d.key IN ('administrator', 'login', 'person', 'directory', 'steward', 'method', 'policy', 'network', 'cause',
            'state', 'message') AND btrim(d.value) <> ''
    UNION SELECT p.name || ':' || left(lower(btrim(p.value)), 120), e.occurred_at, e.id
        FROM event e JOIN event_personal p ON p.event = e.id
        WHERE p.name IN ('administrator', 'login', 'person', 'network') AND btrim(p.value) <> '';

-- people: by which names somebody is known
CREATE VIEW known_login AS SELECT a.person, l.login_key FROM account a JOIN account_login l ON l.account = a.id;
GRANT SELECT ON known_login TO ${runningRole};
