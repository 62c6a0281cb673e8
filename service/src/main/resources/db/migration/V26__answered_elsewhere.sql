-- What is asked of devices, mailboxes and staff is alike, and kept in one place; gone a day after it ended.
ALTER TABLE push_request RENAME TO awaited;
ALTER INDEX push_request_of RENAME TO awaited_of;
ALTER TABLE awaited RENAME COLUMN device TO answered_by;
ALTER TABLE awaited ALTER COLUMN answered_by TYPE text;
ALTER TABLE awaited ADD COLUMN method text NOT NULL DEFAULT 'push';
ALTER TABLE awaited ALTER COLUMN method DROP DEFAULT;
ALTER TABLE awaited ADD COLUMN attempt uuid;
ALTER TABLE awaited ADD COLUMN policy text;
ALTER TABLE awaited ADD COLUMN revision int;
-- Of a link, a keyed hash.
ALTER TABLE awaited ADD COLUMN token_hash bytea UNIQUE;
-- Who of the staff was the first of two.
ALTER TABLE awaited ADD COLUMN first_by text;

-- Who signs in and may do nothing but help people, and for whom.
ALTER TABLE administrator ADD COLUMN role text NOT NULL DEFAULT 'administrator' CHECK (role IN ('administrator', 'staff'));
ALTER TABLE administrator ADD COLUMN scopes text[] NOT NULL DEFAULT '{}';
-- By which they sign in to their own account: nobody confirms themselves.
ALTER TABLE administrator ADD COLUMN own_login text;
