-- A file is known by its hash and its kind: a mesh in mm with its axes as they are here is byte for byte its upload, and
-- must not go when the upload does. What was taken as a thing while it was kept as an upload only is kept as a mesh now.

ALTER TABLE files DROP CONSTRAINT files_pkey, ADD PRIMARY KEY (sha256, kind);

INSERT INTO files (sha256, kind, content, made_at)
SELECT f.sha256, 'mesh', f.content, f.made_at
FROM files f
WHERE f.kind = 'upload'
    AND EXISTS (SELECT 1 FROM revisions r WHERE position(f.sha256 IN r.content::text) > 0)
ON CONFLICT DO NOTHING;
