"""Long searches on the queue of a real server: done, stopped, failed in words, taken up again after a worker died."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import replace

import pytest

from widebend.core.errors import EditError
from widebend.core.routing import Wish, seek, together
from widebend.demo.examples import cat_back, first_job
from widebend.formats.proposals_json import proposals_data, read_proposals
from widebend.launch.worker import Worker
from widebend.store import jobs
from widebend.store.database import Database, queries
from widebend.store.searches import Search, search
from widebend.work import searches
from widebend.work.searches import ask, do_search, tidy

LONGEST_S = 300.0  # a worker on a machine that never compiled the kernels does that first


def _asked(database: Database, wish: Wish, design=None) -> int:
    with database.transaction() as connection:
        of = jobs.get(connection, 102).design_id
        return ask(connection, of, 1, design or first_job(), "r1", wish, who="Ann")


def _asked_by(database: Database, who: str, keep: int) -> int:
    with database.transaction() as connection:
        job = jobs.get(connection, 101 + keep)
        return ask(connection, job.design_id, 1, first_job(), "r1", Wish(0), who=who)


def _state(database: Database, search_id: int) -> Search:
    with database.transaction() as connection:
        return search(connection, search_id)


def test_a_search_is_done_and_read_back(database: Database) -> None:
    number = _asked(database, Wish(0))
    do_search(database, number)
    kept = _state(database, number)
    assert (kept.state, kept.share) == ("done", 1.0)
    there = read_proposals(kept.found, first_job(), "r1")
    here = seek(first_job(), "r1", Wish(0))
    assert proposals_data(there) == proposals_data(here)
    assert [p.mass_kg for p in there.found] == pytest.approx([p.mass_kg for p in here.found])


def test_it_stops_when_asked_and_keeps_the_best_so_far(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    number = _asked(database, Wish(0, thorough=True))
    told: list[str] = []
    tell = searches._tell

    def stop_after_the_first_way(db: Database, turn: searches.Turn, words: str, share: float, found) -> None:
        told.append(words)
        if found:
            with db.transaction() as connection:
                queries.stop_search(connection, id=turn.id)
        tell(db, turn, words, share, found)

    monkeypatch.setattr(searches, "_tell", stop_after_the_first_way)
    do_search(database, number)
    kept = _state(database, number)
    assert kept.state == "stopped"
    assert kept.found is not None
    assert kept.found["found"]
    assert told[-1] == "one way found"
    do_search(database, number)  # nobody begins what was stopped
    assert _state(database, number).state == "stopped"


def test_what_was_known_already_is_not_lost(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Two ways known, of which looking longer finds one again: both stay, each once, in the order of the wish."""
    sought = seek(cat_back(), "r1", Wish(7, weigh="clear"))
    known = together(sought, sought, "welds")  # each kind of way once, as the wish weighs them
    assert len(known.found) > 1
    wish = Wish(7, weigh="welds", thorough=True)
    with database.transaction() as connection:
        of = jobs.get(connection, 102).design_id
        number = ask(connection, of, 1, cat_back(), "r1", wish, known, who="Ann")
    monkeypatch.setattr(searches, "seek", lambda *_: replace(known, found=known.found[:1]))
    do_search(database, number)
    kept = read_proposals(_state(database, number).found, cat_back(), "r1")
    assert sorted(len(p.pieces) for p in known.found) == [len(p.pieces) for p in kept.found]


def test_one_that_waits_stops_at_once(database: Database) -> None:
    number = _asked(database, Wish(0))
    with database.transaction() as connection:
        queries.stop_search(connection, id=number)
    assert _state(database, number).state == "stopped"


def test_what_cannot_be_is_said_in_words(database: Database) -> None:
    number = _asked(database, Wish(0, avoid=("beyond:moon",)))
    do_search(database, number)
    kept = _state(database, number)
    assert kept.state == "failed"
    assert "names no side" in kept.said


def test_one_that_should_stop_when_its_worker_died_has_stopped(database: Database) -> None:
    number = _asked(database, Wish(0))
    with database.transaction() as connection:
        queries.begin_search(connection, id=number)
        queries.stop_search(connection, id=number)
    assert _state(database, number).state == "stopping"
    do_search(database, number)  # the task that came back from the dead worker
    assert _state(database, number).state == "stopped"


