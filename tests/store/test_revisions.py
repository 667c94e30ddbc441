"""Revisions on a real server: append, undo, redo, refusal, and that nothing is ever rewritten."""

from concurrent.futures import ThreadPoolExecutor

import psycopg
import pytest

from widebend.core.errors import NewerBooksError
from widebend.store import jobs, revisions
from widebend.store.database import Database, migrate, migrations, queries, waiting


@pytest.fixture
def design_id(database: Database) -> int:
    with database.transaction() as connection:
        return jobs.get(connection, 102).design_id


def _append(database: Database, design_id: int, base: int, text: str, tab: str = "") -> int:
    with database.transaction() as connection:
        return revisions.append(connection, design_id, base, {"text": text}, text, tab).number


def _text(database: Database, design_id: int) -> str:
    with database.transaction() as connection:
        number = revisions.newest(connection, design_id).number
        return str(revisions.content_of(connection, design_id, number).get("text", "first"))


def test_undo_and_redo_append(database: Database, design_id: int) -> None:
    _append(database, design_id, 1, "a")
    _append(database, design_id, 2, "b")
    trail = []
    base = 3
    for move in (revisions.undo, revisions.undo, revisions.redo, revisions.redo, revisions.undo):
        with database.transaction() as connection:
            base = move(connection, design_id, base).number
        trail.append(_text(database, design_id))
    assert trail == ["a", "first", "a", "b", "a"]
    assert base == 8  # every one of them is a row


def test_an_edit_after_undo_drops_redo(database: Database, design_id: int) -> None:
    _append(database, design_id, 1, "a")
    with database.transaction() as connection:
        revisions.undo(connection, design_id, 2)
    _append(database, design_id, 3, "c")
    with database.transaction() as connection, pytest.raises(LookupError, match="nothing to redo"):
        revisions.redo(connection, design_id, 4)


def test_nothing_to_undo(database: Database, design_id: int) -> None:
    with database.transaction() as connection, pytest.raises(LookupError, match="nothing to undo"):
        revisions.undo(connection, design_id, 1)


def test_a_stale_edit_is_refused_with_what_came_first(database: Database, design_id: int) -> None:
    _append(database, design_id, 1, "theirs", tab="a" * 16)
    with pytest.raises(revisions.StaleEdit) as refused:
        _append(database, design_id, 1, "mine", tab="b" * 16)
    assert [one.why for one in refused.value.later] == ["theirs"]
    assert _text(database, design_id) == "theirs"


def test_a_burst_from_one_page_is_no_conflict(database: Database, design_id: int) -> None:
    _append(database, design_id, 1, "one", tab="a" * 16)
    assert _append(database, design_id, 1, "two", tab="a" * 16) == 3


def test_two_at_once_one_wins(database: Database, design_id: int) -> None:
    def edit(name: str) -> str:
        try:
            _append(database, design_id, 1, name, tab=name * 16)
        except revisions.StaleEdit:
            return "refused"
        return "kept"

    with ThreadPoolExecutor(2) as both:
        assert sorted(both.map(edit, "ab")) == ["kept", "refused"]


def test_revisions_cannot_be_rewritten(database: Database, design_id: int) -> None:
    with pytest.raises(psycopg.errors.RaiseException, match="never changed"), database.transaction() as connection:
        connection.execute("UPDATE revisions SET why = 'other' WHERE document_id = %s", [design_id])


def test_constraints_hold(database: Database) -> None:
    with pytest.raises(psycopg.errors.CheckViolation), database.transaction() as connection:
        queries.add_customer(connection, name="", phone="")
    with pytest.raises(psycopg.errors.UniqueViolation), database.transaction() as connection:
        connection.execute("UPDATE jobs SET bay_id = 1 WHERE id = 103")


def test_migrating_again_does_nothing(database_url: str) -> None:
    assert migrate(database_url) == []
    numbers = [n for n, _ in migrations()]
    assert numbers == list(range(1, len(numbers) + 1))


def test_a_lift_holds_one_job(database: Database) -> None:
    with database.transaction() as connection:
        jobs.put_in_bay(connection, 103, 1)
        by_id = {job.id: job.bay_id for job in jobs.open_jobs(connection)}
    assert by_id[103] == 1
    assert by_id[101] is None


def test_books_of_a_newer_program_are_refused_and_left_alone(database_url: str) -> None:
    assert waiting(database_url) == []
    with psycopg.connect(database_url) as connection:
        connection.execute("INSERT INTO migrations (number) VALUES (999)")
    for ask in (migrate, waiting):
        with pytest.raises(NewerBooksError, match="newer Wide Bend"):
            ask(database_url)


def test_books_of_an_older_program_are_known_to_want_something(database_url: str) -> None:
    newest = migrations()[-1][0]
    with psycopg.connect(database_url) as connection:
        connection.execute("DELETE FROM migrations WHERE number = %s", [newest])
    assert waiting(database_url) == [newest]
