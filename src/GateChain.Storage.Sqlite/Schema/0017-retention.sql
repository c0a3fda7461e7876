-- How long runs are kept that have ended, by chain or folder.
CREATE TABLE keep_rules (
  place    TEXT PRIMARY KEY,
  days     INTEGER,
  at_least INTEGER NOT NULL,
  at_most  INTEGER
) WITHOUT ROWID;

-- Runs that stay whatever the rules say.
CREATE TABLE pins (
  run     INTEGER PRIMARY KEY,
  by_whom TEXT NOT NULL,
  at      TEXT NOT NULL,
  why     TEXT
);
