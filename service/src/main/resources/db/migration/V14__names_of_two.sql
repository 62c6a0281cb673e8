-- A name to sign in with that two people have means the first of them until an administrator settles it.
ALTER TABLE account_login ADD COLUMN shadowed boolean NOT NULL DEFAULT false;
ALTER TABLE correlation_case DROP CONSTRAINT correlation_case_kind_check;
ALTER TABLE correlation_case ADD CONSTRAINT correlation_case_kind_check CHECK (kind IN ('double', 'changed', 'login'));
UPDATE account_login l SET shadowed = true FROM account a JOIN directory d ON d.id = a.directory
    WHERE a.id = l.account AND a.gone_at IS NULL AND EXISTS (
        SELECT 1 FROM account_login o JOIN account b ON b.id = o.account JOIN directory e ON e.id = b.directory
        WHERE o.login_key = l.login_key AND b.gone_at IS NULL AND b.person <> a.person
        AND (e.trust, b.id) < (d.trust, a.id));
INSERT INTO correlation_case (id, directory, account, kind, after, opened_at)
    SELECT gen_random_uuid(), a.directory, a.id, 'login', min(p.correlation), now()
    FROM account_login l JOIN account a ON a.id = l.account
    JOIN account_login o ON o.login_key = l.login_key AND NOT o.shadowed
    JOIN account b ON b.id = o.account AND b.gone_at IS NULL AND b.person <> a.person
    JOIN person p ON p.id = b.person
    WHERE l.shadowed GROUP BY a.directory, a.id
    ON CONFLICT (account) WHERE settled_at IS NULL DO NOTHING;

-- Somebody whose method an administrator took away is told of it, without an attempt.
ALTER TABLE alarm_link ALTER COLUMN attempt DROP NOT NULL;
