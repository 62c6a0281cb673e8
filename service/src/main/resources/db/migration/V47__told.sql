-- Whether the person was told that this took effect: whatever was written is told, however its attempt ends.
ALTER TABLE delivery ADD COLUMN told boolean NOT NULL DEFAULT false;
UPDATE delivery SET told = true WHERE state = 'done';
