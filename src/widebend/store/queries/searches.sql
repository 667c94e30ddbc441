-- name: add_search^
-- A search waiting for a worker.
INSERT INTO searches (design_id, revision, run, wish, design, found, who)
VALUES (:design_id, :revision, :run, :wish, :design, :found, :who) RETURNING id;

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
-- How far it is; what state it is in now, so that the worker sees that it should stop: nothing, so stop too, when
-- another worker has taken it up since or it has ended.
UPDATE searches SET said = :said, share = :share, found = coalesce(:found, found)
WHERE id = :id AND tries = :tries AND ended_at IS NULL RETURNING state;

-- name: end_search!
-- What came of it, unless another worker has taken it up since.
UPDATE searches SET state = :state, said = :said, share = 1, found = coalesce(:found, found), ended_at = now()
WHERE id = :id AND tries = :tries AND ended_at IS NULL;

-- name: stop_search!
-- Stop it: at once while nobody works on it, else when the worker looks.
UPDATE searches SET state = CASE WHEN state = 'waiting' THEN 'stopped' ELSE 'stopping' END,
    ended_at = CASE WHEN state = 'waiting' THEN now() END
WHERE id = :id AND state IN ('waiting', 'working');

-- name: stop_other_searches!
-- A newer question of a design takes the place of the older ones: nobody looks at those any more. A nest, photos and a
-- way are looked at on different sheets: none stops the other.
UPDATE searches SET state = CASE WHEN state = 'waiting' THEN 'stopped' ELSE 'stopping' END,
    ended_at = CASE WHEN state = 'waiting' THEN now() END
WHERE design_id = :design_id AND id <> :id AND state IN ('waiting', 'working')
    AND search_sheet(wish) = (SELECT search_sheet(asked.wish) FROM searches asked WHERE asked.id = :id);

-- name: newest_search^
-- The newest one for the very same question, whatever it was asked of.
SELECT id, design_id, revision, run, wish, state, said, share, found FROM searches
WHERE design_id = :design_id AND wish = :wish ORDER BY id DESC LIMIT 1;

-- name: same_search^
-- One that goes on already for the very same question.
SELECT id FROM searches
WHERE design_id = :design_id AND revision = :revision AND run = :run AND wish = :wish
    AND state IN ('waiting', 'working')
ORDER BY id DESC LIMIT 1;

-- name: searches_waiting$
-- How many stand in line.
SELECT count(*) FROM searches WHERE state = 'waiting';

-- name: searches_of^
-- How many of somebody's stand in line, and how many of them go on or stand in line.
SELECT count(*) FILTER (WHERE state = 'waiting') AS waiting, count(*) AS open FROM searches
WHERE who = :who AND state IN ('waiting', 'working');

-- name: queue_search!
-- Put a search on the queue: by the queue's own function, so in the transaction that writes the search down. The more
-- of somebody's are open, the less urgent is the next: everybody's first comes before anybody's second.
SELECT procrastinate_defer_jobs_v1(ARRAY[ROW(
    'searches', 'search', -:before::integer, NULL, NULL, jsonb_build_object('search_id', :id::bigint), NULL
)::procrastinate_job_to_defer_v1]);

-- name: queue_lost_searches!
-- Those that wait, or are said to be worked on, and are on no queue: written down by an older program, or their task
-- failed. Everybody's first before anybody's second here too.
SELECT procrastinate_defer_jobs_v1(array_agg(ROW(
    'searches', 'search', lost.urgent, NULL, NULL, jsonb_build_object('search_id', lost.id), NULL
)::procrastinate_job_to_defer_v1 ORDER BY lost.id))
FROM (
    SELECT s.id, (1 - row_number() OVER (PARTITION BY s.who ORDER BY s.id))::integer AS urgent FROM searches s
    WHERE s.ended_at IS NULL AND s.state IN ('waiting', 'working', 'stopping')
        AND NOT EXISTS (
            SELECT 1 FROM procrastinate_jobs j
            WHERE j.task_name = 'search' AND j.status IN ('todo', 'doing') AND (j.args ->> 'search_id')::bigint = s.id
        )
) lost
HAVING count(*) > 0;

-- name: ways_at_once$
-- What was found for a question while a page waited.
SELECT found FROM ways_at_once WHERE asked = :asked;

-- name: keep_ways_at_once!
-- Keep it; of two that looked at the same time the first is as good.
INSERT INTO ways_at_once (asked, found) VALUES (:asked, :found) ON CONFLICT (asked) DO NOTHING;

-- name: clear_ways_at_once!
-- Nobody has a page open on those any more.
DELETE FROM ways_at_once WHERE made_at < now() - make_interval(days => :days);

-- name: clear_searches!
-- Those that ended long ago go, with what they found; the last few of a design stay.
DELETE FROM searches s
WHERE s.ended_at < now() - make_interval(days => :days)
    AND (SELECT count(*) FROM searches n WHERE n.design_id = s.design_id AND n.id > s.id) >= :last;
