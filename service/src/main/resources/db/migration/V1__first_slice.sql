-- Roles (owner, running, retention) are made by whoever makes the database: see docs/operating.md.
-- The running role gets no right to change or remove events.

CREATE TABLE administrator (
    id            uuid PRIMARY KEY,
    login         text NOT NULL UNIQUE,
    name          text NOT NULL,
    password_hash text NOT NULL,
    created_at    timestamptz NOT NULL
);

CREATE TABLE api_token (
    token_hash    bytea PRIMARY KEY,
    administrator uuid NOT NULL REFERENCES administrator,
    label         text NOT NULL,
    expires_at    timestamptz NOT NULL
);

CREATE TABLE directory (
    id              uuid PRIMARY KEY,
    name            text NOT NULL UNIQUE,
    title           text NOT NULL,
    kind            text NOT NULL CHECK (kind IN ('active-directory', 'ldap')),
    servers         text[] NOT NULL,
    ca_certificate  text NOT NULL,
    base            text NOT NULL,
    service_account text NOT NULL,
    correlation     text NOT NULL,
    operator_key    jsonb NOT NULL,
    roster          text,
    roster_version  int NOT NULL DEFAULT 0,
    synced_at       timestamptz,
    created_at      timestamptz NOT NULL
);

CREATE TABLE join_code (
    code_hash  bytea PRIMARY KEY,
    directory  uuid NOT NULL REFERENCES directory,
    steward    text NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at    timestamptz
);

CREATE TABLE steward (
    id           uuid PRIMARY KEY,
    directory    uuid NOT NULL REFERENCES directory,
    name         text NOT NULL,
    identity_key jsonb NOT NULL,
    version      text NOT NULL,
    joined_at    timestamptz NOT NULL,
    last_seen    timestamptz NOT NULL,
    UNIQUE (directory, name)
);

CREATE TABLE sealing_key (
    thumbprint text PRIMARY KEY,
    steward    uuid NOT NULL REFERENCES steward,
    statement  text NOT NULL,
    not_after  timestamptz NOT NULL
);

-- Calls of stewards that change something are taken once.
CREATE TABLE steward_call (
    jti        text PRIMARY KEY,
    expires_at timestamptz NOT NULL
);

-- Work for a steward besides deliveries: preflight and sync.
CREATE TABLE job (
    id           uuid PRIMARY KEY,
    directory    uuid NOT NULL REFERENCES directory,
    kind         text NOT NULL CHECK (kind IN ('preflight', 'sync')),
    state        text NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed')),
    steward      uuid REFERENCES steward,
    done_count   int NOT NULL DEFAULT 0,
    message      text,
    result       jsonb,
    created_at   timestamptz NOT NULL,
    leased_until timestamptz,
    ended_at     timestamptz
);
CREATE INDEX job_waiting ON job (directory, created_at) WHERE state IN ('waiting', 'running');

CREATE TABLE person (
    id           uuid PRIMARY KEY,
    correlation  text NOT NULL UNIQUE,
    display_name text NOT NULL
);

CREATE TABLE account (
    id           uuid PRIMARY KEY,
    directory    uuid NOT NULL REFERENCES directory,
    person       uuid NOT NULL REFERENCES person,
    dn           text NOT NULL,
    login        text NOT NULL,
    display_name text NOT NULL,
    department   text,
    disabled     boolean NOT NULL,
    locked       boolean NOT NULL,
    mail         bytea,
    groups       text[] NOT NULL,
    sync         uuid NOT NULL
);
CREATE INDEX account_person ON account (person);
CREATE INDEX account_search ON account (lower(display_name), id);

CREATE TABLE account_login (
    login_key text NOT NULL,
    account   uuid NOT NULL REFERENCES account ON DELETE CASCADE,
    PRIMARY KEY (login_key, account)
);

CREATE TABLE directory_group (
    directory uuid NOT NULL REFERENCES directory,
    dn        text NOT NULL,
    name      text NOT NULL,
    parents   text[] NOT NULL,
    sync      uuid NOT NULL,
    PRIMARY KEY (directory, dn)
);

CREATE TABLE directory_ou (
    directory uuid NOT NULL REFERENCES directory,
    dn        text NOT NULL,
    sync      uuid NOT NULL,
    PRIMARY KEY (directory, dn)
);

CREATE TABLE draft (
    id            uuid PRIMARY KEY,
    name          text NOT NULL,
    base_revision int NOT NULL,
    files         jsonb NOT NULL,
    version       int NOT NULL,
    author        text NOT NULL,
    changed_at    timestamptz NOT NULL
);

CREATE TABLE revision (
    number       int PRIMARY KEY,
    files        jsonb NOT NULL,
    author       text NOT NULL,
    note         text NOT NULL,
    published_at timestamptz NOT NULL
);

