-- Everybody is kept laid out in memory for questions about all of them. The transaction that changed a row says what has to be
-- read again; rows from before are read with the first look.
CREATE FUNCTION this_transaction() RETURNS bigint LANGUAGE sql STABLE
    RETURN cast(cast(pg_current_xact_id() AS text) AS bigint);
ALTER TABLE account ADD COLUMN changed_in bigint NOT NULL DEFAULT 0;
ALTER TABLE directory_group ADD COLUMN changed_in bigint NOT NULL DEFAULT 0;
ALTER TABLE enrolment ADD COLUMN changed_in bigint NOT NULL DEFAULT 0;
-- Whoever looks at one account looks for its names.
CREATE INDEX account_login_account ON account_login (account);
-- People are listed by their own names, not by those of their accounts.
DROP INDEX account_search;
CREATE INDEX person_search ON person (lower(display_name), id);
