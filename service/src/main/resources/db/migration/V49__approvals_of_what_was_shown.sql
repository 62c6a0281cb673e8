-- An approval is of what was shown: it names a digest of it. Whoever wrote any of a draft is its author, and approves nothing of it.
ALTER TABLE draft ADD COLUMN approved_digest text, ADD COLUMN authors text[];
UPDATE draft SET authors = ARRAY[author];
ALTER TABLE draft ALTER COLUMN authors SET NOT NULL;
-- What was approved before is approved anew, by what it says.
ALTER TABLE draft DROP COLUMN approved_version;
