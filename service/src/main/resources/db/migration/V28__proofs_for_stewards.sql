-- What a person's own credential signed in an attempt, for stewards that judge it again.
CREATE TABLE attempt_proof (
    challenge  uuid PRIMARY KEY,
    attempt    uuid NOT NULL,
    document   jsonb NOT NULL
);
CREATE INDEX attempt_proof_of ON attempt_proof (attempt);
-- What stewards demand besides a seal and its evidence, as they last said.
ALTER TABLE steward ADD COLUMN demand jsonb;
-- Which credentials the stewards of a directory recognise: signed by its operator or by a steward, never by us.
CREATE TABLE credential_statement (
    directory  uuid NOT NULL,
    account    uuid NOT NULL,
    credential text NOT NULL,
    method     text NOT NULL,
    removed    boolean NOT NULL,
    statement  text NOT NULL,
    at         timestamptz NOT NULL,
    PRIMARY KEY (directory, account, credential, removed)
);
DROP TRIGGER standing_steward ON steward;
CREATE TRIGGER standing_steward AFTER UPDATE ON steward FOR EACH ROW WHEN (
    (OLD.name, OLD.directory, OLD.identity_key, OLD.retired_at, OLD.demand) IS DISTINCT FROM
    (NEW.name, NEW.directory, NEW.identity_key, NEW.retired_at, NEW.demand)) EXECUTE FUNCTION standing_changed('steward');
GRANT SELECT, INSERT, UPDATE, DELETE ON attempt_proof, credential_statement TO ${runningRole};
