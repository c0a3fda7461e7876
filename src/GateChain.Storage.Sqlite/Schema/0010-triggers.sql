-- The trigger whose fire started a run.
ALTER TABLE runs ADD COLUMN fired_by TEXT;
CREATE INDEX runs_by_trigger ON runs (fired_by, id) WHERE fired_by IS NOT NULL;

-- Occasions of triggers, and what became of them.
CREATE TABLE fires (
  number   INTEGER PRIMARY KEY AUTOINCREMENT,
  fired_by TEXT NOT NULL,
  at       TEXT NOT NULL,
  key      TEXT NOT NULL,
  event    TEXT NOT NULL,
  fate     INTEGER NOT NULL,
  why      TEXT,
  run      INTEGER,
  backfill INTEGER
);
CREATE INDEX fires_by_trigger ON fires (fired_by, number);
CREATE INDEX fires_by_key ON fires (fired_by, key);
CREATE INDEX fires_by_run ON fires (run) WHERE run IS NOT NULL;
CREATE INDEX fires_refused ON fires (number) WHERE fate = 2;

-- What each trigger has taken, apart from its fires: it is kept longer.
CREATE TABLE trigger_keys (
  fired_by TEXT NOT NULL,
  key      TEXT NOT NULL,
  at       TEXT NOT NULL,
  PRIMARY KEY (fired_by, key)
) WITHOUT ROWID;

-- What is kept of a trigger beside its definition: a row stays when the trigger goes.
CREATE TABLE trigger_states (
  name      TEXT PRIMARY KEY,
  is_on     INTEGER NOT NULL DEFAULT 1,
  file_says INTEGER NOT NULL DEFAULT 1,
  since     TEXT NOT NULL,
  by_whom   TEXT,
  switched  TEXT,
  mark      TEXT,
  text      TEXT NOT NULL DEFAULT '',
  memory    TEXT
);

-- Folders in which nothing starts by itself; the empty one is everything.
CREATE TABLE holds (
  area    TEXT PRIMARY KEY,
  by_whom TEXT NOT NULL,
  at      TEXT NOT NULL,
  why     TEXT
);

-- What chains keep from run to run, under each profile.
DROP TABLE kept_values;
CREATE TABLE kept_sets (
  chain   TEXT NOT NULL,
  profile TEXT NOT NULL,
  version INTEGER NOT NULL,
  content TEXT NOT NULL,
  run     INTEGER,
  by_whom TEXT,
  at      TEXT NOT NULL,
  PRIMARY KEY (chain, profile)
) WITHOUT ROWID;

-- Where this database lay when it was opened last.
CREATE TABLE place (
  only  INTEGER PRIMARY KEY CHECK (only = 1),
  place TEXT NOT NULL
);

-- Fires for due times of a span; what became of them stands in the fires.
CREATE TABLE backfills (
  number       INTEGER PRIMARY KEY AUTOINCREMENT,
  fired_by     TEXT NOT NULL,
  first        TEXT NOT NULL,
  until        TEXT NOT NULL,
  release      TEXT NOT NULL,
  parallel     INTEGER NOT NULL,
  newest_first INTEGER NOT NULL,
  keeps        INTEGER NOT NULL,
  by_whom      TEXT NOT NULL,
  at           TEXT NOT NULL,
  state        INTEGER NOT NULL
);
CREATE TABLE backfill_times (
  backfill INTEGER NOT NULL,
  place    INTEGER NOT NULL,
  due      TEXT NOT NULL,
  since    TEXT NOT NULL,
  PRIMARY KEY (backfill, place)
) WITHOUT ROWID;
CREATE INDEX fires_by_backfill ON fires (backfill) WHERE backfill IS NOT NULL;
