-- name: refit_ticks
-- What is done on the refit card, with what was read there.
SELECT step, reading, who, made_at FROM refit_ticks WHERE document_id = :document_id;

-- name: set_refit_tick!
-- A step is done.
INSERT INTO refit_ticks (document_id, step, reading, who) VALUES (:document_id, :step, :reading, :who)
ON CONFLICT (document_id, step) DO UPDATE SET reading = excluded.reading, who = excluded.who, made_at = now();

-- name: clear_refit_tick!
-- A step is not done after all.
DELETE FROM refit_ticks WHERE document_id = :document_id AND step = :step;

-- name: moved_parts
-- What was moved to get in.
SELECT id, name, who FROM moved_parts WHERE document_id = :document_id ORDER BY id;

-- name: add_moved_part!
-- Something was moved to get in.
INSERT INTO moved_parts (document_id, name, who) VALUES (:document_id, :name, :who) ON CONFLICT DO NOTHING;

-- name: forget_moved_part!
-- It was not moved after all.
DELETE FROM moved_parts WHERE document_id = :document_id AND id = :id;
