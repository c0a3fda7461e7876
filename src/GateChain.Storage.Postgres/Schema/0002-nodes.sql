-- The service that a run was claimed by, among those that share this database; empty for one that has it alone. One
-- that was let go may be claimed by anybody.
ALTER TABLE runs ADD owner words NOT NULL DEFAULT '';
ALTER TABLE runs ADD let_go boolean NOT NULL DEFAULT false;
CREATE INDEX runs_by_owner ON runs (owner) WHERE ended IS NULL;

-- How often runs of a service were claimed. Its writers take the row for share in each transaction: while the number is
-- what it was, every epoch that they know still counts, and they need not look at the runs. Who claims a run changes the
-- number of its owner first, and so waits for what that one is writing.
CREATE TABLE claims (
  owner words PRIMARY KEY,
  taken BIGINT NOT NULL DEFAULT 0
);
INSERT INTO claims (owner) VALUES ('');

-- The services that share this database. Moments are the database's own.
CREATE TABLE nodes (
  id        words PRIMARY KEY,
  name      words NOT NULL,
  address   words NOT NULL,
  labels    words NOT NULL,
  version   words NOT NULL,
  started   timestamptz NOT NULL,
  seen      timestamptz NOT NULL,
  owns_runs boolean NOT NULL,
  draining  boolean NOT NULL DEFAULT false,
  left_at   timestamptz,
  -- It was gone without a word: what it had started may still be ending.
  buried    boolean NOT NULL DEFAULT false
);
CREATE INDEX nodes_by_name ON nodes (name);

-- Where they agree on who is there.
CREATE TABLE members (
  id      words PRIMARY KEY,
  version BIGINT NOT NULL,
  body    words NOT NULL
);
CREATE TABLE members_version (
  "only"  BIGINT PRIMARY KEY CHECK ("only" = 1),
  version BIGINT NOT NULL
);
INSERT INTO members_version VALUES (1, 0);

-- What services keep in memory is told to all of them when it changes. Not what changes with each request or fire: when
-- a session was seen last, or how far a schedule has got.
CREATE FUNCTION tell_change() RETURNS trigger LANGUAGE plpgsql AS $body$
BEGIN
  PERFORM pg_notify('gatechain', TG_ARGV[0]);
  RETURN NULL;
END
$body$;
CREATE TRIGGER told AFTER INSERT OR UPDATE OR DELETE ON chains
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Workspace');
CREATE TRIGGER told AFTER INSERT ON numbered_releases FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Workspace');
CREATE TRIGGER told AFTER INSERT ON files FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Workspace');
CREATE TRIGGER told AFTER INSERT ON drafts FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Drafts');
CREATE TRIGGER told AFTER INSERT OR UPDATE OR DELETE ON secrets
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Secrets');
CREATE TRIGGER told AFTER INSERT OR UPDATE OR DELETE ON accounts
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Access');
CREATE TRIGGER told AFTER INSERT OR DELETE OR UPDATE OF body ON access_tokens
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Access');
CREATE TRIGGER told AFTER INSERT OR DELETE OR UPDATE OF body ON sessions
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Access');
CREATE TRIGGER told AFTER INSERT OR UPDATE OR DELETE ON access_settings
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Access');
CREATE TRIGGER told AFTER INSERT OR DELETE OR UPDATE OF is_on, file_says, switched, text ON trigger_states
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Triggers');
CREATE TRIGGER told AFTER INSERT OR UPDATE OR DELETE ON holds
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Triggers');
CREATE TRIGGER told AFTER INSERT OR UPDATE ON backfills
  FOR EACH STATEMENT EXECUTE FUNCTION tell_change('Backfills');
