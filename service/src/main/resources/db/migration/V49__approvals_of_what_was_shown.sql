-- An approval names a digest of what was shown. All authors of a draft are recorded, and none of them can approve it.
ALTER TABLE draft ADD COLUMN approved_digest text, ADD COLUMN authors text[];
UPDATE draft SET authors = ARRAY[author];
ALTER TABLE draft ALTER COLUMN authors SET NOT NULL;
-- Earlier approvals have no digest and must be given again.
ALTER TABLE draft DROP COLUMN approved_version;
