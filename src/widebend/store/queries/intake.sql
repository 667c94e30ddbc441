-- name: said^
-- What was said at the vehicle, and who signed it.
SELECT said, signed_name, signed_at, found_removed, promised_on FROM jobs WHERE id = :job_id;

-- name: set_said!
-- Keep what was said; what was signed before was signed of something else.
UPDATE jobs SET signed_name = CASE WHEN said = :said THEN signed_name ELSE '' END,
    signed_at = CASE WHEN said = :said THEN signed_at END, said = :said
WHERE id = :job_id;

-- name: promise_day!
-- By when it is promised.
UPDATE jobs SET promised_on = :promised_on WHERE id = :job_id;

-- name: sign_intake!
-- The customer says that it is so.
UPDATE jobs SET signed_name = :name, signed_at = now() WHERE id = :job_id;

-- name: walk_round
-- What was seen on the way round.
SELECT id, x, y, words, not_ours, sha256, who, made_at FROM walk_round WHERE job_id = :job_id ORDER BY id;

-- name: add_walk_round!
-- Something was seen.
INSERT INTO walk_round (job_id, x, y, words, not_ours, sha256, who) VALUES (:job_id, :x, :y, :words, :not_ours, :sha256, :who);

-- name: drop_walk_round!
-- It was nothing.
DELETE FROM walk_round WHERE id = :mark_id AND job_id = :job_id;
