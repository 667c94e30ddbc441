-- What belongs to a job is found without reading all of it.
CREATE INDEX stock_moves_of_a_job ON stock_moves (job_id);
CREATE INDEX cards_of_a_job ON cards (job_id);
