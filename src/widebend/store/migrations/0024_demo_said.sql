-- Books that the first people of this program kept know not yet whether they are the demo's: the step that says so was
-- put right after some had taken it. Where it is said already nothing changes.
DO $$
BEGIN
    IF NOT EXISTS (SELECT FROM information_schema.columns
            WHERE table_schema = 'public' AND table_name = 'shop' AND column_name = 'is_demo') THEN
        ALTER TABLE shop ADD COLUMN is_demo boolean NOT NULL DEFAULT false;
        UPDATE shop SET is_demo = true WHERE name = 'Long Bend Exhausts';
    END IF;
END $$;