CREATE TABLE attempt (
    id           uuid PRIMARY KEY,
    reference    text NOT NULL UNIQUE,
    person       uuid REFERENCES person,
    decoy        text,
    action       text NOT NULL,
    state        text NOT NULL,
    revision     int NOT NULL,
    policy       text,
    key          jsonb NOT NULL,
    cookie_hash  bytea NOT NULL UNIQUE,
    cookie_before bytea,
    challenges   int NOT NULL DEFAULT 0,
    sealings     int NOT NULL DEFAULT 0,
    network      text NOT NULL,
    created_at   timestamptz NOT NULL,
    expires_at   timestamptz NOT NULL,
    ended_at     timestamptz
);
CREATE INDEX attempt_newest ON attempt (created_at DESC, id);
CREATE INDEX attempt_open ON attempt (expires_at) WHERE ended_at IS NULL;

CREATE TABLE challenge (
    id         uuid PRIMARY KEY,
    attempt    uuid NOT NULL REFERENCES attempt,
    method     text NOT NULL,
    code_hash  bytea NOT NULL,
    tries      int NOT NULL DEFAULT 0,
    max_tries  int NOT NULL,
    answered   boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL
);
CREATE INDEX challenge_attempt ON challenge (attempt);

-- Counts within windows; the key is an HMAC, so that nothing typed or personal is readable here.
CREATE TABLE limit_count (
    limit_key  bytea NOT NULL,
    window_end timestamptz NOT NULL,
    used       int NOT NULL,
    PRIMARY KEY (limit_key, window_end)
);

CREATE TABLE sealed_password (
    id         uuid PRIMARY KEY,
    attempt    uuid NOT NULL REFERENCES attempt,
    seal       text NOT NULL,
    evidence   text NOT NULL,
    expires_at timestamptz NOT NULL
);

CREATE TABLE delivery (
    id             uuid PRIMARY KEY,
    attempt        uuid NOT NULL REFERENCES attempt,
    sealing        int NOT NULL,
    directory      uuid NOT NULL REFERENCES directory,
    account        uuid NOT NULL,
    sealed         uuid REFERENCES sealed_password ON DELETE SET NULL,
    state          text NOT NULL CHECK (state IN ('waiting', 'leased', 'begun', 'done', 'refused', 'failed', 'unknown')),
    epoch          int NOT NULL DEFAULT 0,
    steward        uuid REFERENCES steward,
    leased_until   timestamptz,
    held_until     timestamptz,
    begun_server   text,
    begun_version  text,
    cause          text,
    receipt        text,
    created_at     timestamptz NOT NULL,
    expires_at     timestamptz NOT NULL,
    ended_at       timestamptz
);
CREATE INDEX delivery_attempt ON delivery (attempt);
CREATE INDEX delivery_open ON delivery (directory, created_at) WHERE ended_at IS NULL;
CREATE INDEX delivery_account_open ON delivery (account) WHERE ended_at IS NULL;

CREATE TABLE notification (
    id         uuid PRIMARY KEY,
    attempt    uuid REFERENCES attempt,
    kind       text NOT NULL,
    payload    bytea,
    state      text NOT NULL CHECK (state IN ('queued', 'sending', 'sent', 'failed', 'uncertain', 'expired')),
    tries      int NOT NULL DEFAULT 0,
    next_try   timestamptz NOT NULL,
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    ended_at   timestamptz
);
CREATE INDEX notification_open ON notification (next_try) WHERE state IN ('queued', 'sending');

CREATE TABLE alarm_link (
    token_hash bytea PRIMARY KEY,
    attempt    uuid NOT NULL REFERENCES attempt,
    raised_at  timestamptz
);

-- The record. Events hold nothing personal: personal values stand beside them, salted, and can be erased.
CREATE TABLE event (
    id              uuid NOT NULL,
    retention_class text NOT NULL CHECK (retention_class IN ('attempt', 'administration', 'operation')),
    occurred_at     timestamptz NOT NULL,
    kind            text NOT NULL,
    attempt         uuid,
    ordinal         int NOT NULL,
    revision        int NOT NULL,
    data            jsonb NOT NULL,
    commitments     jsonb NOT NULL,
    leaf_hash       bytea NOT NULL,
    PRIMARY KEY (id, retention_class, occurred_at)
) PARTITION BY LIST (retention_class);
CREATE TABLE event_attempt PARTITION OF event FOR VALUES IN ('attempt') PARTITION BY RANGE (occurred_at);
CREATE TABLE event_administration PARTITION OF event FOR VALUES IN ('administration') PARTITION BY RANGE (occurred_at);
CREATE TABLE event_operation PARTITION OF event FOR VALUES IN ('operation') PARTITION BY RANGE (occurred_at);
CREATE TABLE event_attempt_other PARTITION OF event_attempt DEFAULT;
CREATE TABLE event_administration_other PARTITION OF event_administration DEFAULT;
CREATE TABLE event_operation_other PARTITION OF event_operation DEFAULT;
CREATE INDEX event_of_attempt ON event (attempt, ordinal);
CREATE INDEX event_by_id ON event (id);

