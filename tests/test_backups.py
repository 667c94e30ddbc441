"""A backup comes back row for row; a broken one is refused before anything is thrown away; a certificate names us."""

from __future__ import annotations

import json
import os
import subprocess
import zipfile
from datetime import datetime, timedelta
from pathlib import Path

import psycopg
import pytest

from widebend.launch import lan
from widebend.launch.backups import backup, due, fingerprint, restore
from widebend.launch.books import begun
from widebend.launch.postgres import Cluster, ServerTrouble
from widebend.store.database import migrate


def test_backup_wipe_restore_is_equal(cluster: Cluster, database_url: str, tmp_path: Path) -> None:
    with psycopg.connect(database_url) as connection:
        before = fingerprint(connection)
    assert before["revisions"][0] > 5
    file = backup(database_url, tmp_path, cluster)
    assert oct(file.stat().st_mode)[-3:] == "600"
    with psycopg.connect(database_url) as connection:
        connection.execute("TRUNCATE jobs CASCADE")
        connection.execute("UPDATE customers SET name = 'x'")
    restore(database_url, file)
    with psycopg.connect(database_url) as connection:
        assert fingerprint(connection) == before
        connection.execute("INSERT INTO customers (name) VALUES ('next')")  # numbers go on where they were


def test_what_is_no_backup_changes_nothing(database_url: str, tmp_path: Path) -> None:
    with psycopg.connect(database_url) as connection:
        before = fingerprint(connection)
    text, empty, cut = tmp_path / "a.widebend", tmp_path / "b.widebend", tmp_path / "c.widebend"
    text.write_text("no zip")
    with zipfile.ZipFile(empty, "w") as whole:
        whole.writestr("fingerprint.json", "{}")
    with zipfile.ZipFile(cut, "w") as whole:
        whole.writestr("fingerprint.json", "{}")
        whole.writestr("shop.dump", b"PGDMP half of it")
    for file in (text, empty, cut, tmp_path / "none"):
        with pytest.raises(ServerTrouble):
            restore(database_url, file)
    with psycopg.connect(database_url) as connection:
        assert fingerprint(connection) == before


def test_a_restore_that_does_not_come_out_the_same_is_undone(
    cluster: Cluster, database_url: str, tmp_path: Path
) -> None:
    """A dump that is cut, or one whose fingerprint says something else: the old books stand."""
    file = backup(database_url, tmp_path, cluster)
    with psycopg.connect(database_url) as connection:
        connection.execute("UPDATE customers SET name = 'kept'")
    with psycopg.connect(database_url) as connection:
        before = fingerprint(connection)
    with zipfile.ZipFile(file) as whole:
        said, dump = json.loads(whole.read("fingerprint.json")), whole.read("shop.dump")
    for name, other, cut in (("a", said | {"jobs": [99, "0" * 32]}, dump), ("b", said, dump[: len(dump) // 2])):
        spoilt = tmp_path / f"{name}.widebend"
        with zipfile.ZipFile(spoilt, "w") as whole:
            whole.writestr("fingerprint.json", json.dumps(other))
            whole.writestr("shop.dump", cut)
        with pytest.raises(ServerTrouble):
            restore(database_url, spoilt)
        with psycopg.connect(database_url) as connection:
            assert fingerprint(connection) == before


def test_books_that_somebody_works_on_are_not_restored_over(
    cluster: Cluster, database_url: str, tmp_path: Path
) -> None:
    file = backup(database_url, tmp_path, cluster)
    with psycopg.connect(database_url), pytest.raises(ServerTrouble, match="in use"):
        restore(database_url, file)


def test_no_demo_takes_the_place_of_lost_books(cluster: Cluster, database_url: str, tmp_path: Path) -> None:
    backup(database_url, tmp_path, cluster)
    with psycopg.connect(database_url) as connection:
        connection.execute("DROP SCHEMA public CASCADE")
        connection.execute("CREATE SCHEMA public")
    migrate(database_url)
    with pytest.raises(ServerTrouble, match="holds backups of earlier ones"):
        begun(database_url, empty=False, kept=tmp_path)
    begun(database_url, empty=False, kept=tmp_path / "none")


def test_a_backup_is_due_once_a_day(tmp_path: Path) -> None:
    now = datetime.now()
    assert due(tmp_path, now)
    (tmp_path / "shop-2026-01-01-000000.widebend").write_text("")
    assert not due(tmp_path, now)
    assert due(tmp_path, now + timedelta(hours=25))
    assert due(tmp_path, now - timedelta(hours=25)), "the clock was put back"


def test_the_certificate_names_this_machine_and_is_made_anew_where_it_moves(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(lan, "own_address", lambda: "192.0.2.9")
    first = lan.joined(tmp_path)
    assert oct(os.stat(first.key).st_mode)[-3:] == "600"
    said = subprocess.run(
        ["openssl", "x509", "-in", str(first.certificate), "-noout", "-text"],
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert "IP Address:192.0.2.9" in said
    text = first.certificate.read_text()
    assert lan.joined(tmp_path).certificate.read_text() == text
    monkeypatch.setattr(lan, "own_address", lambda: "192.0.2.10")
    assert lan.joined(tmp_path).certificate.read_text() != text
