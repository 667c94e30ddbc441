-- The refit card of a design: what is done, with what was read there; and what was moved to get in, checked before it moves.
CREATE TABLE refit_ticks (
    document_id integer NOT NULL REFERENCES documents ON DELETE CASCADE,
    step text NOT NULL CONSTRAINT refit_step_short CHECK (length(step) <= 120),
    reading text NOT NULL DEFAULT '',
    who text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (document_id, step)
);
CREATE TABLE moved_parts (
    id integer PRIMARY KEY GENERATED ALWAYS AS IDENTITY,
    document_id integer NOT NULL REFERENCES documents ON DELETE CASCADE,
    name text NOT NULL CONSTRAINT moved_part_named CHECK (length(name) BETWEEN 1 AND 80),
    who text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (document_id, name)
);
