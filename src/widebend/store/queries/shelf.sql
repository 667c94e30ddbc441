-- name: shelf_items
-- The shop's own hardware, by name.
SELECT id, name, content FROM shelf_items ORDER BY name;

-- name: keep_shelf_item!
-- Put one on the shelf; the same name again replaces it.
INSERT INTO shelf_items (name, content) VALUES (:name, :content)
ON CONFLICT (name) DO UPDATE SET content = excluded.content, made_at = now();

-- name: drop_shelf_item!
-- Take one off the shelf.
DELETE FROM shelf_items WHERE id = :id;
