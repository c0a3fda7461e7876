-- Who may use the service. Bodies are JSON: nothing is looked for in them.
CREATE TABLE accounts (
  id      TEXT PRIMARY KEY,
  -- As it is compared: in lower case.
  name    TEXT NOT NULL UNIQUE,
  -- What an OpenID provider calls them, with its issuer.
  outside TEXT UNIQUE,
  body    TEXT NOT NULL
);
CREATE TABLE access_tokens (
  id      TEXT PRIMARY KEY,
  hash    TEXT NOT NULL UNIQUE,
  account TEXT NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  body    TEXT NOT NULL,
  used    TEXT
);
CREATE TABLE sessions (
  hash    TEXT PRIMARY KEY,
  account TEXT NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
  body    TEXT NOT NULL,
  seen    TEXT NOT NULL
);
CREATE TABLE one_time_links (
  hash    TEXT PRIMARY KEY,
  account TEXT REFERENCES accounts (id) ON DELETE CASCADE,
  expires TEXT NOT NULL
);
CREATE TABLE access_settings (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
);

-- From where, and through what.
ALTER TABLE audit ADD COLUMN source TEXT;
ALTER TABLE audit ADD COLUMN through TEXT;
CREATE TRIGGER audit_is_kept BEFORE DELETE ON audit BEGIN
  SELECT raise(ABORT, 'the audit log is only added to');
END;
-- The hash of each line and of all before it; written a moment after the line.
CREATE TABLE audit_seals (
  number INTEGER PRIMARY KEY,
  hash   TEXT NOT NULL
);

-- Where the run of a leg lies, so that people are shown what is theirs.
ALTER TABLE history ADD COLUMN area TEXT NOT NULL DEFAULT '';
UPDATE history SET area = coalesce((SELECT runs.area FROM runs WHERE runs.id = history.run), '');
