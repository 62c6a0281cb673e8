-- What a steward finds wrong with the record, by the checkpoint that it keeps.
ALTER TABLE steward ADD COLUMN record_doubt text;
