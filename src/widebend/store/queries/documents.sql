-- name: add_survey$
-- The id of a new survey document.
INSERT INTO documents (kind, vehicle_id) VALUES ('survey', :vehicle_id) RETURNING id;

-- name: add_design$
-- The id of a new design document.
INSERT INTO documents (kind, job_id) VALUES ('design', :job_id) RETURNING id;

-- name: lock_document^
-- Hold a document while a revision is appended, so that numbers have no gap and no edit is lost.
SELECT id FROM documents WHERE id = :document_id FOR UPDATE;

-- name: lock_documents
-- Hold several, always in this order: two who hold both never wait in a ring.
SELECT id FROM documents WHERE id = ANY(:documents) ORDER BY id FOR UPDATE;

-- name: newest_of_each
-- The newest revision of each of some documents, without content.
SELECT r.document_id, r.number, r.checked_against, r.why, r.author, r.tab, r.back, r.forward, r.made_at
FROM unnest(:documents::bigint[]) AS wanted (id) CROSS JOIN LATERAL (
    SELECT * FROM revisions WHERE document_id = wanted.id ORDER BY number DESC LIMIT 1
) r;

-- name: newest^
-- The newest revision of a document, without content.
SELECT document_id, number, checked_against, why, author, tab, back, forward, made_at
FROM revisions WHERE document_id = :document_id ORDER BY number DESC LIMIT 1;

-- name: content$
-- What a revision holds.
SELECT content FROM revisions WHERE document_id = :document_id AND number = :number;

-- name: revision^
-- One revision of a document, without content.
SELECT document_id, number, checked_against, why, author, tab, back, forward, made_at
FROM revisions WHERE document_id = :document_id AND number = :number;

-- name: since
-- What came after a revision, oldest first, without content.
SELECT number, why, author, tab, made_at
FROM revisions WHERE document_id = :document_id AND number > :number ORDER BY number;

-- name: append^
-- Append a revision; what is newest now.
INSERT INTO revisions (document_id, number, content, checked_against, why, author, tab, back, forward)
VALUES (:document_id, :number, :content, :checked_against, :why, :author, :tab, :back, :forward)
RETURNING document_id, number, checked_against, why, author, tab, back, forward, made_at;

-- name: sounded_jobs
-- Jobs with something in their sound log, the newest first.
SELECT d.job_id AS id FROM documents d
WHERE d.kind = 'design' AND d.job_id IS NOT NULL
    AND jsonb_array_length(coalesce((SELECT content -> 'sounds' FROM revisions
        WHERE document_id = d.id ORDER BY number DESC LIMIT 1), '[]'::jsonb)) > 0
ORDER BY d.job_id DESC LIMIT :most;

-- name: fitted_jobs
-- Jobs with something on the vehicle, the newest first.
SELECT d.job_id AS id FROM documents d
WHERE d.kind = 'design' AND d.job_id IS NOT NULL
    AND jsonb_array_length(coalesce((SELECT content -> 'fitted' FROM revisions
        WHERE document_id = d.id ORDER BY number DESC LIMIT 1), '[]'::jsonb)) > 0
ORDER BY d.job_id DESC LIMIT :most;

-- name: last_unfitted^
-- The newest revision of a design with nothing on the vehicle.
SELECT content FROM revisions
WHERE document_id = :document_id AND jsonb_array_length(coalesce(content -> 'fitted', '[]'::jsonb)) = 0
ORDER BY number DESC LIMIT 1;
