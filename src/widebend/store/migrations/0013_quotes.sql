-- What the shop asks for its work; quotes, each frozen as it was sent; hours planned and taken of each step of a job.
ALTER TABLE shop ADD COLUMN pricing jsonb NOT NULL DEFAULT '{}';
-- What the parts of one job cost us, by their words: a muffler is not a muffler in every job.
ALTER TABLE jobs ADD COLUMN prices jsonb NOT NULL DEFAULT '{}';

-- content: the offers with their lines, hours, totals and designs, as they were when it was sent. A link is known by the
-- hash of its token only. answered: what the customer said, when, by which name, of which offer.
CREATE TABLE quotes (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    content jsonb NOT NULL,
    design_revision integer NOT NULL,
    token_hash text NOT NULL CONSTRAINT quote_token_once UNIQUE CONSTRAINT quote_token_hash CHECK (token_hash ~ '^[0-9a-f]{64}$'),
    who text NOT NULL DEFAULT '' CONSTRAINT quote_who_length CHECK (char_length(who) <= 80),
    sent_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL,
    withdrawn_at timestamptz,
    answered jsonb,
    answered_at timestamptz,
    CONSTRAINT quote_answer_is_timed CHECK ((answered IS NULL) = (answered_at IS NULL))
);
CREATE INDEX quotes_of_a_job ON quotes (job_id, id DESC);

-- Links that were tried and are none: who tries many is let wait.
CREATE TABLE link_tries (
    address text NOT NULL CONSTRAINT try_address_length CHECK (char_length(address) <= 64),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX link_tries_by_address ON link_tries (address, made_at);

-- The clock of a job: who works at which step from when to when. Of one person only one runs.
CREATE TABLE clocks (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    step text NOT NULL CONSTRAINT clock_step_length CHECK (char_length(step) BETWEEN 1 AND 40),
    who text NOT NULL CONSTRAINT clock_who_length CHECK (char_length(who) BETWEEN 1 AND 80),
    started_at timestamptz NOT NULL DEFAULT now(),
    ended_at timestamptz,
    CONSTRAINT clock_runs_forward CHECK (ended_at > started_at)
);
CREATE UNIQUE INDEX one_running_clock_a_person ON clocks (who) WHERE ended_at IS NULL;
CREATE INDEX clocks_of_a_job ON clocks (job_id, started_at);

-- Minutes of each step as they were estimated when the work was agreed on: what was taken is held against it.
CREATE TABLE planned_minutes (
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    step text NOT NULL CONSTRAINT planned_step_length CHECK (char_length(step) BETWEEN 1 AND 40),
    minutes real NOT NULL CONSTRAINT planned_not_less_than_none CHECK (minutes >= 0),
    PRIMARY KEY (job_id, step)
);

-- What happened on a job, as it was noted: a note, a measure, a mistake with its cause and what it cost.
CREATE TABLE job_log (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id integer NOT NULL REFERENCES jobs ON DELETE CASCADE,
    kind text NOT NULL CONSTRAINT log_kind_known CHECK (kind IN ('note', 'measure', 'mistake')),
    words text NOT NULL CONSTRAINT log_words_length CHECK (char_length(words) BETWEEN 1 AND 2000),
    cause text NOT NULL DEFAULT '' CONSTRAINT log_cause_known
        CHECK (cause IN ('', 'bent over', 'ordered short', 'no access', 'wrong part', 'as planned did not fit', 'other')),
    minutes integer NOT NULL DEFAULT 0 CONSTRAINT log_minutes CHECK (minutes BETWEEN 0 AND 10000),
    cost integer NOT NULL DEFAULT 0 CONSTRAINT log_cost CHECK (cost BETWEEN 0 AND 1000000000),
    who text NOT NULL DEFAULT '' CONSTRAINT log_who_length CHECK (char_length(who) <= 80),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX job_log_of_a_job ON job_log (job_id, made_at);
