-- name: add_tag_photo$
-- A photo of tags; nothing where the job has it already.
INSERT INTO tag_photos (job_id, sha256, content, width, height, focal_px, lens, seen, trouble, who, in_set)
VALUES (:job_id, :sha256, :content, :width, :height, :focal_px, :lens, :seen, :trouble, :who, :in_set)
ON CONFLICT (job_id, sha256) DO NOTHING RETURNING id;

-- name: tag_photos
-- A job's photos of tags, the oldest first, without their pixels.
SELECT id, width, height, focal_px, lens, seen, trouble, who, made_at, in_set, octet_length(content) AS bytes
FROM tag_photos
WHERE job_id = :job_id ORDER BY id;

-- name: tag_photo^
-- A photo's pixels.
SELECT content FROM tag_photos WHERE job_id = :job_id AND id = :photo_id;

-- name: drop_tag_photo!
-- The person lets a photo go.
DELETE FROM tag_photos WHERE job_id = :job_id AND id = :photo_id;

-- name: tag_known^
-- What is known beside the photos.
SELECT tag_known FROM jobs WHERE id = :job_id;

-- name: set_tag_known!
-- Say what is known beside the photos.
UPDATE jobs SET tag_known = :known WHERE id = :job_id;

-- name: placed_photos^
-- What placing a set came to, by what was asked.
SELECT found, why FROM placed_photos WHERE job_id = :job_id AND asked = :asked;

-- name: keep_placed_photos!
-- What placing a set came to; another process may have been quicker.
INSERT INTO placed_photos (job_id, asked, found, why) VALUES (:job_id, :asked, :found, :why)
ON CONFLICT (job_id, asked) DO NOTHING;

-- name: drop_older_placed!
-- A job's older answers are let go: they are made again where somebody takes photos away.
DELETE FROM placed_photos WHERE job_id = :job_id AND asked NOT IN (
    SELECT asked FROM placed_photos WHERE job_id = :job_id ORDER BY made_at DESC LIMIT :most);
