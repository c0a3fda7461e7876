-- Who started a run, and why there is one. Runs of earlier versions have a name only.
ALTER TABLE runs ADD COLUMN by_kind TEXT;
ALTER TABLE runs ADD COLUMN by_id TEXT;
ALTER TABLE runs ADD COLUMN origin TEXT;
ALTER TABLE runs ADD COLUMN origin_key TEXT;
UPDATE runs SET origin = 'call', origin_key = 'call:' || parent || ':' || parent_attempt || ':' || parent_step
  WHERE parent IS NOT NULL AND NOT EXISTS (
    SELECT 1 FROM runs o
    WHERE o.parent = runs.parent AND o.parent_step = runs.parent_step AND o.parent_attempt = runs.parent_attempt AND o.id < runs.id
  );
-- There is one run for an occasion at most.
CREATE UNIQUE INDEX runs_by_origin ON runs (origin_key) WHERE origin_key IS NOT NULL;
