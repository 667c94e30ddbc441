-- name: handover^
-- What was said at the hand-over of a job.
SELECT sound_before, sound_after, sound_how, words FROM handovers WHERE job_id = :job_id;

-- name: set_handover!
-- Say how it sounded, and what is said.
INSERT INTO handovers (job_id, sound_before, sound_after, sound_how, words)
VALUES (:job_id, :sound_before, :sound_after, :sound_how, :words)
ON CONFLICT (job_id) DO UPDATE SET sound_before = excluded.sound_before, sound_after = excluded.sound_after,
    sound_how = excluded.sound_how, words = excluded.words;

-- name: handover_checks
-- Checks that were made.
SELECT what, who, made_at FROM handover_checks WHERE job_id = :job_id;

-- name: check_handover!
-- A check was made.
INSERT INTO handover_checks (job_id, what, who) VALUES (:job_id, :what, :who) ON CONFLICT DO NOTHING;

-- name: uncheck_handover!
-- It was not.
DELETE FROM handover_checks WHERE job_id = :job_id AND what = :what;

-- name: lock_invoices!
-- One invoice is numbered after the other.
LOCK TABLE invoices IN SHARE ROW EXCLUSIVE MODE;

-- name: add_invoice$
-- The next invoice.
INSERT INTO invoices (number, job_id, content, who, made_at)
VALUES ((SELECT coalesce(max(number), 0) + 1 FROM invoices), :job_id, :content, :who, coalesce(:made_at, now()))
RETURNING number;

-- name: invoices_of
-- A job's invoices, the newest first.
SELECT number, content, who, made_at FROM invoices WHERE job_id = :job_id ORDER BY number DESC;

-- name: add_payment!
-- Something was paid, or given back.
INSERT INTO payments (job_id, amount, words, who) VALUES (:job_id, :amount, :words, :who);

-- name: payments_of
-- What was paid on a job, the oldest first.
SELECT id, amount, words, who, made_at FROM payments WHERE job_id = :job_id ORDER BY id;

-- name: months
-- Month by month: invoices with what they come to and what their metal and parts cost us, minutes worked, and of the jobs
-- whose last clock ran in it what was planned and taken; mistakes with their minutes and cost.
WITH worked AS (
    SELECT to_char(started_at, 'YYYY-MM') AS month, sum(extract(epoch FROM ended_at - started_at)) / 60.0 AS minutes
    FROM clocks WHERE ended_at IS NOT NULL GROUP BY 1
), billed AS (
    SELECT to_char(made_at, 'YYYY-MM') AS month, count(*) AS invoices,
        sum(coalesce((content->'offers'->0->'hours'->>'best')::float8, 0)) AS billed_h,
        sum((content->'offers'->0->'totals'->>'net')::bigint) AS net,
        sum((SELECT coalesce(sum((line->>'cost')::bigint), 0) FROM jsonb_array_elements(content->'offers'->0->'lines') line
             WHERE line->>'group' <> 'work')) AS material
    FROM invoices GROUP BY 1
), wrong AS (
    SELECT to_char(made_at, 'YYYY-MM') AS month, count(*) AS mistakes, sum(minutes) AS lost, sum(cost) AS cost
    FROM job_log WHERE kind = 'mistake' GROUP BY 1
)
SELECT month, coalesce(invoices, 0) AS invoices, coalesce(net, 0) AS net, coalesce(material, 0) AS material,
    coalesce(billed_h, 0) AS billed_h,
    coalesce(minutes, 0) AS minutes, coalesce(mistakes, 0) AS mistakes, coalesce(lost, 0) AS lost, coalesce(cost, 0) AS cost
FROM worked FULL JOIN billed USING (month) FULL JOIN wrong USING (month) ORDER BY month DESC LIMIT :most;

-- name: month_steps
-- Of the jobs that were handed over and whose last clock ran in a month: minutes planned and taken of each step.
WITH ended AS (
    SELECT c.job_id, to_char(max(c.ended_at), 'YYYY-MM') AS month FROM clocks c JOIN jobs j ON j.id = c.job_id AND j.state = 'done'
    WHERE c.ended_at IS NOT NULL GROUP BY c.job_id
), took AS (
    SELECT c.job_id, c.step, sum(extract(epoch FROM c.ended_at - c.started_at)) / 60.0 AS minutes
    FROM clocks c JOIN ended e ON e.job_id = c.job_id WHERE c.ended_at IS NOT NULL GROUP BY c.job_id, c.step
)
SELECT e.month, coalesce(p.step, t.step) AS step, sum(coalesce(p.minutes, 0)) AS planned, sum(coalesce(t.minutes, 0)) AS taken
FROM (SELECT job_id, step, minutes FROM planned_minutes WHERE job_id IN (SELECT job_id FROM ended)) p
FULL JOIN took t ON t.job_id = p.job_id AND t.step = p.step
JOIN ended e ON e.job_id = coalesce(p.job_id, t.job_id)
GROUP BY 1, 2 ORDER BY 1, 2;
