-- Hashes of complete subtrees of 256 leaves, so that a proof need not read the whole record. Made from the leaves, and believed by nobody:
-- a proof leads to a signed checkpoint, or it is none.
CREATE TABLE event_subtree (
    number bigint PRIMARY KEY,
    hash   bytea NOT NULL
);
GRANT SELECT, INSERT ON event_subtree TO ${runningRole};
GRANT SELECT, DELETE ON event_subtree TO ${retentionRole};
