-- The one time by which leases, holds and ends of deliveries are judged, whatever the clocks of the nodes say.
CREATE FUNCTION entente_time() RETURNS timestamptz LANGUAGE sql VOLATILE PARALLEL SAFE AS 'SELECT clock_timestamp()';