-- Gives the events of one attempt their order; the row's lock makes them wait for each other.
CREATE TABLE event_ordinal (
    attempt uuid PRIMARY KEY,
    ordinal int NOT NULL
);

CREATE TABLE event_personal (
    event uuid NOT NULL,
    name  text NOT NULL,
    value text NOT NULL,
    salt  bytea NOT NULL,
    PRIMARY KEY (event, name)
);

CREATE TABLE event_pending (
    event uuid PRIMARY KEY
);

CREATE TABLE event_leaf (
    seq       bigint PRIMARY KEY,
    event     uuid NOT NULL UNIQUE,
    leaf_hash bytea NOT NULL
);

CREATE TABLE checkpoint (
    size      bigint PRIMARY KEY,
    root      bytea NOT NULL,
    peaks     bytea NOT NULL,
    statement text NOT NULL,
    signed_at timestamptz NOT NULL
);

CREATE FUNCTION record_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the record is append-only';
END
$$;
CREATE TRIGGER event_append_only BEFORE UPDATE ON event FOR EACH ROW EXECUTE FUNCTION record_is_append_only();
CREATE TRIGGER leaf_append_only BEFORE UPDATE OR DELETE ON event_leaf FOR EACH ROW EXECUTE FUNCTION record_is_append_only();
CREATE TRIGGER checkpoint_append_only BEFORE UPDATE OR DELETE ON checkpoint FOR EACH ROW EXECUTE FUNCTION record_is_append_only();

-- Makes the months' partitions ahead; runs with the owner's rights, so that the running role needs none.
CREATE FUNCTION prepare_event_months(from_month date, months int) RETURNS void
    LANGUAGE plpgsql SECURITY DEFINER SET search_path FROM CURRENT AS $$
DECLARE
    class text;
    month date;
BEGIN
    FOREACH class IN ARRAY ARRAY['attempt', 'administration', 'operation'] LOOP
        FOR step IN 0 .. months - 1 LOOP
            month := date_trunc('month', from_month) + make_interval(months => step);
            EXECUTE format('CREATE TABLE IF NOT EXISTS %I PARTITION OF %I FOR VALUES FROM (%L) TO (%L)',
                'event_' || class || to_char(month, '_YYYY_MM'), 'event_' || class,
                month::timestamptz, (month + interval '1 month')::timestamptz);
        END LOOP;
    END LOOP;
END
$$;
REVOKE EXECUTE ON FUNCTION prepare_event_months FROM PUBLIC;
SELECT prepare_event_months(current_date, 14);

-- Sessions of administrators: the schema of Spring Session JDBC.
CREATE TABLE spring_session (
    primary_id            char(36) PRIMARY KEY,
    session_id            char(36) NOT NULL UNIQUE,
    creation_time         bigint NOT NULL,
    last_access_time      bigint NOT NULL,
    max_inactive_interval int NOT NULL,
    expiry_time           bigint NOT NULL,
    principal_name        varchar(100)
);
CREATE INDEX spring_session_expiry ON spring_session (expiry_time);
CREATE INDEX spring_session_principal ON spring_session (principal_name);
CREATE TABLE spring_session_attributes (
    session_primary_id char(36) NOT NULL REFERENCES spring_session (primary_id) ON DELETE CASCADE,
    attribute_name     varchar(200) NOT NULL,
    attribute_bytes    bytea NOT NULL,
    PRIMARY KEY (session_primary_id, attribute_name)
);

GRANT USAGE ON SCHEMA ${flyway:defaultSchema} TO ${runningRole}, ${retentionRole};
GRANT SELECT, INSERT, UPDATE, DELETE ON
    administrator, api_token, directory, join_code, steward, sealing_key, steward_call, job, person, account,
    account_login, directory_group, directory_ou, draft, attempt, challenge, limit_count, sealed_password, delivery,
    notification, alarm_link, spring_session, spring_session_attributes TO ${runningRole};
GRANT SELECT, INSERT ON revision, event, event_personal, event_leaf, checkpoint TO ${runningRole};
GRANT SELECT, INSERT, UPDATE ON event_ordinal TO ${runningRole};
GRANT SELECT, INSERT, DELETE ON event_pending TO ${runningRole};
GRANT EXECUTE ON FUNCTION prepare_event_months TO ${runningRole};
GRANT SELECT ON event, event_leaf, checkpoint TO ${retentionRole};
GRANT SELECT, DELETE ON event_personal TO ${retentionRole};
