-- Kits that suppliers offer: so many of these for one price. And what an item is may be put right later, with who and when.
CREATE TABLE kits (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    content jsonb NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE stock_moves DROP CONSTRAINT a_kind_of_move;
ALTER TABLE stock_moves ADD CONSTRAINT a_kind_of_move CHECK (why IN ('first', 'take', 'return', 'receive', 'count', 'put right'));
