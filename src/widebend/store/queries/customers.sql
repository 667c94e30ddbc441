-- name: alike!
-- How alike words must be in this transaction.
SELECT set_config('pg_trgm.word_similarity_threshold', :least::text, true);

-- name: find_customers
-- Customers by name or by the digits of their phone.
SELECT c.id, c.name, c.phone, ARRAY(SELECT j.id || ' ' || j.title FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id
        WHERE v.customer_id = c.id AND j.state <> 'deleted' ORDER BY j.id DESC LIMIT 3) AS jobs,
    greatest(word_similarity(lower(:words), lower(c.name)),
    CASE WHEN :digits <> '' AND regexp_replace(c.phone, '\D', '', 'g') LIKE '%%' || :digits || '%%' THEN 1.0 ELSE 0 END) AS score
FROM customers c
WHERE c.erased_at IS NULL AND (lower(:words) <%% lower(c.name)
    OR (:digits <> '' AND regexp_replace(c.phone, '\D', '', 'g') LIKE '%%' || :digits || '%%'))
ORDER BY score DESC, c.id DESC LIMIT :most;

-- name: find_vehicles
-- Vehicles by kind or plate.
SELECT v.id, v.kind, v.plate, v.customer_id, c.name AS customer, greatest(word_similarity(lower(:words), lower(v.kind || ' ' || v.plate)),
    CASE WHEN :plate <> '' AND regexp_replace(lower(v.plate), '[^a-z0-9]', '', 'g') LIKE '%%' || :plate || '%%' THEN 1.0 ELSE 0 END) AS score
FROM vehicles v JOIN customers c ON c.id = v.customer_id
WHERE lower(:words) <%% lower(v.kind || ' ' || v.plate)
    OR (:plate <> '' AND regexp_replace(lower(v.plate), '[^a-z0-9]', '', 'g') LIKE '%%' || :plate || '%%')
ORDER BY score DESC, v.id DESC LIMIT :most;

-- name: find_jobs
-- Jobs by title, or by their number.
SELECT j.id, j.title, j.state, v.kind AS vehicle, c.name AS customer, c.id AS customer_id,
    CASE WHEN j.id = :number THEN 2.0 ELSE word_similarity(lower(:words), lower(j.title)) END AS score
FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id JOIN customers c ON c.id = v.customer_id
WHERE j.state <> 'deleted' AND (j.id = :number OR lower(:words) <%% lower(j.title))
ORDER BY score DESC, j.id DESC LIMIT :most;

-- name: find_stock
-- What is on the shelf, by what it is called: a tube or bend by its kind, size and metal.
SELECT id, name, bin, counted, word_similarity(lower(:words), lower(name)) AS score
FROM (SELECT id, counted, content->>'bin' AS bin,
        concat_ws(' ', nullif(content->>'name', ''), content->>'kind', content->>'od_mm', (content->>'angle_deg') || '°',
            content->>'material') AS name
    FROM stock_items) named
WHERE lower(:words) <%% lower(name) ORDER BY score DESC, id DESC LIMIT :most;

-- name: customer^
-- One customer.
SELECT id, name, phone, erased_at FROM customers WHERE id = :customer_id;

-- name: vehicles_of
-- A customer's vehicles.
SELECT id, kind, plate FROM vehicles WHERE customer_id = :customer_id ORDER BY id DESC;

-- name: jobs_of_customer
-- All work on a customer's vehicles, the newest first.
SELECT j.id, j.vehicle_id, j.title, j.state, j.made_at, j.wanted, j.complaint, j.road_use, j.found_removed
FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id
WHERE v.customer_id = :customer_id AND j.state <> 'deleted' ORDER BY j.id DESC;

-- name: change_customer!
-- Another name or phone.
UPDATE customers SET name = :name, phone = :phone WHERE id = :customer_id;

-- name: change_vehicle!
-- Another description or plate.
UPDATE vehicles SET kind = :kind, plate = :plate WHERE id = :vehicle_id AND customer_id = :customer_id;

-- name: customers_like
-- Others that may be the same person: the same phone, or nearly the same name.
SELECT o.id, o.name, o.phone FROM customers c JOIN customers o ON o.id <> c.id AND o.erased_at IS NULL
WHERE c.id = :customer_id AND ((regexp_replace(c.phone, '\D', '', 'g') <> ''
        AND regexp_replace(o.phone, '\D', '', 'g') = regexp_replace(c.phone, '\D', '', 'g'))
    OR (lower(o.name) %% lower(c.name) AND similarity(lower(o.name), lower(c.name)) >= 0.6))
ORDER BY similarity(lower(o.name), lower(c.name)) DESC LIMIT 5;

-- name: move_vehicles!
-- The vehicles of one customer become another's.
UPDATE vehicles SET customer_id = :into WHERE customer_id = :customer_id;

-- name: drop_customer!
-- A customer without vehicles goes.
DELETE FROM customers WHERE id = :customer_id AND NOT EXISTS (SELECT 1 FROM vehicles WHERE customer_id = :customer_id);

-- name: erase_customer!
-- The person is gone from the books.
UPDATE customers SET name = 'erased', phone = '', erased_at = now() WHERE id = :customer_id;

-- name: erase_plates!
-- So are their plates.
UPDATE vehicles SET plate = '' WHERE customer_id = :customer_id;

-- name: erase_job_words!
-- And what they said.
UPDATE jobs SET wanted = '', complaint = '', said = '{}', signed_name = '' WHERE vehicle_id IN (SELECT id FROM vehicles WHERE customer_id = :customer_id);

-- name: erase_walk_rounds!
-- And what was seen and photographed of their vehicles.
DELETE FROM walk_round WHERE job_id IN (
    SELECT j.id FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id WHERE v.customer_id = :customer_id);

-- name: erase_answers!
-- And under what name they said yes.
UPDATE quotes SET answered = answered || '{"name": "erased", "words": ""}'
WHERE answered IS NOT NULL AND job_id IN (
    SELECT j.id FROM jobs j JOIN vehicles v ON v.id = j.vehicle_id WHERE v.customer_id = :customer_id);
