-- Releases by their numbers: added, never changed. The same content may be released again under a new number.
CREATE TABLE numbered_releases (
  chain   TEXT NOT NULL,
  number  INTEGER NOT NULL,
  release TEXT NOT NULL REFERENCES releases (hash),
  note    TEXT,
  author  TEXT NOT NULL,
  made    TEXT NOT NULL,
  PRIMARY KEY (chain, number)
);
INSERT INTO numbered_releases (chain, number, release, note, author, made)
  SELECT r.chain, row_number() OVER (PARTITION BY r.chain ORDER BY r.hash = c.release, r.pushed, r.rowid), r.hash, NULL, 'push', r.pushed
  FROM releases r JOIN chains c ON c.name = r.chain;
-- Drafts by version; the highest one counts. One without a source says that there is no draft any more.
CREATE TABLE drafts (
  chain   TEXT NOT NULL,
  version INTEGER NOT NULL,
  source  TEXT,
  base    INTEGER,
  author  TEXT NOT NULL,
  saved   TEXT NOT NULL,
  PRIMARY KEY (chain, version)
);
CREATE TABLE draft_files (
  chain   TEXT NOT NULL,
  name    TEXT NOT NULL,
  content BLOB NOT NULL,
  PRIMARY KEY (chain, name)
);
