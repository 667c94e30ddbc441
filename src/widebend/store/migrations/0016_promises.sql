-- What is promised for when, and what a job waits for in one word: it says whether it can be worked at.
ALTER TABLE jobs ADD COLUMN promised_on date;
ALTER TABLE jobs ADD COLUMN waits_on text NOT NULL DEFAULT ''
    CONSTRAINT job_waits_on_known CHECK (waits_on IN ('', 'part', 'customer', 'lift', 'hands'));
-- The day a part or a word is expected: before it nobody plans work.
ALTER TABLE jobs ADD COLUMN waits_until date;
