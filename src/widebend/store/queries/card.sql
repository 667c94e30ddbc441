-- name: keep_stroke!
-- A stroke of a person; nothing where it came before.
INSERT INTO card_strokes (stroke) VALUES (:stroke) ON CONFLICT DO NOTHING;

-- name: card_steps
-- How far the pieces of a run have come at the bench.
SELECT piece_id, step, shape FROM card_steps WHERE document_id = :document_id AND run_id = :run_id;

-- name: set_card_step!
-- A step at the bench is done.
INSERT INTO card_steps (document_id, run_id, piece_id, step, shape)
VALUES (:document_id, :run_id, :piece_id, :step, :shape)
ON CONFLICT (document_id, run_id, piece_id, step) DO UPDATE SET shape = excluded.shape, made_at = now();

-- name: clear_card_step!
-- A step at the bench is not done after all.
DELETE FROM card_steps WHERE document_id = :document_id AND run_id = :run_id AND piece_id = :piece_id AND step = :step;

-- name: keep_card_photo!
-- A picture of a piece.
INSERT INTO card_photos (document_id, run_id, piece_id, sha256) VALUES (:document_id, :run_id, :piece_id, :sha256)
ON CONFLICT DO NOTHING;

-- name: card_photos
-- The pictures of a piece, oldest first.
SELECT sha256 FROM card_photos WHERE document_id = :document_id AND run_id = :run_id AND piece_id = :piece_id
ORDER BY made_at;
