-- Until when answers count that an administrator brought in; null for those that people chose by themselves.
ALTER TABLE question_round ADD COLUMN provisional_until timestamptz;
