-- How long runs are kept that have ended, by chain or folder.
CREATE TABLE keep_rules (
  place    words PRIMARY KEY,
  days     BIGINT,
  at_least BIGINT NOT NULL,
  at_most  BIGINT
);

-- Runs that stay whatever the rules say.
CREATE TABLE pins (
  run     BIGINT PRIMARY KEY,
  by_whom words NOT NULL,
  at      words NOT NULL,
  why     words
);
