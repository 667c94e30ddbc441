-- A long search for a way: what was asked of which revision, how far it is, the best so far, what came of it.

CREATE TABLE searches (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    design_id bigint NOT NULL REFERENCES documents ON DELETE CASCADE,
    revision integer NOT NULL,
    run text NOT NULL,
    wish jsonb NOT NULL,
    design jsonb NOT NULL,
    state text NOT NULL DEFAULT 'waiting'
        CONSTRAINT search_state CHECK (state IN ('waiting', 'working', 'stopping', 'stopped', 'done', 'failed')),
    said text NOT NULL DEFAULT '',
    share real NOT NULL DEFAULT 0,
    found jsonb,
    tries integer NOT NULL DEFAULT 0,
    asked_at timestamptz NOT NULL DEFAULT now(),
    ended_at timestamptz
);

CREATE INDEX searches_of_a_design ON searches (design_id, revision);
