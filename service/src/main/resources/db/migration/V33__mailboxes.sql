-- Several addresses of one account, and mailboxes that open with the passwords of a directory: no help to who has lost those.
ALTER TABLE directory ADD COLUMN mailboxes text[] NOT NULL DEFAULT '{}';

-- Domains of the encrypted addresses, in their order, by blanks; nothing is known of those that were read before.
ALTER TABLE account ADD COLUMN mail_domains text;

CREATE OR REPLACE VIEW known_directory AS SELECT id, name, title, trust, base, group_base, attributes, protected_groups, changed_at,
    suspended_at, removed_at, mailboxes FROM directory;

-- Directories may have more addresses than were read, so they are read whole.
UPDATE directory SET sync_cursor = NULL, sync_due_at = entente_time() WHERE removed_at IS NULL;
