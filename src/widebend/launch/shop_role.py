"""The role the program works as in its database: it owns the shop's tables and is no superuser of the server."""

from __future__ import annotations

import psycopg
from psycopg import sql

ROLE = "shop"

# what an older program made belongs to the server's superuser
_HAND_OVER = f"""
DO $$ DECLARE thing record; BEGIN
    FOR thing IN SELECT format('ALTER %s %I.%I OWNER TO {ROLE}',
            CASE c.relkind WHEN 'v' THEN 'VIEW' WHEN 'S' THEN 'SEQUENCE' ELSE 'TABLE' END, n.nspname, c.relname) AS say
        FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
        WHERE n.nspname = 'public' AND c.relowner <> '{ROLE}'::regrole AND (c.relkind IN ('r', 'p', 'v')
            OR c.relkind = 'S' AND NOT EXISTS (
                SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('a', 'i')))
    LOOP EXECUTE thing.say; END LOOP;
    FOR thing IN SELECT format('ALTER FUNCTION %s OWNER TO {ROLE}', p.oid::regprocedure) AS say
        FROM pg_proc p WHERE p.pronamespace = 'public'::regnamespace AND p.proowner <> '{ROLE}'::regrole
    LOOP EXECUTE thing.say; END LOOP;
    FOR thing IN SELECT format('ALTER TYPE %s OWNER TO {ROLE}', t.oid::regtype) AS say
        FROM pg_type t LEFT JOIN pg_class c ON c.oid = t.typrelid
        WHERE t.typnamespace = 'public'::regnamespace AND t.typowner <> '{ROLE}'::regrole AND t.typelem = 0
            AND (t.typtype = 'e' OR c.relkind = 'c')
    LOOP EXECUTE thing.say; END LOOP;
END $$
"""  # noqa: S608 - nothing from outside


def see_to_role(server_url: str, database: str, password: str) -> None:
    """Make the role and its database, or take over what an older program made as superuser.

    `server_url` is the superuser's address up to the database's name.
    """
    with psycopg.connect(f"{server_url}/postgres", autocommit=True) as server:
        known = server.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [ROLE]).fetchone()
        said = sql.SQL("{} ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD {}")
        verb = sql.SQL("ALTER" if known else "CREATE")
        server.execute(said.format(verb, sql.Identifier(ROLE), sql.Literal(password)))
        name, role = sql.Identifier(database), sql.Identifier(ROLE)
        if not server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [database]).fetchone():
            server.execute(sql.SQL("CREATE DATABASE {} OWNER {}").format(name, role))
            return
        server.execute(sql.SQL("ALTER DATABASE {} OWNER TO {}").format(name, role))
    with psycopg.connect(f"{server_url}/{database}", autocommit=True) as inside:
        inside.execute(_HAND_OVER.encode())
