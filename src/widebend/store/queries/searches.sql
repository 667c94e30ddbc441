-- name: add_search^
-- A search waiting for a worker.
INSERT INTO searches (design_id, revision, run, wish, design, found)
VALUES (:design_id, :revision, :run, :wish, :design, :found) RETURNING id;

-- name: search^
-- One search.
SELECT id, design_id, revision, run, wish, state, said, share, found FROM searches WHERE id = :id;

-- name: begin_search^
-- A worker takes a search up, perhaps again after another died over it; nothing when it was stopped or has ended.
UPDATE searches SET state = 'working', tries = tries + 1, said = '', share = 0
WHERE id = :id AND state IN ('waiting', 'working') RETURNING id, run, wish, design, tries, found;

-- name: settle_search!
-- One that should stop when its worker died over it has stopped.
UPDATE searches SET state = 'stopped', ended_at = now() WHERE id = :id AND state = 'stopping';

-- name: tell_search^
-- How far it is; what state it is in now, so that the worker sees that it should stop.
UPDATE searches SET said = :said, share = :share, found = coalesce(:found, found) WHERE id = :id RETURNING state;

-- name: end_search!
-- What came of it.
UPDATE searches SET state = :state, said = :said, share = 1, found = coalesce(:found, found), ended_at = now()
WHERE id = :id;

-- name: stop_search!
-- Stop it: at once while nobody works on it, else when the worker looks.
UPDATE searches SET state = CASE WHEN state = 'waiting' THEN 'stopped' ELSE 'stopping' END
WHERE id = :id AND state IN ('waiting', 'working');
