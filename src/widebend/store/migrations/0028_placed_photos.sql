-- Where a job's photos were placed, by what was asked: no page solves them twice, and none while it holds a record.
CREATE TABLE placed_photos (
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    asked bytea NOT NULL CONSTRAINT placed_asked_is_a_digest CHECK (octet_length(asked) = 32),
    found jsonb,
    why text NOT NULL DEFAULT '' CONSTRAINT placed_why_length CHECK (char_length(why) <= 400),
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (job_id, asked)
);
