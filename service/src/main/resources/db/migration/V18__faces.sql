-- What features let others read in SQL. A table belongs to one feature and nobody else asks it; a view is as stable as a method.

-- directory
CREATE VIEW known_directory AS SELECT id, name, title, trust, base, group_base, attributes, protected_groups, changed_at,
    suspended_at, removed_at FROM directory;

-- people
CREATE VIEW present_account AS SELECT id, directory, person FROM account WHERE gone_at IS NULL;
CREATE VIEW known_group AS SELECT directory, dn FROM directory_group;
CREATE VIEW open_case AS SELECT id, directory, account FROM correlation_case WHERE settled_at IS NULL;

-- enrolment: "counts" while the person can use it
CREATE VIEW method_of_person AS SELECT person, method, changed_in, confirmed_at IS NOT NULL AND removed_at IS NULL AS counts
    FROM enrolment;

-- delivery: "on_its_way" until it has ended, "waits" while no steward works on it
CREATE VIEW delivery_progress AS SELECT directory, steward, account, created_at, ended_at, ended_at IS NULL AS on_its_way,
    ended_at IS NULL AND (state = 'waiting' OR held_until < entente_time()) AS waits FROM delivery;

-- attempt: only those of people
CREATE VIEW personal_attempt AS SELECT reference, person, action, network, created_at, decoy, policy, state FROM attempt
    WHERE person IS NOT NULL;

-- audit: references of attempts, kept longer than the attempts
CREATE VIEW kept_reference AS SELECT attempt, reference FROM attempt_reference;

-- approval
CREATE VIEW switched_on AS SELECT name FROM service_switch WHERE turned_on;

-- access
CREATE VIEW known_administrator AS SELECT id, suspended_at IS NULL AS active FROM administrator;

-- platform
CREATE VIEW topic_stamp AS SELECT topic, changed_by FROM standing;

GRANT SELECT ON known_directory, present_account, known_group, open_case, method_of_person, delivery_progress, personal_attempt,
    kept_reference, switched_on, known_administrator, topic_stamp TO ${runningRole};

-- An alarm is told after its attempt was purged, too.
ALTER TABLE alarm_link ADD COLUMN revision integer NOT NULL DEFAULT 0, ADD COLUMN reference text;
UPDATE alarm_link l SET revision = a.revision, reference = a.reference FROM attempt a WHERE a.id = l.attempt;
ALTER TABLE alarm_link ALTER COLUMN revision DROP DEFAULT;
