"""Backups of a shop's books: one file, written from one moment, proven by restoring it beside and comparing every row.

A backup is a zip of PostgreSQL's own dump and of a fingerprint: of every table its rows' count and the digest of their
text in order. A restore that does not come out at the same fingerprint says so.
"""

from __future__ import annotations

import json
import logging
import os
import subprocess
import tempfile
import threading
import zipfile
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import psycopg
from psycopg import sql

from ..core.errors import NewerBooksError
from ..store.database import migrations
from .postgres import Cluster, ServerTrouble, find_binaries

KEPT, EVERY_H, FIRST_S, LOOK_S = 14, 24, 90.0, 1800.0
LOCK_MS = 5000
DUMP, PRINT = "shop.dump", "fingerprint.json"
PROOF = "widebend_proof"
PROOF_LOCK = 7_281_995  # any number, the same for every backup on this server

Print = dict[str, list[Any]]


def fingerprint(connection: psycopg.Connection[Any]) -> Print:
    """Of every table how many rows it has, and the digest of their text in order."""
    tables = [
        row[0]
        for row in connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename")
    ]
    found: Print = {}
    for table in tables:
        row = connection.execute(
            sql.SQL(
                "SELECT count(*), coalesce(md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))), '') FROM {} t"
            ).format(sql.Identifier(table))
        ).fetchone()
        found[table] = list(row or (0, ""))
    return found


def backup(url: str, folder: Path, cluster: Cluster | None = None) -> Path:
    """Write a backup and prove it; the file. Raises ServerTrouble where it cannot be written or does not come back."""
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"shop-{datetime.now():%Y-%m-%d-%H%M%S}.widebend"
    with tempfile.TemporaryDirectory(dir=folder) as work:
        dump = Path(work) / DUMP
        # one snapshot for the fingerprint and the dump: what is changed meanwhile is in neither
        with psycopg.connect(url) as connection:
            connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
            snapshot = connection.execute("SELECT pg_export_snapshot()").fetchone()
            seen = fingerprint(connection)
            _run(
                "pg_dump",
                "--format=custom",
                "--no-owner",
                f"--lock-wait-timeout={LOCK_MS}",  # what waits for us must not be what we wait for
                f"--snapshot={snapshot[0]}",  # type: ignore[index]
                f"--file={dump}",
                url=url,
            )
        if cluster is not None and _proof(cluster, dump) != seen:
            raise ServerTrouble("the backup does not come back as what was backed up: it is not kept")
        part = Path(work) / "whole"
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as whole:
            whole.write(dump, DUMP)
            whole.writestr(PRINT, json.dumps(seen, indent=1))
        part.chmod(0o600)
        part.replace(file)
    return file


def _proof(cluster: Cluster, dump: Path) -> Print:
    """The fingerprint of a dump restored beside, in a database that is thrown away again."""
    server = cluster.server_url
    name = sql.Identifier(PROOF)
    with psycopg.connect(f"{server}/postgres", autocommit=True) as root:
        root.execute("SELECT pg_advisory_lock(%s)", [PROOF_LOCK])  # of two backups at once the second waits here
        root.execute(sql.SQL("DROP DATABASE IF EXISTS {}").format(name))
        root.execute(sql.SQL("CREATE DATABASE {}").format(name))
        try:
            _run("pg_restore", "--no-owner", "--no-comments", "--exit-on-error", str(dump), url=f"{server}/{PROOF}")
            with psycopg.connect(f"{server}/{PROOF}") as connection:
                return fingerprint(connection)
        finally:
            root.execute(sql.SQL("DROP DATABASE IF EXISTS {}").format(name))


