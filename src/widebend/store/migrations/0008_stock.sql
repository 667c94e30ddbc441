-- What is on the shop's shelf, and every booking of it. A count never goes under nothing: two who take the last one at once
-- wait for each other, and one of them is told.

CREATE TABLE stock_items (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    content jsonb NOT NULL,
    counted integer NOT NULL CONSTRAINT never_less_than_none CHECK (counted >= 0),
    made_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE stock_moves (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id bigint NOT NULL REFERENCES stock_items (id) ON DELETE CASCADE,
    change integer NOT NULL,
    counted integer NOT NULL,
    why text NOT NULL CONSTRAINT a_kind_of_move CHECK (why IN ('first', 'take', 'return', 'receive', 'count')),
    who text NOT NULL,
    job_id bigint REFERENCES jobs (id) ON DELETE SET NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);

CREATE INDEX stock_moves_of_an_item ON stock_moves (item_id, id DESC);
