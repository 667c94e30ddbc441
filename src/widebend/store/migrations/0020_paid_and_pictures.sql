-- A picture to what was noted on a job; what a customer paid on it, a deposit before work begins and the rest after.
ALTER TABLE job_log ADD COLUMN sha256 text CONSTRAINT log_picture_hash CHECK (sha256 ~ '^[0-9a-f]{64}$');
CREATE TABLE payments (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs,
    -- in minor units; given back is less than nothing
    amount integer NOT NULL CONSTRAINT payment_is_something CHECK (amount <> 0),
    words text NOT NULL DEFAULT '' CONSTRAINT payment_words_length CHECK (char_length(words) <= 120),
    who text NOT NULL CONSTRAINT payment_who_length CHECK (char_length(who) BETWEEN 1 AND 80),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX payments_of_a_job ON payments (job_id, id);
