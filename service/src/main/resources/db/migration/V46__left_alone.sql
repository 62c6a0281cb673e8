-- Until when an attempt in which something was proved may be left alone; null where nothing was.
ALTER TABLE attempt ADD COLUMN idle_at timestamptz;
CREATE INDEX attempt_idle ON attempt (idle_at) WHERE ended_at IS NULL AND idle_at IS NOT NULL;

-- Who of two that confirm was the first: people are compared, not sign-in names.
ALTER TABLE awaited ADD COLUMN first_person uuid;
