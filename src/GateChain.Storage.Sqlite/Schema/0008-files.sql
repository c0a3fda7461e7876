-- What stands beside the chains, with all versions; one without a content says that the file is gone.
CREATE TABLE files (
  path    TEXT NOT NULL,
  version INTEGER NOT NULL,
  author  TEXT NOT NULL,
  at      TEXT NOT NULL,
  content TEXT,
  PRIMARY KEY (path, version)
);
INSERT INTO files (path, version, author, at, content)
  SELECT s.name, 1, 'push', coalesce((SELECT max(pushed) FROM releases), strftime('%Y-%m-%dT%H:%M:%S.0000000+00:00', 'now')), s.content
  FROM settings s;
DROP TABLE settings;

-- Who has changed what.
CREATE TABLE audit (
  number  INTEGER PRIMARY KEY AUTOINCREMENT,
  at      TEXT NOT NULL,
  by_kind TEXT NOT NULL,
  by_id   TEXT NOT NULL,
  by_name TEXT NOT NULL,
  action  TEXT NOT NULL,
  object  TEXT NOT NULL,
  detail  TEXT
);
CREATE TRIGGER audit_stays BEFORE UPDATE ON audit BEGIN
  SELECT raise(ABORT, 'the audit log is only added to');
END;

-- Occasions that decisions have taken: each only once.
CREATE TABLE occasions (
  key TEXT PRIMARY KEY,
  run INTEGER NOT NULL
) WITHOUT ROWID;

-- What chains keep from run to run.
CREATE TABLE kept_values (
  chain TEXT NOT NULL,
  name  TEXT NOT NULL,
  value TEXT NOT NULL,
  run   INTEGER NOT NULL,
  seq   INTEGER NOT NULL,
  PRIMARY KEY (chain, name)
);
