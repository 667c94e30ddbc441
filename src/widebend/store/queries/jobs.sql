-- name: shop^
-- The shop's name and rule book, or nothing before the first start.
SELECT name, rules, stand_ins, is_demo FROM shop;

-- name: equipment_held^
-- What the shop can do, kept from others until this transaction ends.
SELECT equipment FROM shop FOR UPDATE;

-- name: equipment^
-- What the shop can do.
SELECT equipment FROM shop;

-- name: set_equipment!
-- Say what the shop can do.
UPDATE shop SET equipment = :equipment;

-- name: set_demo!
-- Whether these books are the demo's.
UPDATE shop SET is_demo = :is_demo;

-- name: let_stand_ins!
-- Whether stand-ins of measuring tools may answer.
UPDATE shop SET stand_ins = :let;

-- name: set_shop!
-- Name the shop and set its rules.
INSERT INTO shop (name, rules) VALUES (:name, :rules)
ON CONFLICT (only_one) DO UPDATE SET name = excluded.name, rules = excluded.rules;

-- name: add_customer$
-- A new customer's id.
INSERT INTO customers (name, phone) VALUES (:name, :phone) RETURNING id;

-- name: add_vehicle$
-- A new vehicle's id.
INSERT INTO vehicles (customer_id, kind, plate) VALUES (:customer_id, :kind, :plate) RETURNING id;

-- name: add_bay$
-- A new bay's id.
INSERT INTO bays (name, position) VALUES (:name, :position) RETURNING id;

-- name: add_job$
-- A new job's id.
INSERT INTO jobs (vehicle_id, title, wanted, complaint, road_use, found_removed)
VALUES (:vehicle_id, :title, :wanted, :complaint, :road_use, :found_removed) RETURNING id;

-- name: date_job!
-- When a job came in: for books that are taken over.
UPDATE jobs SET made_at = :made_at WHERE id = :job_id;

-- name: change_job!
-- What was said at intake; a signature under something else is one no more.
UPDATE jobs SET
    signed_name = CASE WHEN (title, wanted, complaint, road_use, found_removed) = (:title, :wanted, :complaint, :road_use, :found_removed)
        THEN signed_name ELSE '' END,
    signed_at = CASE WHEN (title, wanted, complaint, road_use, found_removed) = (:title, :wanted, :complaint, :road_use, :found_removed)
        THEN signed_at END,
    title = :title, wanted = :wanted, complaint = :complaint, road_use = :road_use,
    found_removed = :found_removed, waits_for = :waits_for
WHERE id = :job_id;

-- name: put_in_bay!
-- Put a job on a lift, or take it off with none. A lift holds one job: free it first.
UPDATE jobs SET bay_id = :bay_id WHERE id = :job_id;

-- name: lock_bay^
-- Hold a lift while the job on it changes.
SELECT id FROM bays WHERE id = :bay_id FOR UPDATE;

-- name: job_in_bay^
-- The open job that stands in a bay.
SELECT id FROM jobs WHERE bay_id = :bay_id AND state = 'open';

-- name: clear_bay!
-- Free a lift.
UPDATE jobs SET bay_id = NULL WHERE bay_id = :bay_id;

-- name: set_state!
-- Hand a job over, put it away, delete it, or open it again; only an open one keeps its lift.
UPDATE jobs SET state = :state, bay_id = CASE WHEN :state = 'open' THEN bay_id END WHERE id = :job_id;

-- name: job^
-- One job with its customer, vehicle and documents.
SELECT j.id, j.title, j.wanted, j.complaint, j.road_use, j.found_removed, j.waits_for, j.state, j.bay_id,
    v.id AS vehicle_id, v.kind AS vehicle, v.plate, c.name AS customer, c.phone,
    s.id AS survey_id, d.id AS design_id,
    CASE WHEN EXISTS (SELECT FROM quotes q WHERE q.job_id = j.id AND q.answered_at IS NOT NULL) THEN 'agreed'
        WHEN EXISTS (SELECT FROM quotes q WHERE q.job_id = j.id AND q.withdrawn_at IS NULL) THEN 'sent'
        ELSE '' END AS quote
FROM jobs j
JOIN vehicles v ON v.id = j.vehicle_id
JOIN customers c ON c.id = v.customer_id
LEFT JOIN documents s ON s.kind = 'survey' AND s.vehicle_id = v.id
LEFT JOIN documents d ON d.kind = 'design' AND d.job_id = j.id
WHERE j.id = :job_id;

