-- By what a version came: push, save, release … ; unknown for those of earlier versions.
ALTER TABLE files ADD COLUMN action TEXT;
ALTER TABLE numbered_releases ADD COLUMN action TEXT;
