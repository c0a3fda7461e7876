-- Nothing starts a chain any more from this moment on; null for chains in use.
ALTER TABLE chains ADD COLUMN retired TEXT;
ALTER TABLE chains ADD COLUMN retired_by TEXT;
ALTER TABLE chains ADD COLUMN retired_why TEXT;
