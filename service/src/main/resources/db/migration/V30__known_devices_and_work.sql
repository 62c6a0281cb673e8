-- Browsers on which people got a new password: a list of their own, which they can shorten.
CREATE TABLE known_device (
    enrolment uuid PRIMARY KEY REFERENCES enrolment ON DELETE CASCADE,
    person uuid NOT NULL,
    browser bytea NOT NULL,
    UNIQUE (person, browser)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON known_device TO ${runningRole};

-- What the browser of an attempt is called, in words such as "Firefox on Windows".
ALTER TABLE attempt ADD COLUMN device_name text;

-- Those of before.
WITH old AS (
    SELECT gen_random_uuid() AS id, person, place, password_set_at, last_at FROM known_place JOIN person p ON p.id = person
    WHERE kind = 'browser' AND password_set_at IS NOT NULL
), made AS (
    INSERT INTO enrolment (id, person, method, label, created_at, confirmed_at, last_used_at, changed_in)
    SELECT id, person, 'known-device', 'A browser', password_set_at, password_set_at, last_at, (SELECT this_transaction())
    FROM old RETURNING id
)
INSERT INTO known_device (enrolment, person, browser) SELECT old.id, old.person, old.place FROM old JOIN made USING (id);

-- Work that browsers did before they started: each piece counts once. Gone when its seed is too old anyway.
CREATE TABLE work_done (
    seed  bytea PRIMARY KEY,
    until timestamptz NOT NULL
);
GRANT SELECT, INSERT, UPDATE, DELETE ON work_done TO ${runningRole};
