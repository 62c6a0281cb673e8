-- How many time steps a token's clock was ahead when it was used last.
ALTER TABLE app_secret ADD COLUMN drift bigint NOT NULL DEFAULT 0;
-- By what is printed on it; nobody's second token has the serial of another.
ALTER TABLE app_secret ADD COLUMN serial text UNIQUE;
