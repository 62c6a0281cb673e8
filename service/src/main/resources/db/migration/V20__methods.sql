-- Each method owns what is secret of it; what all have in common stays with enrolments.
CREATE TABLE app_secret (
    enrolment uuid PRIMARY KEY REFERENCES enrolment ON DELETE CASCADE,
    secret    bytea NOT NULL,
    last_step bigint NOT NULL DEFAULT 0
);
INSERT INTO app_secret (enrolment, secret, last_step)
    SELECT id, secret, coalesce(last_step, 0) FROM enrolment WHERE secret IS NOT NULL;
ALTER TABLE enrolment DROP COLUMN secret, DROP COLUMN last_step;
GRANT SELECT, INSERT, UPDATE, DELETE ON app_secret TO ${runningRole};

-- What a browser was shown with a challenge, so that it is shown the same after a reload.
ALTER TABLE challenge ADD COLUMN shown jsonb NOT NULL DEFAULT '{}';
ALTER TABLE challenge DROP COLUMN enrolment;
