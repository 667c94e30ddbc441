-- name: pricing^
-- What the shop asks for its work.
SELECT pricing FROM shop;

-- name: pricing_held^
-- The same, kept from others until this transaction ends.
SELECT pricing FROM shop FOR UPDATE;

-- name: set_pricing!
-- Say what the shop asks.
UPDATE shop SET pricing = :pricing;

-- name: job_prices^
-- What the parts of a job cost us.
SELECT prices FROM jobs WHERE id = :job_id;

-- name: set_job_prices!
-- Say what the parts of a job cost us.
UPDATE jobs SET prices = :prices WHERE id = :job_id;

-- name: send_quote$
-- A quote as it goes out.
INSERT INTO quotes (job_id, content, design_revision, token_hash, who, expires_at)
VALUES (:job_id, :content, :design_revision, :token_hash, :who, now() + make_interval(days => :days)) RETURNING id;

-- name: quotes_of_job
-- A job's quotes, the newest first.
SELECT id, content, design_revision, who, sent_at, expires_at, withdrawn_at, answered, answered_at
FROM quotes WHERE job_id = :job_id ORDER BY id DESC;

-- name: quote_by_token^
-- The quote behind a link, while it may be looked at: an answered one stays to be read.
SELECT q.id, q.job_id, q.content, q.design_revision, q.who, q.sent_at, q.expires_at, q.withdrawn_at, q.answered, q.answered_at
FROM quotes q WHERE q.token_hash = :token_hash AND q.withdrawn_at IS NULL
    AND (q.expires_at > now() OR q.answered IS NOT NULL);

-- name: answer_quote^
-- What the customer said; nothing where it was answered, withdrawn or has run out.
UPDATE quotes SET answered = :answered, answered_at = now()
WHERE id = :quote_id AND answered IS NULL AND withdrawn_at IS NULL AND expires_at > now() RETURNING job_id;

-- name: withdraw_quote!
-- Take a quote back: its link opens no more. One that was answered stays.
UPDATE quotes SET withdrawn_at = now() WHERE id = :quote_id AND job_id = :job_id AND answered IS NULL AND withdrawn_at IS NULL;

-- name: withdraw_open_quotes!
-- Withdraw what a job has on offer: a newer quote takes its place.
UPDATE quotes SET withdrawn_at = now() WHERE job_id = :job_id AND answered IS NULL AND withdrawn_at IS NULL;

-- name: note_link_try!
-- A link that is none was tried.
INSERT INTO link_tries (address) VALUES (:address);

-- name: link_tries$
-- How often an address tried such links lately.
SELECT count(*) FROM link_tries WHERE address = :address AND made_at > now() - interval '10 minutes';

-- name: forget_link_tries!
-- Old tries are of no use.
DELETE FROM link_tries WHERE made_at < now() - interval '1 hour';

-- name: plan_minutes!
-- What a step of a job was estimated to take.
INSERT INTO planned_minutes (job_id, step, minutes) VALUES (:job_id, :step, :minutes)
ON CONFLICT (job_id, step) DO UPDATE SET minutes = excluded.minutes;

-- name: planned_minutes
-- What the steps of a job were estimated to take.
SELECT step, minutes FROM planned_minutes WHERE job_id = :job_id;

-- name: past_minutes
-- Minutes planned and taken of each step of every job that was handed over, that has both; but for one job.
SELECT p.job_id, p.step, p.minutes AS planned,
    extract(epoch FROM sum(c.ended_at - c.started_at)) / 60.0 AS taken
FROM planned_minutes p
JOIN jobs j ON j.id = p.job_id AND j.state = 'done' AND j.id <> :but
JOIN clocks c ON c.job_id = p.job_id AND c.step = p.step AND c.ended_at IS NOT NULL
GROUP BY p.job_id, p.step, p.minutes ORDER BY p.job_id, p.step;

-- name: running_clock^
-- The clock that a person has running.
SELECT id, job_id, step, who, started_at FROM clocks WHERE who = :who AND ended_at IS NULL;

-- name: running_clocks
-- Every clock that runs.
SELECT c.id, c.job_id, c.step, c.who, c.started_at, j.title FROM clocks c JOIN jobs j ON j.id = c.job_id
WHERE c.ended_at IS NULL ORDER BY c.started_at;

-- name: add_clock!
-- A stretch of work that was: for books that are taken over.
INSERT INTO clocks (job_id, step, who, started_at, ended_at) VALUES (:job_id, :step, :who, :started_at, :ended_at);

-- name: start_clock!
-- Somebody begins a step; nothing where another clock of theirs runs.
INSERT INTO clocks (job_id, step, who) VALUES (:job_id, :step, :who) ON CONFLICT DO NOTHING;

-- name: stop_clock!
-- Somebody ends what they work at, now or at an earlier time. A clock of no length is ended a moment later.
UPDATE clocks SET ended_at = greatest(coalesce(:ended_at, now()), started_at + interval '1 second')
WHERE who = :who AND ended_at IS NULL;

-- name: drop_clock!
-- A clock that was never meant.
DELETE FROM clocks WHERE id = :clock_id AND job_id = :job_id;

-- name: correct_clock!
-- An ended clock ran for another time than it was clocked.
UPDATE clocks SET ended_at = started_at + make_interval(secs => 60 * :minutes)
WHERE id = :clock_id AND job_id = :job_id AND ended_at IS NOT NULL;

-- name: clocks_of_job
-- Every clock of a job, the newest first, with its minutes until now.
SELECT id, step, who, started_at, ended_at,
    greatest(extract(epoch FROM coalesce(ended_at, now()) - started_at), 0) / 60.0 AS minutes
FROM clocks WHERE job_id = :job_id ORDER BY started_at DESC;

-- name: add_log!
-- Note something on a job.
INSERT INTO job_log (job_id, kind, words, cause, minutes, cost, who, sha256, made_at)
VALUES (:job_id, :kind, :words, :cause, :minutes, :cost, :who, :sha256, coalesce(:made_at, now()));

-- name: log_of_job
-- What was noted on a job, the newest first.
SELECT id, kind, words, cause, minutes, cost, who, sha256, made_at FROM job_log WHERE job_id = :job_id ORDER BY made_at DESC, id DESC;

-- name: mistakes_since
-- Mistakes of the last months by cause: how many, minutes, cost.
SELECT cause, count(*) AS times, sum(minutes) AS minutes, sum(cost) AS cost FROM job_log
WHERE kind = 'mistake' AND made_at > now() - make_interval(months => :months) GROUP BY cause ORDER BY sum(minutes) DESC;
