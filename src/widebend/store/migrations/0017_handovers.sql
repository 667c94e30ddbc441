-- The hand-over of a job: checks that were made, how it sounded before and after, what is said; and its invoice.
CREATE TABLE handovers (
    job_id integer PRIMARY KEY REFERENCES jobs ON DELETE CASCADE,
    sound_before real CONSTRAINT sound_before_db CHECK (sound_before BETWEEN 0 AND 180),
    sound_after real CONSTRAINT sound_after_db CHECK (sound_after BETWEEN 0 AND 180),
    sound_how text NOT NULL DEFAULT '' CONSTRAINT sound_how_length CHECK (char_length(sound_how) <= 200),
    words text NOT NULL DEFAULT '' CONSTRAINT handover_words_length CHECK (char_length(words) <= 4000)
);
CREATE TABLE handover_checks (
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    what text NOT NULL CONSTRAINT check_what_length CHECK (char_length(what) BETWEEN 1 AND 40),
    who text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (job_id, what)
);
-- Invoices are numbered without a gap and never changed: a wrong one is set right by another.
CREATE TABLE invoices (
    number integer PRIMARY KEY CONSTRAINT invoice_counts_from_one CHECK (number >= 1),
    job_id integer NOT NULL REFERENCES jobs,
    content jsonb NOT NULL,
    who text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX invoices_of_a_job ON invoices (job_id, number DESC);
CREATE FUNCTION refuse_invoice_change() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN RAISE EXCEPTION 'invoices are never changed'; END $$;
CREATE TRIGGER invoices_stay BEFORE UPDATE OR DELETE ON invoices FOR EACH ROW EXECUTE FUNCTION refuse_invoice_change();