def restore(url: str, file: Path) -> Print:
    """Put a backup in the place of all that is there, compared row for row, in one transaction; its fingerprint. Raises
    ServerTrouble, and NewerBooksError for that of a newer program: what was there is then as it was.
    """
    if in_use(url):
        raise ServerTrouble(IN_USE)
    try:
        with zipfile.ZipFile(file) as whole, tempfile.TemporaryDirectory() as work:
            wanted: Print = json.loads(whole.read(PRINT))
            theirs, ours = int(wanted.get("migrations", [0])[0]), len(migrations())
            if theirs > ours:
                raise NewerBooksError(theirs, ours)
            dump = Path(work) / DUMP
            dump.write_bytes(whole.read(DUMP))
            script = Path(work) / "restore.sql"
            _run("pg_restore", "--no-owner", "--no-comments", f"--file={script}", str(dump))
            with script.open("r+") as text:
                restored = text.read()
                text.seek(0)
                text.write(f"DROP SCHEMA public CASCADE;\nCREATE SCHEMA public;\n{restored}\n{_compared(wanted)}")
            # cut off anywhere, the transaction is undone and the old books stand
            _run(
                "psql",
                "--quiet",
                "--no-psqlrc",
                "--single-transaction",
                "--set=ON_ERROR_STOP=1",
                f"--file={script}",
                url=url,
            )
    except (OSError, KeyError, ValueError, zipfile.BadZipFile) as exc:
        raise ServerTrouble(f"{file} is no backup of this program: {exc}") from exc
    return wanted


def _compared(wanted: Print) -> str:
    """SQL that fails, and so undoes its transaction, where the tables are not what the fingerprint says."""
    rows = "\n".join(f"{table}\t{int(count)}\t{digest}" for table, (count, digest) in wanted.items())
    if not all(
        table.isidentifier() and str(digest).isalnum() | (digest == "") for table, (_, digest) in wanted.items()
    ):
        raise ValueError("its fingerprint is none")
    return (
        "CREATE TEMP TABLE pg_temp.wanted_print (name text, rows bigint, digest text) ON COMMIT DROP;\n"
        f"COPY pg_temp.wanted_print FROM stdin;\n{rows}\n\\.\n"
        + (Path(__file__).parent / "compared.sql").read_text().replace("wanted_print", "pg_temp.wanted_print")
    )


IN_USE = "the database is in use: stop every server and worker on it, here and on other machines, and try again"


def in_use(url: str) -> bool:
    """Whether anybody else is connected to a database: a server or a worker, whatever home it was started from."""
    with psycopg.connect(url) as connection:
        row = connection.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid() "
            "AND backend_type = 'client backend'"
        ).fetchone()
    return bool(row and row[0])


def _run(tool: str, *arguments: str, url: str = "") -> None:
    """One of PostgreSQL's tools, the password given where no list of processes shows it. Raises ServerTrouble."""
    binaries = find_binaries()
    if binaries is None:
        raise ServerTrouble("PostgreSQL's own tools are not here: nothing was changed")
    at = urlsplit(url)
    where = [f"--dbname={at._replace(netloc=at.netloc.replace(f':{at.password}@', '@')).geturl()}"] if url else []
    env = {**os.environ, "PGPASSWORD": at.password} if at.password else None
    done = subprocess.run([str(binaries / tool), *where, *arguments], capture_output=True, check=False, env=env)  # noqa: S603 - Debian's
    if done.returncode:
        raise ServerTrouble(f"{tool} failed: {done.stderr.decode(errors='replace')[-300:]}")


class Daily:
    """A backup a day beside the server, the last of them kept."""

    def __init__(self, url: str, folder: Path, cluster: Cluster | None) -> None:
        self.url, self.folder, self.cluster = url, folder, cluster
        self.stopping = threading.Event()
        self.thread = threading.Thread(target=self._keep, daemon=True)
        self.thread.start()

    def stop(self) -> None:
        """No more of them."""
        self.stopping.set()
        self.thread.join(60.0)

    def _keep(self) -> None:
        wait = FIRST_S
        while not self.stopping.wait(wait):
            wait = LOOK_S
            try:
                self._look()
            except Exception as exc:  # whatever it is, it is tried again
                logging.getLogger("widebend").error("no backup was made today: %s", exc)

    def _look(self) -> None:
        if due(self.folder, datetime.now()):
            backup(self.url, self.folder, self.cluster)
            for old in backups(self.folder)[KEPT:]:
                old.unlink()


def backups(folder: Path) -> list[Path]:
    """The backups of a folder, the newest first."""
    return sorted(folder.glob("shop-*.widebend"), reverse=True)


def due(folder: Path, now: datetime) -> bool:
    """Whether the newest backup is older than a day, or from a day that has not come yet: the clock was put back."""
    newest = next(iter(backups(folder)), None)
    return newest is None or abs(now - datetime.fromtimestamp(newest.stat().st_mtime)) > timedelta(hours=EVERY_H)
