-- What people want to be asked by the help desk: the question's texts encrypted, of the answer a hash.
CREATE TABLE spoken_answer (
    enrolment   uuid NOT NULL REFERENCES enrolment ON DELETE CASCADE,
    place       int NOT NULL,
    texts       bytea NOT NULL,
    answer_hash text NOT NULL,
    PRIMARY KEY (enrolment, place)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON spoken_answer TO ${runningRole};
