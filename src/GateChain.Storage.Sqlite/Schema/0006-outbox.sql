-- News of runs, written with the decision that made them, for consumers that must not miss any.
CREATE TABLE outbox (
  position INTEGER PRIMARY KEY AUTOINCREMENT,
  run      INTEGER NOT NULL,
  seq      INTEGER NOT NULL,
  chain    TEXT NOT NULL,
  kind     INTEGER NOT NULL,
  state    TEXT NOT NULL
);
-- What each consumer has handled.
CREATE TABLE outbox_cursors (
  consumer TEXT PRIMARY KEY,
  position INTEGER NOT NULL
);
