-- Which languages the browser of an attempt wants, as it says it; and where administrators are told of what concerns them.
ALTER TABLE attempt ADD COLUMN language text;
ALTER TABLE mail_channel ADD COLUMN administrators text[] NOT NULL DEFAULT '{}';
