-- Meshes and pictures, each once under the hash of its content; records name them by that hash.

CREATE TABLE files (
    sha256 text PRIMARY KEY CONSTRAINT file_hash CHECK (sha256 ~ '^[0-9a-f]{64}$'),
    kind text NOT NULL CONSTRAINT file_kind_known CHECK (kind IN ('mesh', 'upload', 'photo')),
    content bytea NOT NULL CONSTRAINT file_size CHECK (octet_length(content) BETWEEN 1 AND 20000000),
    made_at timestamptz NOT NULL DEFAULT now()
);
ALTER TABLE files ALTER COLUMN content SET STORAGE EXTERNAL;
