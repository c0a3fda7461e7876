-- The folder that a chain lies in, and the one that a run's chain lay in when it began; empty for the workspace itself.
ALTER TABLE chains ADD COLUMN area TEXT NOT NULL DEFAULT '';
ALTER TABLE drafts ADD COLUMN area TEXT NOT NULL DEFAULT '';
ALTER TABLE runs ADD COLUMN area TEXT NOT NULL DEFAULT '';
-- Where an attachment lay; null for the folder of its chain.
ALTER TABLE release_files ADD COLUMN place TEXT;
