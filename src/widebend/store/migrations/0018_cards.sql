-- Finished systems kept for the next vehicle of their kind.
CREATE TABLE cards (
    id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL CONSTRAINT card_name_length CHECK (char_length(name) BETWEEN 1 AND 120),
    vehicle text NOT NULL CONSTRAINT card_vehicle_length CHECK (char_length(vehicle) <= 120),
    engine text NOT NULL DEFAULT '' CONSTRAINT card_engine_length CHECK (char_length(engine) <= 80),
    wheelbase_mm integer CONSTRAINT card_wheelbase CHECK (wheelbase_mm BETWEEN 1000 AND 8000),
    words text NOT NULL DEFAULT '' CONSTRAINT card_words_length CHECK (char_length(words) <= 1000),
    watch text NOT NULL DEFAULT '' CONSTRAINT card_watch_length CHECK (char_length(watch) <= 1000),
    -- the design with its survey, as it was built; minutes planned and taken of each step; where its pipe runs
    content jsonb NOT NULL,
    minutes jsonb NOT NULL DEFAULT '{}',
    shape real[] NOT NULL,
    job_id integer REFERENCES jobs ON DELETE SET NULL,
    gone boolean NOT NULL DEFAULT false,
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX cards_by_words ON cards USING gin (lower(name || ' ' || vehicle || ' ' || engine || ' ' || words) gin_trgm_ops);
