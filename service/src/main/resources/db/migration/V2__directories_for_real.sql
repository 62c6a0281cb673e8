-- Directories: more to say about them, and when what is due.
ALTER TABLE directory DROP CONSTRAINT directory_kind_check;
ALTER TABLE directory ADD CONSTRAINT directory_kind_check CHECK (kind IN ('active-directory', 'ldap', 'scim', 'local'));
ALTER TABLE directory
    DROP COLUMN ca_certificate,
    ALTER COLUMN base DROP NOT NULL,
    ALTER COLUMN service_account DROP NOT NULL,
    ADD COLUMN group_base text,
    ADD COLUMN login_attributes text[] NOT NULL DEFAULT '{}',
    ADD COLUMN protected_groups text[] NOT NULL DEFAULT '{}',
    ADD COLUMN trust int NOT NULL DEFAULT 1,
    ADD COLUMN loss_share int NOT NULL DEFAULT 10,
    ADD COLUMN suspended_at timestamptz,
    ADD COLUMN removed_at timestamptz,
    ADD COLUMN changed_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN sync_cursor text,
    ADD COLUMN changes_due_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN changes_until timestamptz,
    ADD COLUMN changes_steward uuid REFERENCES steward,
    ADD COLUMN sync_due_at timestamptz,
    ADD COLUMN preflight_due_at timestamptz,
    ADD COLUMN preflight_outcome text;
UPDATE directory SET sync_due_at = now(), preflight_due_at = now() WHERE roster IS NOT NULL;

ALTER TABLE steward
    ADD COLUMN server text,
    ADD COLUMN certificate_ends timestamptz,
    ADD COLUMN latency_ms int NOT NULL DEFAULT 0,
    ADD COLUMN retired_at timestamptz,
    ADD COLUMN replaced boolean NOT NULL DEFAULT false,
    -- Which process asked last, and the one before: when they take turns, the key was copied.
    ADD COLUMN instance text,
    ADD COLUMN instance_before text,
    ADD COLUMN copied_at timestamptz;

ALTER TABLE job DROP CONSTRAINT job_state_check;
ALTER TABLE job ADD CONSTRAINT job_state_check CHECK (state IN ('waiting', 'running', 'held', 'done', 'failed'));
ALTER TABLE job ADD COLUMN cursor text, ADD COLUMN started_at timestamptz;

-- People: when each row was seen last tells what a full read did not see; nothing is forgotten that has a history.
ALTER TABLE account
    ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN gone_at timestamptz,
    ADD COLUMN dn_key text NOT NULL DEFAULT '',
    ADD COLUMN correlation text,
    ADD COLUMN quarantined boolean NOT NULL DEFAULT false,
    ADD COLUMN manager text,
    ADD COLUMN ends_at timestamptz,
    ADD COLUMN must_change boolean NOT NULL DEFAULT false,
    ADD COLUMN last_sign_in timestamptz,
    ADD COLUMN password_set_at timestamptz,
    ADD COLUMN password_ends_at timestamptz,
    ADD COLUMN rules text,
    ADD COLUMN changed_elsewhere_at timestamptz;
UPDATE account a SET correlation = p.correlation FROM person p WHERE p.id = a.person AND p.correlation NOT LIKE 'account %';
ALTER TABLE account DROP COLUMN sync, DROP COLUMN groups;
CREATE INDEX account_of_directory ON account (directory, dn_key);
CREATE INDEX account_correlation ON account (directory, correlation) WHERE gone_at IS NULL;

ALTER TABLE directory_group
    ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN dn_key text NOT NULL DEFAULT '',
    DROP COLUMN sync,
    DROP COLUMN parents;
CREATE INDEX directory_group_key ON directory_group (directory, dn_key);
ALTER TABLE directory_ou ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(), DROP COLUMN sync;

-- Who is in which group, by names as they are compared; members may be people or groups. Filled by the next sync.
CREATE TABLE membership (
    directory  uuid NOT NULL REFERENCES directory ON DELETE CASCADE,
    group_key  text NOT NULL,
    member_key text NOT NULL,
    PRIMARY KEY (directory, group_key, member_key)
);
CREATE INDEX membership_of ON membership (directory, member_key);

-- Accounts whose person is in doubt, until an administrator settles it.
CREATE TABLE correlation_case (
    id         uuid PRIMARY KEY,
    directory  uuid NOT NULL REFERENCES directory ON DELETE CASCADE,
    account    uuid NOT NULL REFERENCES account ON DELETE CASCADE,
    kind       text NOT NULL CHECK (kind IN ('double', 'changed')),
    before     text,
    after      text,
    opened_at  timestamptz NOT NULL,
    settled_at timestamptz,
    decision   text CHECK (decision IN ('join', 'keep-apart'))
);
CREATE UNIQUE INDEX correlation_case_open ON correlation_case (account) WHERE settled_at IS NULL;

ALTER TABLE sealed_password ALTER COLUMN seal DROP NOT NULL, ALTER COLUMN evidence DROP NOT NULL;
ALTER TABLE delivery
    ADD COLUMN action text NOT NULL DEFAULT 'reset',
    ADD COLUMN retry_at timestamptz,
    ADD COLUMN leased_at timestamptz,
    ADD COLUMN begun_at timestamptz,
    ADD COLUMN checked_at timestamptz,
    ADD COLUMN retire_at timestamptz;
CREATE INDEX delivery_newest ON delivery (created_at DESC, id);
CREATE INDEX delivery_unsettled ON delivery (directory) WHERE state = 'unknown' AND sealed IS NOT NULL;
CREATE INDEX delivery_retire ON delivery (retire_at) WHERE retire_at IS NOT NULL;
CREATE INDEX delivery_of_account ON delivery (account, ended_at DESC);

-- How an attempt had ended when its person went on with it; what it ends as if nothing follows.
ALTER TABLE attempt ADD COLUMN told text;

-- How mail is sent, as set in the console; without a row the settings of the node hold.
CREATE TABLE mail_channel (
    id         boolean PRIMARY KEY DEFAULT true CHECK (id),
    host       text NOT NULL,
    port       int NOT NULL,
    security   text NOT NULL CHECK (security IN ('none', 'starttls', 'tls')),
    login      text,
    password   bytea,
    sender     text NOT NULL,
    changed_at timestamptz NOT NULL
);
-- Whether it works, as the last message or test showed.
CREATE TABLE channel_state (
    channel    text PRIMARY KEY,
    works      boolean NOT NULL,
    why        text,
    since      timestamptz NOT NULL
);

-- One switch for each thing that is off unless an administrator turns it on.
CREATE TABLE service_switch (
    name       text PRIMARY KEY,
    turned_on  boolean NOT NULL,
    changed_at timestamptz NOT NULL
);

GRANT SELECT, INSERT, UPDATE, DELETE ON membership, correlation_case, mail_channel, channel_state, service_switch
    TO ${runningRole};
