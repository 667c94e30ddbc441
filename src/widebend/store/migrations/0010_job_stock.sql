-- What was taken from the shelf for a job, as it lay in its bars then; putting it back takes this away again.
CREATE TABLE job_nests (
    job_id integer PRIMARY KEY REFERENCES jobs (id) ON DELETE CASCADE,
    content jsonb NOT NULL,
    who text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);

-- How far a line of a job's parts list has come. A line is known by its words.
CREATE TABLE job_orders (
    job_id integer NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    line text NOT NULL CONSTRAINT order_line_length CHECK (char_length(line) <= 300),
    state text NOT NULL CONSTRAINT order_state_known CHECK (state IN ('ordered', 'here', 'wrong')),
    who text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (job_id, line)
);
