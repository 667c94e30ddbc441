-- name: board
-- Every open job with what it waits for, its promise, hours planned and taken, and its next action.
SELECT j.id, j.title, v.kind AS vehicle, c.name AS customer, j.promised_on, j.waits_on, j.waits_until, j.waits_for, j.bay_id,
    b.name AS bay, coalesce(p.minutes, 0) / 60.0 AS planned, coalesce(k.minutes, 0) / 60.0 AS taken, m.step, m.words, m.figure
FROM jobs j
JOIN vehicles v ON v.id = j.vehicle_id
JOIN customers c ON c.id = v.customer_id
LEFT JOIN bays b ON b.id = j.bay_id
LEFT JOIN job_summaries m ON m.job_id = j.id
LEFT JOIN LATERAL (SELECT sum(minutes) AS minutes FROM planned_minutes WHERE job_id = j.id) p ON true
LEFT JOIN LATERAL (SELECT sum(greatest(extract(epoch FROM coalesce(ended_at, now()) - started_at), 0) / 60.0) AS minutes
    FROM clocks WHERE job_id = j.id) k ON true
WHERE j.state = 'open' ORDER BY j.promised_on NULLS LAST, j.id;

-- name: list_of_jobs
-- Every job, for a table.
SELECT j.id, j.title, j.state, v.kind, v.plate, c.name, j.made_at::date, j.promised_on
FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id JOIN customers c ON c.id = v.customer_id
WHERE j.state <> 'deleted' ORDER BY j.id;

-- name: list_of_customers
-- Every customer, for a table.
SELECT c.name, c.phone, count(DISTINCT v.id) AS vehicles, count(j.id) AS jobs, max(j.made_at)::date AS last
FROM customers c LEFT JOIN vehicles v ON v.customer_id = c.id LEFT JOIN jobs j ON j.vehicle_id = v.id AND j.state <> 'deleted'
GROUP BY c.id, c.name, c.phone ORDER BY lower(c.name), c.id;

-- name: promise!
-- What is promised, and what a job waits for.
UPDATE jobs SET promised_on = :promised_on, waits_on = :waits_on, waits_until = :waits_until, waits_for = :waits_for
WHERE id = :job_id;

-- name: hours_today
-- Minutes of each person today; none where the machine's clock was put back meanwhile.
SELECT who, sum(greatest(extract(epoch FROM coalesce(ended_at, now()) - started_at), 0)) / 60.0 AS minutes FROM clocks
WHERE started_at >= date_trunc('day', now()) GROUP BY who ORDER BY who;
