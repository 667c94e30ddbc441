-- name: stock_items
-- Everything on the shelf, oldest first, with who booked it last.
SELECT i.id, i.content, i.counted, m.who, m.why, m.change, m.made_at AS moved_at
FROM stock_items i
LEFT JOIN LATERAL (SELECT who, why, change, made_at FROM stock_moves WHERE item_id = i.id ORDER BY id DESC LIMIT 1) m ON true
ORDER BY i.id;

-- name: add_stock_item$
-- A new kind of stock, or an offcut.
INSERT INTO stock_items (content, counted) VALUES (:content, :counted) RETURNING id;

-- name: drop_stock_item!
-- Take an item off the shelf's list that was entered and never booked since.
DELETE FROM stock_items i WHERE i.id = :id
AND NOT EXISTS (SELECT 1 FROM stock_moves m WHERE m.item_id = i.id AND m.why <> 'first');

-- name: drop_untouched_stock!
-- What only one hand ever booked.
DELETE FROM stock_items i WHERE NOT EXISTS (SELECT 1 FROM stock_moves m WHERE m.item_id = i.id AND m.who <> :who);

-- name: move_stock$
-- So many more or fewer; nothing comes back where there are not so many.
UPDATE stock_items SET counted = counted + :change WHERE id = :id AND counted + :change >= 0 RETURNING counted;

-- name: recount_stock^
-- What was really there; the count before comes back.
UPDATE stock_items i SET counted = :counted FROM (SELECT id, counted AS was FROM stock_items WHERE id = :id FOR UPDATE) old
WHERE i.id = old.id RETURNING old.was;

-- name: book_stock_move!
-- A line of the shelf's book.
INSERT INTO stock_moves (item_id, change, counted, why, who, job_id)
VALUES (:item_id, :change, :counted, :why, :who, :job_id);

-- name: stock_item^
-- One item, with who took of it last.
SELECT i.id, i.content, i.counted, m.who, m.job_id, m.made_at AS taken_at
FROM stock_items i
LEFT JOIN LATERAL (
    SELECT who, job_id, made_at FROM stock_moves WHERE item_id = i.id AND why = 'take' ORDER BY id DESC LIMIT 1
) m ON true
WHERE i.id = :id;

-- name: stock_moves
-- The shelf's book, newest first.
SELECT m.id, m.item_id, m.change, m.counted, m.why, m.who, m.job_id, m.made_at, i.content
FROM stock_moves m JOIN stock_items i ON i.id = m.item_id ORDER BY m.id DESC LIMIT :most;

-- name: change_stock_item!
-- What an item is, put right.
UPDATE stock_items SET content = :content WHERE id = :id;

-- name: kits
-- Kits on offer, oldest first.
SELECT id, content FROM kits ORDER BY id;

-- name: add_kit!
-- A kit on offer.
INSERT INTO kits (content) VALUES (:content);

-- name: drop_kit!
-- A kit that is offered no more.
DELETE FROM kits WHERE id = :id;
