"""One time zone for books and clock; a misspelt field of a changed record; a log that four processes write to."""

from __future__ import annotations

import logging
import multiprocessing
from pathlib import Path

import psycopg
import pytest

from widebend.core.records import Joint, Rules, Tube
from widebend.core.units import Length
from widebend.launch import logs
from widebend.store.database import Database
from widebend.store.zone import shop_zone


def test_books_go_by_the_zone_of_the_clock(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    for zone in ("Pacific/Auckland", "America/St_Johns"):
        monkeypatch.setenv("TZ", zone)
        assert shop_zone() == zone
        there = Database(database.pool.conninfo, most=1)
        there.open()
        with there.transaction() as connection:
            row = connection.execute("SELECT current_setting('TimeZone') AS zone, now() AS now").fetchone()
        there.close()
        assert row is not None
        assert row["zone"] == str(row["now"].tzinfo) == zone
    monkeypatch.setenv("TZ", "Nowhere/At_All")
    assert shop_zone() == "UTC"


def test_a_misspelt_field_of_a_changed_record_is_refused() -> None:
    tube = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
    with pytest.raises(TypeError, match="Tube has no wal_mm"):
        tube.replace(wal_mm=Length(2.0))
    assert tube.replace(wall_mm=Length(2.0)).wall_mm == 2.0


def test_books_with_a_rate_of_gas_are_still_read() -> None:
    assert Rules.model_validate({"gas_l_m": 170.0}) == Rules()


def _writes(folder: str, number: int, lines: int) -> None:
    logs.MOST_BYTES, logs.OLDER_FILES = 20_000, 100
    logs.log_to_file(Path(folder))
    for k in range(lines):
        logging.getLogger("widebend").warning("line %d of %d", k, number)


def test_no_line_is_lost_where_several_processes_fill_one_log(tmp_path: Path) -> None:
    context = multiprocessing.get_context("spawn")
    writers = [context.Process(target=_writes, args=(str(tmp_path), number, 800)) for number in range(4)]
    for writer in writers:
        writer.start()
    for writer in writers:
        writer.join()
    files = [file for file in tmp_path.iterdir() if file.suffix != ".lock"]
    assert len(files) > 3
    assert sum(len(file.read_text().splitlines()) for file in files) == 4 * 800


def test_nobody_waits_for_long_for_what_somebody_else_holds(database: Database) -> None:
    """A second who wants a row that a first holds is told so; here at once, in a shop after 15 s."""
    with database.transaction() as first:
        assert first.execute("SELECT current_setting('lock_timeout') AS most").fetchone() == {"most": "15s"}
        first.execute("LOCK TABLE jobs")
        with pytest.raises(psycopg.errors.LockNotAvailable), database.transaction() as second:
            second.execute("SET LOCAL lock_timeout = '50ms'")
            second.execute("SELECT count(*) FROM jobs")


def test_rules_and_joints_that_an_older_program_kept_are_read() -> None:
    assert Rules.model_validate({"bend_k": 0.4, "air_under": 0.2}).replace(pulsation_factor=2.0).k_factor == 0.4
    assert Joint.model_validate({"after": "start", "kind": "slip", "turns_reference_deg": 0.0}).kind == "slip"