-- name: bays
-- The lifts and places in order.
SELECT id, name FROM bays ORDER BY position;

-- name: customers
-- Everyone who has been here, for choosing again.
SELECT id, name, phone FROM customers ORDER BY name;

-- name: vehicles
-- The vehicles that were here last, with whose they are; one by its number is always among them.
SELECT v.id, v.kind, v.plate, c.name AS customer FROM vehicles v JOIN customers c ON c.id = v.customer_id
WHERE v.id = :also OR v.id IN (SELECT id FROM vehicles ORDER BY id DESC LIMIT :most) ORDER BY v.id = :also DESC, v.id DESC;

-- name: surveyed_vehicles
-- Other vehicles whose survey holds things: of the same kind, or of those that were here lately.
SELECT v.id, v.kind, v.plate, c.name AS customer FROM vehicles v
JOIN customers c ON c.id = v.customer_id
JOIN documents d ON d.kind = 'survey' AND d.vehicle_id = v.id
JOIN LATERAL (SELECT content FROM revisions WHERE document_id = d.id ORDER BY number DESC LIMIT 1) r ON true
WHERE v.id <> :vehicle_id AND jsonb_array_length(coalesce(r.content -> 'things', '[]')) > 0
    AND (v.kind = :kind OR v.id > (SELECT max(id) FROM vehicles) - :lately)
ORDER BY v.kind <> :kind, v.kind, v.id DESC LIMIT :most;

-- name: card_marks
-- The creeper card's ticks for one run, each with the shape of the piece as it was cut.
SELECT piece_id, outcome, note, shape, seconds FROM card_marks WHERE document_id = :document_id AND run_id = :run_id;

-- name: set_card_mark!
-- Tick a piece, or say it went wrong.
INSERT INTO card_marks (document_id, run_id, piece_id, outcome, note, shape, seconds)
VALUES (:document_id, :run_id, :piece_id, :outcome, :note, :shape, :seconds)
ON CONFLICT (document_id, run_id, piece_id) DO UPDATE
SET outcome = excluded.outcome, note = excluded.note, shape = excluded.shape, seconds = excluded.seconds, marked_at = now();

-- name: clear_card_mark!
-- Take a tick back.
DELETE FROM card_marks WHERE document_id = :document_id AND run_id = :run_id AND piece_id = :piece_id;

-- name: floor_jobs
-- Every open job, oldest first, with its newest revisions' numbers and what was worked out of it last.
SELECT j.id, j.title, j.wanted, j.road_use, j.waits_for, j.bay_id, v.kind AS vehicle, c.name AS customer,
    s.id AS survey_id, d.id AS design_id,
    (SELECT max(number) FROM revisions WHERE document_id = s.id) AS survey_revision,
    (SELECT max(number) FROM revisions WHERE document_id = d.id) AS design_revision,
    (SELECT n.made_at FROM job_nests n WHERE n.job_id = j.id) AS nest_made,
    m.made_from, m.step, m.words, m.figure
FROM jobs j
JOIN vehicles v ON v.id = j.vehicle_id
JOIN customers c ON c.id = v.customer_id
LEFT JOIN documents s ON s.kind = 'survey' AND s.vehicle_id = v.id
LEFT JOIN documents d ON d.kind = 'design' AND d.job_id = j.id
LEFT JOIN job_summaries m ON m.job_id = j.id
WHERE j.state = 'open'
ORDER BY j.made_at, j.id;

-- name: keep_summary!
-- What the floor needs of a job, and what it was worked out from.
INSERT INTO job_summaries (job_id, made_from, step, words, figure)
VALUES (:job_id, :made_from, :step, :words, :figure)
ON CONFLICT (job_id) DO UPDATE
SET made_from = excluded.made_from, step = excluded.step, words = excluded.words, figure = excluded.figure;

-- name: jobs_in_state
-- Jobs in a state, newest first; no more of them than anybody reads.
SELECT j.id, j.title, j.state, v.kind AS vehicle, c.name AS customer
FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id JOIN customers c ON c.id = v.customer_id
WHERE j.state = ANY(:states) ORDER BY j.id DESC LIMIT :most;

-- name: count_in_state$
-- How many jobs are in a state.
SELECT count(*) FROM jobs WHERE state = ANY(:states);
