-- The shop's own hardware: a kind of the shelf with the shop's measures. A design keeps a copy of what it uses.

CREATE TABLE shelf_items (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL CONSTRAINT shelf_item_named CHECK (length(name) BETWEEN 1 AND 80),
    content jsonb NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now(),
    CONSTRAINT shelf_name_once UNIQUE (name)
);
