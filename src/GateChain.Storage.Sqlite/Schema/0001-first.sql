CREATE TABLE runs (
  id      INTEGER PRIMARY KEY AUTOINCREMENT,
  chain   TEXT NOT NULL,
  release TEXT NOT NULL,
  state   TEXT NOT NULL,
  leg     INTEGER NOT NULL,
  by_whom TEXT NOT NULL,
  started TEXT NOT NULL,
  ended   TEXT,
  params  TEXT NOT NULL,
  error   TEXT,
  epoch   INTEGER NOT NULL
);
CREATE INDEX runs_by_chain ON runs (chain, id);
CREATE INDEX runs_unended ON runs (id) WHERE ended IS NULL;

-- One row holds all events of one decision.
CREATE TABLE journal (
  run  INTEGER NOT NULL,
  seq  INTEGER NOT NULL,
  body BLOB NOT NULL,
  PRIMARY KEY (run, seq)
);

CREATE TABLE releases (
  hash   TEXT PRIMARY KEY,
  chain  TEXT NOT NULL,
  title  TEXT,
  source TEXT NOT NULL,
  pushed TEXT NOT NULL
);
CREATE TABLE release_files (
  release TEXT NOT NULL REFERENCES releases (hash),
  name    TEXT NOT NULL,
  content BLOB NOT NULL,
  PRIMARY KEY (release, name)
);
-- The release that new runs of a chain follow.
CREATE TABLE chains (
  name    TEXT PRIMARY KEY,
  release TEXT NOT NULL REFERENCES releases (hash)
);
CREATE TABLE settings (
  name    TEXT PRIMARY KEY,
  content TEXT NOT NULL
);
