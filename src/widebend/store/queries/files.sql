-- name: keep_file!
-- Keep a file under its hash and kind; one that is there already stays. A mesh may be the very bytes of its upload.
INSERT INTO files (sha256, kind, content) VALUES (:sha256, :kind, :content) ON CONFLICT (sha256, kind) DO NOTHING;

-- name: file^
-- A file's bytes.
SELECT content FROM files WHERE sha256 = :sha256 AND kind = :kind;

-- name: forget_uploads!
-- Drop meshes that were looked at and not taken, a day later.
DELETE FROM files WHERE kind = 'upload' AND made_at < now() - interval '1 day';

-- name: newest_survey_of_vehicle^
-- The newest survey of a vehicle.
SELECT r.content FROM documents d JOIN revisions r ON r.document_id = d.id
WHERE d.kind = 'survey' AND d.vehicle_id = :vehicle_id ORDER BY r.number DESC LIMIT 1;
