-- Questions that people answered: the question's texts encrypted, of the answer a hash.
CREATE TABLE security_answer (
    enrolment    uuid NOT NULL REFERENCES enrolment ON DELETE CASCADE,
    place        int NOT NULL,
    texts        bytea NOT NULL,
    answer_hash  text NOT NULL,
    case_matters boolean NOT NULL,
    PRIMARY KEY (enrolment, place)
);
-- How often they were answered: which are asked follows from it.
CREATE TABLE question_round (
    enrolment uuid PRIMARY KEY REFERENCES enrolment ON DELETE CASCADE,
    round     int NOT NULL DEFAULT 0
);
GRANT SELECT, INSERT, UPDATE, DELETE ON security_answer, question_round TO ${runningRole};
