-- people: display names
CREATE VIEW known_name AS SELECT id AS person, display_name FROM person;
GRANT SELECT ON known_name TO ${runningRole};
