-- The steps that legs had come to, in their order: nearly all legs of a chain have the same.
CREATE TABLE history_shapes (
  id        INTEGER PRIMARY KEY,
  addresses TEXT NOT NULL UNIQUE
);

-- What is remembered of legs that have ended; made from the journal, and can be made again.
CREATE TABLE history (
  run     INTEGER NOT NULL,
  leg     INTEGER NOT NULL,
  chain   TEXT NOT NULL,
  number  INTEGER,
  state   TEXT NOT NULL,
  started TEXT NOT NULL,
  ended   TEXT NOT NULL,
  late    INTEGER NOT NULL,
  source  INTEGER NOT NULL,
  latest  INTEGER NOT NULL,
  shape   INTEGER NOT NULL REFERENCES history_shapes (id),
  steps   BLOB NOT NULL,
  PRIMARY KEY (run, leg)
) WITHOUT ROWID;
CREATE INDEX history_by_chain ON history (chain, run) WHERE latest = 1;
CREATE INDEX history_by_state ON history (chain, state, run) WHERE latest = 1;
CREATE INDEX history_by_end ON history (ended, state) WHERE latest = 1 AND source = 0;

-- Few runs end so, and they are what one looks for; each costs a row here, and no other run does.
CREATE INDEX runs_ended_badly ON runs (state, id) WHERE state IN ('failed', 'stopped');

-- Runs are started in the order of time, so this one only ever grows at its end.
CREATE INDEX runs_by_start ON runs (started);
