"""Promises on the board, and a job handed over with its invoice and its pack."""

from __future__ import annotations

import re
from datetime import date, timedelta

from .conftest import Visitor

HANDOVER = "/jobs/101/handover"


def test_the_board_says_what_waits_and_a_promise_that_cannot_hold(visitor: Visitor) -> None:
    page = visitor.get("/board")
    assert "103" in page.select_one("[aria-label='waits for a part']").get_text()
    assert page.select(".week-block")
    assert not page.select(".notice.touches")
    today = date.today().isoformat()
    for job in (101, 102, 104, 105, 107):
        visitor.post("/board", f"/board/jobs/{job}", promised_on=today, waits_on="", waits_for="", waits_until="")
    late = visitor.get("/board").select(".notice.touches")
    assert late
    assert "cannot hold" in re.sub(r"\s+", " ", late[0].get_text())
    wrong = visitor.post("/board", "/board/jobs/101", 422, promised_on="tomorrow", waits_on="")
    assert "a day like" in wrong.get_text()
    visitor.post("/board", "/board/jobs/101", 422, waits_on="the moon")


def test_a_job_whose_part_comes_later_is_planned_later(visitor: Visitor) -> None:
    until = date.today() + timedelta(days=7)
    values = {"promised_on": "", "waits_on": "part", "waits_for": "flex", "waits_until": until.isoformat()}
    visitor.post("/board", "/board/jobs/101", **values)
    card = visitor.get("/board").select_one("[aria-label='waits for a part']").get_text()
    assert "flex" in card
    done = re.search(r"101.*?done by \w{3} (\d\d) ", card, re.DOTALL)
    assert done
    assert done[1] != f"{date.today():%d}"


def test_it_is_handed_over_with_every_check_or_knowingly(visitor: Visitor) -> None:
    page = visitor.get(HANDOVER)
    keys = [i["value"] for i in page.select(".check-line input[name=what]")]
    assert keys[0] == "tight"
    nobody = visitor.post(HANDOVER, f"{HANDOVER}/check", 422, what="tight", done="yes", who="")
    assert "who looked?" in nobody.get_text()
    refused = visitor.post(HANDOVER, f"{HANDOVER}/done", 422)
    assert "not looked at yet: tightened" in refused.get_text()
    for key in keys:
        visitor.post(HANDOVER, f"{HANDOVER}/check", what=key, done="yes", who="Ada")
    visitor.post(HANDOVER, f"{HANDOVER}/check", what="tight", done="no", who="Ada")
    assert "1 left" in visitor.get(HANDOVER).get_text()
    visitor.post(HANDOVER, f"{HANDOVER}/done", anyway="yes")
    assert "Handed over" in visitor.get(HANDOVER).get_text()
    assert "cat-back 63.5" in visitor.get("/jobs/away").get_text()


def test_the_invoice_is_numbered_and_stays(visitor: Visitor) -> None:
    wrong = visitor.post(HANDOVER, f"{HANDOVER}/say", 422, sound_before="loud")
    assert wrong.select_one("[name=sound_before]")["value"] == "loud"
    visitor.post(
        HANDOVER, f"{HANDOVER}/say", sound_before="96", sound_after="88.5", sound_how="<b>3000</b>", words="mind it"
    )
    visitor.post(HANDOVER, f"{HANDOVER}/invoice", who="Jun")
    visitor.post(HANDOVER, f"{HANDOVER}/invoice", who="Jun")
    text = re.sub(r"\s+", " ", visitor.get(HANDOVER).get_text())
    assert "Invoice 2," in text
    assert "Invoice 1," in text
    assert visitor.client.get(f"{HANDOVER}/pack.pdf").data.startswith(b"%PDF")
    lacking = visitor.post("/jobs/104/handover", "/jobs/104/handover/invoice", 422, who="Jun")
    assert "no price yet" in lacking.get_text()
    assert "there is no pipe yet" in visitor.get("/jobs/102/handover").get_text().lower()