def test_a_fault_of_ours_leaves_no_search_hanging(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    number = _asked(database, Wish(0))
    monkeypatch.setattr(searches, "answer", lambda *_: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        do_search(database, number)
    kept = _state(database, number)
    assert kept.state == "failed"
    assert "worker's log" in kept.said


def test_one_that_breaks_off_again_and_again_is_given_up(database: Database) -> None:
    number = _asked(database, Wish(0))
    with database.transaction() as connection:
        for _ in range(searches.MOST_TRIES):
            queries.begin_search(connection, id=number)
    do_search(database, number)
    assert _state(database, number).state == "failed"


def test_a_worker_taken_for_dead_writes_nothing_over_its_successor(database: Database) -> None:
    number = _asked(database, Wish(0))
    with database.transaction() as connection:
        first = queries.begin_search(connection, id=number)["tries"]
        queries.begin_search(connection, id=number)  # another takes it up
    late = searches.Turn(number, first)
    with pytest.raises(searches.Stopped):
        searches._tell(database, late, "from the grave", 0.9, None)
    searches._end(database, late, "failed", "from the grave")
    kept = _state(database, number)
    assert (kept.state, kept.said, kept.share) == ("working", "", 0.0)


def _queued(database: Database) -> list[int]:
    with database.transaction() as connection:
        rows = connection.execute(
            "SELECT (args ->> 'search_id')::int AS id FROM procrastinate_jobs WHERE status = 'todo' ORDER BY id"
        ).fetchall()
    return [row["id"] for row in rows]


def test_written_down_and_queued_as_one_or_not_at_all(database: Database) -> None:
    with pytest.raises(RuntimeError), database.transaction() as connection:
        ask(connection, jobs.get(connection, 102).design_id, 1, first_job(), "r1", Wish(0), who="Ann")
        raise RuntimeError
    assert not _queued(database)
    number = _asked(database, Wish(0))
    assert _queued(database) == [number]


def test_the_same_question_is_joined_and_another_takes_its_place(database: Database) -> None:
    first = _asked(database, Wish(0))
    assert _asked(database, Wish(0)) == first
    other = _asked(database, Wish(1))
    assert other != first
    assert _state(database, first).state == "stopped"
    assert _state(database, other).state == "waiting"


def test_a_line_that_is_too_long_is_refused(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(searches, "MOST_WAITING", 1)
    number = _asked(database, Wish(0))
    with pytest.raises(EditError, match="stand in line"):
        _asked(database, Wish(1))
    assert _state(database, number).state == "waiting"


def test_everybodys_first_comes_before_anybodys_second(database: Database) -> None:
    quick = [_asked_by(database, "Ann", k) for k in range(3)]
    late = _asked_by(database, "Ben", 3)
    with database.transaction() as connection:
        rows = connection.execute(
            "SELECT (args ->> 'search_id')::int AS id FROM procrastinate_jobs ORDER BY priority DESC, id"
        ).fetchall()
    assert [row["id"] for row in rows] == [quick[0], late, *quick[1:]]


def test_nobody_fills_the_line_alone(database: Database) -> None:
    for k in range(searches.MOST_OWN):
        _asked_by(database, "Ann", k)
    with pytest.raises(EditError, match="of yours stand in line"):
        _asked_by(database, "Ann", searches.MOST_OWN)
    assert _asked_by(database, "Ben", searches.MOST_OWN)


def test_one_that_fell_off_the_queue_is_put_back_once(database: Database) -> None:
    number = _asked(database, Wish(0))
    with database.transaction() as connection:
        connection.execute("DELETE FROM procrastinate_jobs")
    tidy(database)
    tidy(database)
    assert _queued(database) == [number]


def test_what_ended_long_ago_goes_but_for_the_last_few(database: Database) -> None:
    numbers = [_asked(database, Wish(k)) for k in range(searches.KEPT_LAST + 3)]
    with database.transaction() as connection:
        connection.execute("UPDATE searches SET state = 'done', ended_at = now() - interval '1 year'")
    tidy(database)
    with database.transaction() as connection:
        left = [row["id"] for row in connection.execute("SELECT id FROM searches ORDER BY id").fetchall()]
    assert left == numbers[-searches.KEPT_LAST :]


@pytest.fixture
def workers(database_url: str) -> Iterator[list[subprocess.Popen[bytes]]]:
    started: list[subprocess.Popen[bytes]] = []
    yield started
    for process in started:
        process.kill()
        process.wait()


def _worker(url: str) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "WIDEBEND_DATABASE_URL": url}
    return subprocess.Popen([sys.executable, "-m", "widebend.work"], env=environment, stdout=subprocess.DEVNULL)


def _until(database: Database, number: int, states: tuple[str, ...]) -> Search:
    end = time.monotonic() + LONGEST_S
    while (kept := _state(database, number)).state not in states:
        assert time.monotonic() < end, f"still {kept.state}: {kept.said}"
        time.sleep(0.1)
    return kept


def test_another_worker_takes_up_what_a_dead_one_left(
    database: Database, database_url: str, workers: list[subprocess.Popen[bytes]]
) -> None:
    number = _asked(database, Wish(7, thorough=True), cat_back())
    workers.append(_worker(database_url))
    _until(database, number, ("working",))
    workers[0].send_signal(signal.SIGKILL)  # in the middle of its work
    workers[0].wait()
    assert _state(database, number).state == "working"
    workers.append(_worker(database_url))
    end = time.monotonic() + LONGEST_S
    while True:
        with database.transaction() as connection:
            tries = connection.execute("SELECT tries FROM searches WHERE id = %s", [number]).fetchone()
        if tries is not None and tries["tries"] == 2:
            break
        assert time.monotonic() < end
        time.sleep(0.2)
    with database.transaction() as connection:  # it goes on; that is what was to be seen
        queries.stop_search(connection, id=number)
    assert _until(database, number, ("stopped", "done")).state == "stopped"


def test_a_worker_beside_the_server_is_begun_again_when_it_dies(database_url: str) -> None:
    beside = Worker(database_url)
    try:
        first = beside.process
        first.send_signal(signal.SIGKILL)
        begun = time.monotonic()
        while beside.process is first and time.monotonic() - begun < LONGEST_S:
            time.sleep(0.05)
        assert beside.process is not first
        assert beside.process.poll() is None
    finally:
        beside.stop()
    assert beside.process.poll() is not None
