"""What is refused or fails is said in words beside the work, and what was typed is not lost."""

from __future__ import annotations

import time

import psycopg
import pytest

from tests.web.conftest import Visitor
from widebend.store import revisions


def _piece_form(visitor: Visitor) -> dict[str, str]:
    form = visitor.form("/jobs/101/route?piece=p1", "/jobs/101/route/set")
    return {i["name"]: i.get("value", "") for i in form.select("input")}


@pytest.mark.parametrize(
    ("fault", "code", "words"),
    [
        (psycopg.errors.DiskFull("no space left on device"), 507, "disk is full"),
        (OSError(28, "No space left on device"), 507, "disk is full"),
        (psycopg.OperationalError("the connection is closed"), 503, "started again within seconds"),
        (psycopg.errors.CheckViolation("card_wheelbase"), 422, "The books do not take that"),
    ],
)
def test_a_full_disk_and_a_lost_database_are_named_and_what_was_typed_is_kept(
    visitor: Visitor, monkeypatch: pytest.MonkeyPatch, fault: Exception, code: int, words: str
) -> None:
    def fails(*_: object, **__: object) -> None:
        raise fault

    typed = {**_piece_form(visitor), "value": "333"}
    with monkeypatch.context() as patch:
        patch.setattr(revisions, "append", fails)
        plain = visitor.client.post("/jobs/101/route/set", data=typed)
        assert plain.status_code == code
        assert words in plain.text
        assert "333" in plain.text
        beside = visitor.client.post("/jobs/101/route/set", data=typed, headers={"HX-Request": "true"})
        assert (beside.status_code, beside.headers["HX-Retarget"]) == (code, "#trouble")
    assert visitor.client.post("/jobs/101/route/set", data=typed).status_code == 303  # it goes on by itself


@pytest.mark.parametrize("days", [-3, 90])
def test_a_page_left_open_for_weeks_or_a_clock_set_back_loses_nothing(
    visitor: Visitor, monkeypatch: pytest.MonkeyPatch, days: float
) -> None:
    typed = {**_piece_form(visitor), "value": "333"}
    later = time.time() + days * 86_400
    monkeypatch.setattr(time, "time", lambda: later)
    assert visitor.client.post("/jobs/101/route/set", data=typed).status_code == 303


def test_a_page_of_another_key_shows_what_was_entered(visitor: Visitor) -> None:
    typed = {**_piece_form(visitor), "value": "333", "csrf_token": "from before"}
    answer = visitor.client.post("/jobs/101/route/set", data=typed)
    assert answer.status_code == 400
    assert "Reload it" in answer.text
    assert "333" in answer.text


@pytest.mark.parametrize(
    ("page", "action", "odd", "words"),
    [
        ("/stock", "/stock/1/book", {"who": "Ann", "number": "two", "why": "take"}, "a number from 0"),
        ("/stock", "/stock/1/book", {"who": "Ann", "number": "1.5", "why": "take"}, "half a bend is an offcut"),
        (
            "/jobs/101/handover",
            "/jobs/101/handover/check",
            {"who": "Ann", "what": "", "done": "yes"},
            "not on this job",
        ),
        ("/jobs/104/handover", "/jobs/104/card", {"wheelbase": "12649"}, "8000"),
    ],
)
def test_what_no_page_sends_is_refused_in_words(
    visitor: Visitor, page: str, action: str, odd: dict[str, str], words: str
) -> None:
    token = visitor.get(page).select_one("input[name=csrf_token]")["value"]
    answer = visitor.client.post(action, data={"csrf_token": token, **odd})
    assert answer.status_code == 422
    assert words in answer.text


def test_a_number_that_no_book_holds_is_nowhere(visitor: Visitor) -> None:
    assert visitor.client.get(f"/jobs/{10**30}/route").status_code == 404
    assert visitor.client.get(f"/jobs/{2**31 - 1}/route").status_code == 404
