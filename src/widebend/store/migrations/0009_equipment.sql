-- What the shop can do: saw, benders with their dies, welding, tables, lift.
ALTER TABLE shop ADD COLUMN equipment jsonb NOT NULL DEFAULT '{}';
