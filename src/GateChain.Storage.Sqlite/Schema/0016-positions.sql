-- How far steps have got in what they read, by the name it is kept under; written with the decision that settles the
-- step, or by a person.
CREATE TABLE positions (
  chain   TEXT NOT NULL,
  profile TEXT NOT NULL,
  name    TEXT NOT NULL,
  content TEXT NOT NULL,
  run     INTEGER,
  step    TEXT,
  by_whom TEXT,
  at      TEXT NOT NULL,
  PRIMARY KEY (chain, profile, name)
) WITHOUT ROWID;
