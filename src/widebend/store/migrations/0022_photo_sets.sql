-- A job has several sets of photos: as it stands at ride, with the axle down, with it up, and with the pipe tacked in. The
-- same photo may be in one set only.
ALTER TABLE tag_photos ADD COLUMN in_set text NOT NULL DEFAULT 'ride'
    CONSTRAINT tag_photo_set CHECK (in_set IN ('ride', 'droop', 'bump', 'fitted'));
-- Which sheet a search is looked at on.
CREATE FUNCTION search_sheet(wish jsonb) RETURNS text IMMUTABLE LANGUAGE sql
    RETURN CASE WHEN wish ->> 'kind' IN ('nest', 'photos') THEN wish ->> 'kind' ELSE 'way' END;
