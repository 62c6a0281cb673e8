-- notification: what others may read. One row while telephones are reached through some gateway.
CREATE VIEW phone_set_up AS SELECT changed_at FROM phone_channel;
GRANT SELECT ON phone_set_up TO ${runningRole};
