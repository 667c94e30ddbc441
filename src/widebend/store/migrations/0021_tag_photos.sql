-- Photos of printed tags under a vehicle, as the sensor has them, without notes of who, where and when; what each saw: the
-- tags' numbers with their corners. They stay until the person lets them go.
CREATE TABLE tag_photos (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    sha256 text NOT NULL CONSTRAINT tag_photo_hash CHECK (sha256 ~ '^[0-9a-f]{64}$'),
    content bytea NOT NULL CONSTRAINT tag_photo_size CHECK (octet_length(content) BETWEEN 1 AND 40000000),
    width integer NOT NULL,
    height integer NOT NULL,
    focal_px real,
    lens text NOT NULL,
    seen jsonb NOT NULL,
    trouble text NOT NULL DEFAULT '',
    who text NOT NULL DEFAULT '' CONSTRAINT tag_photo_who CHECK (char_length(who) <= 80),
    made_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (job_id, sha256)
);
ALTER TABLE tag_photos ALTER COLUMN content SET STORAGE EXTERNAL;
-- What is known beside the photos: the printed bar as measured, tapes, typed places, what tags are called.
ALTER TABLE jobs ADD COLUMN tag_known jsonb NOT NULL DEFAULT '{}';
