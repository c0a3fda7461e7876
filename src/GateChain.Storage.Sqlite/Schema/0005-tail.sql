-- A row of the journal may hold several decisions of a run that follow each other: seq is the number of the last one.
ALTER TABLE journal ADD COLUMN count INTEGER NOT NULL DEFAULT 1;

-- The newest decisions of all runs, a block per transaction. They are sorted into the journal by and by.
CREATE TABLE journal_tail (
  id    INTEGER PRIMARY KEY,
  block BLOB NOT NULL
);
