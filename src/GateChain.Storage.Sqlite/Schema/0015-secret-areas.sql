-- The folder of the workspace that may use a secret, and those below; empty for all.
ALTER TABLE secrets ADD COLUMN area TEXT NOT NULL DEFAULT '';
