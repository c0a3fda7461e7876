-- Checksums (XxHash3) of what was written, so that what the disk has changed is found when it is read. Null for rows of
-- earlier versions.
ALTER TABLE journal ADD COLUMN sum INTEGER;
ALTER TABLE journal_tail ADD COLUMN sum INTEGER;
