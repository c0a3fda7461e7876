-- Values that nobody is shown. The key that they are encrypted with is not in this file.
CREATE TABLE secrets (
  name    TEXT PRIMARY KEY,
  cipher  TEXT NOT NULL,
  author  TEXT NOT NULL,
  changed TEXT NOT NULL
);
