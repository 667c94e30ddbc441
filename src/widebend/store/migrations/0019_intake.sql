-- What is said at the vehicle beside the first words, by its key; who signed that it is so, when; what was seen on the way
-- round, where on the drawing, with a picture.
ALTER TABLE jobs ADD COLUMN said jsonb NOT NULL DEFAULT '{}';
ALTER TABLE jobs ADD COLUMN signed_name text NOT NULL DEFAULT '' CONSTRAINT job_signed_length CHECK (char_length(signed_name) <= 80);
ALTER TABLE jobs ADD COLUMN signed_at timestamptz;
CREATE TABLE walk_round (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    x real NOT NULL CONSTRAINT walk_x CHECK (x BETWEEN 0 AND 1),
    y real NOT NULL CONSTRAINT walk_y CHECK (y BETWEEN 0 AND 1),
    words text NOT NULL DEFAULT '' CONSTRAINT walk_words_length CHECK (char_length(words) <= 300),
    -- seen and told to the customer, and not what we were asked for
    not_ours boolean NOT NULL DEFAULT false,
    sha256 text,
    who text NOT NULL DEFAULT '' CONSTRAINT walk_who_length CHECK (char_length(who) <= 80),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX walk_round_of_a_job ON walk_round (job_id, id);
