-- The call that a run is a child of, whether it is late, and when it is resumed by itself.
ALTER TABLE runs ADD COLUMN parent INTEGER;
ALTER TABLE runs ADD COLUMN parent_step TEXT;
ALTER TABLE runs ADD COLUMN parent_attempt INTEGER;
ALTER TABLE runs ADD COLUMN late INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN resume_at TEXT;
CREATE INDEX runs_by_parent ON runs (parent, parent_step) WHERE parent IS NOT NULL;
CREATE INDEX runs_to_resume ON runs (id) WHERE resume_at IS NOT NULL;
