-- How far steps have got in what they read, by the name it is kept under; written with the decision that settles the
-- step, or by a person.
CREATE TABLE positions (
  chain   words NOT NULL,
  profile words NOT NULL,
  name    words NOT NULL,
  content words NOT NULL,
  run     BIGINT,
  step    words,
  by_whom words,
  at      words NOT NULL,
  PRIMARY KEY (chain, profile, name)
);
