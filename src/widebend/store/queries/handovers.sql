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
INSERT INTO invoices (number, job_id, content, who)
VALUES ((SELECT coalesce(max(number), 0) + 1 FROM invoices), :job_id, :content, :who) RETURNING number;

-- name: invoices_of
-- A job's invoices, the newest first.
SELECT number, content, who, made_at FROM invoices WHERE job_id = :job_id ORDER BY number DESC;
