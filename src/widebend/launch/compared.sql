-- Run at the end of a restore, in its transaction: fails, and so undoes it, where the tables are not what the fingerprint
-- says. `wanted_print` is filled before: a table's name, its rows, their digest (see backups.fingerprint).
DO $check$
DECLARE one record; rows bigint; digest text;
BEGIN
    FOR one IN SELECT * FROM wanted_print
    LOOP
        EXECUTE format($q$SELECT count(*), coalesce(md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))), '') FROM public.%I t$q$,
            one.name) INTO rows, digest;
        IF rows <> one.rows OR digest <> one.digest THEN
            RAISE EXCEPTION 'what came back is not what was backed up: %', one.name;
        END IF;
    END LOOP;
    IF (SELECT count(*) FROM pg_tables WHERE schemaname = 'public') <> (SELECT count(*) FROM wanted_print) THEN
        RAISE EXCEPTION 'what came back is not what was backed up: other tables';
    END IF;
END
$check$;
