-- name: job_nest^
-- What was taken from the shelf for a job, or nothing.
SELECT content, who, made_at FROM job_nests WHERE job_id = :job_id;

-- name: keep_job_nest!
-- Keep what is taken for a job; nothing where something is taken already.
INSERT INTO job_nests (job_id, content, who) VALUES (:job_id, :content, :who) ON CONFLICT DO NOTHING;

-- name: drop_job_nest^
-- Take away what was taken for a job; what it was comes back.
DELETE FROM job_nests WHERE job_id = :job_id RETURNING content, who, made_at;

-- name: job_orders
-- How far the lines of a job's parts list have come.
SELECT line, state, who, made_at FROM job_orders WHERE job_id = :job_id;

-- name: set_job_order!
-- Say how far a line has come.
INSERT INTO job_orders (job_id, line, state, who) VALUES (:job_id, :line, :state, :who)
ON CONFLICT (job_id, line) DO UPDATE SET state = excluded.state, who = excluded.who, made_at = now();

-- name: clear_job_order!
-- A line is as it was before anybody said.
DELETE FROM job_orders WHERE job_id = :job_id AND line = :line;
