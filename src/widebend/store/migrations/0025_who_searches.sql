-- Who asked for a search: of those that stand in line, everybody's first comes before anybody's second.
ALTER TABLE searches ADD COLUMN who text NOT NULL DEFAULT '' CONSTRAINT search_who_length CHECK (char_length(who) <= 80);
