-- name: add_card$
-- A card of a finished system.
INSERT INTO cards (name, vehicle, engine, wheelbase_mm, words, watch, content, minutes, shape, job_id)
VALUES (:name, :vehicle, :engine, :wheelbase_mm, :words, :watch, :content, :minutes, :shape, :job_id) RETURNING id;

-- name: cards
-- Cards by words, the likeliest first; all where none are asked for.
SELECT id, name, vehicle, engine, wheelbase_mm, words, watch, shape, made_at,
    CASE WHEN :words = '' THEN 0 ELSE word_similarity(lower(:words), lower(name || ' ' || vehicle || ' ' || engine || ' ' || words)) END AS score
FROM cards WHERE NOT gone AND (:words = '' OR lower(:words) <%% lower(name || ' ' || vehicle || ' ' || engine || ' ' || words))
    AND (:wheelbase::integer IS NULL OR abs(wheelbase_mm - :wheelbase) <= 100)
ORDER BY score DESC, id DESC LIMIT :most;

-- name: card^
-- One card.
SELECT id, name, vehicle, engine, wheelbase_mm, words, watch, content, minutes, shape, job_id, made_at FROM cards
WHERE id = :card_id AND NOT gone;

-- name: drop_card!
-- A card is out of every list.
UPDATE cards SET gone = true WHERE id = :card_id;
