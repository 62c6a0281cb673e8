-- The time at which a transaction began, for everything that is not a lease; those go by entente_time(), which moves on within it.
-- One function for each, so that whoever moves the clock moves all of it.
CREATE FUNCTION entente_now() RETURNS timestamptz LANGUAGE sql STABLE PARALLEL SAFE AS 'SELECT now()';
