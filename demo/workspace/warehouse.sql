CREATE TABLE IF NOT EXISTS pickups (
  pickup_id TEXT NOT NULL,
  depot     TEXT NOT NULL,
  farm_id   TEXT NOT NULL,
  tanker    TEXT NOT NULL,
  taken_at  TEXT NOT NULL,
  litres    REAL NOT NULL,
  degrees   REAL
);
CREATE INDEX IF NOT EXISTS pickups_by_day ON pickups (taken_at);
CREATE TABLE IF NOT EXISTS prices (
  valid_from      TEXT PRIMARY KEY,
  cents_per_litre REAL NOT NULL
);
CREATE TABLE IF NOT EXISTS payments (
  day     TEXT NOT NULL,
  farm_id TEXT NOT NULL,
  litres  REAL NOT NULL,
  cents   REAL,
  PRIMARY KEY (day, farm_id)
);
