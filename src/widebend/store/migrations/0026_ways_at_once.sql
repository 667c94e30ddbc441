-- Ways found while a page waited, by what was asked of which design: whichever process shows or takes one next does not
-- look for it again.
CREATE TABLE ways_at_once (
    asked bytea PRIMARY KEY CONSTRAINT asked_is_a_digest CHECK (octet_length(asked) = 32),
    found jsonb NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);
