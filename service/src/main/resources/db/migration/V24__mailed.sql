-- Whether the person is told of the outcome by mail, so that the page says what is so.
ALTER TABLE attempt ADD COLUMN mailed boolean NOT NULL DEFAULT false;
