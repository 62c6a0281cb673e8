-- The primary key begins with the id as well: one index less to write for each event.
DROP INDEX event_by_id;
