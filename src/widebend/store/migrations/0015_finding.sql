-- One box finds customers, vehicles and jobs, typing mistakes forgiven: words alike by their three-letter pieces.
CREATE EXTENSION IF NOT EXISTS pg_trgm;

CREATE INDEX customers_by_words ON customers USING gin (lower(name) gin_trgm_ops);
CREATE INDEX customers_by_digits ON customers USING gin (regexp_replace(phone, '\D', '', 'g') gin_trgm_ops);
CREATE INDEX vehicles_by_words ON vehicles USING gin (lower(kind || ' ' || plate) gin_trgm_ops);
CREATE INDEX vehicles_by_plate ON vehicles USING gin (regexp_replace(lower(plate), '[^a-z0-9]', '', 'g') gin_trgm_ops);
CREATE INDEX jobs_by_words ON jobs USING gin (lower(title) gin_trgm_ops);
CREATE INDEX jobs_in_state ON jobs (state, id DESC);

-- Who was erased at their wish: the books stay whole, the person is gone from them.
ALTER TABLE customers ADD COLUMN erased_at timestamptz;
