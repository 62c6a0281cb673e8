-- A sync asks in all directories at once who has a value to correlate by: the directory must not come first in the index.
CREATE INDEX account_by_correlation ON account (correlation) WHERE gone_at IS NULL;
DROP INDEX account_correlation;
