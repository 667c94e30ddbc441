"""Promises on the board, and a job handed over with its invoice and its pack."""

from __future__ import annotations

import re
from datetime import date, timedelta
from decimal import Decimal

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
    assert "not checked: tightened" in refused.get_text()
    for key in keys:
        visitor.post(HANDOVER, f"{HANDOVER}/check", what=key, done="yes", who="Ada")
    visitor.post(HANDOVER, f"{HANDOVER}/check", what="tight", done="no", who="Ada")
    assert "1 left" in visitor.get(HANDOVER).get_text()
    visitor.post(HANDOVER, f"{HANDOVER}/done", anyway="yes")
    assert "101" in visitor.get("/jobs/away").get_text()
    visitor.post(HANDOVER, f"{HANDOVER}/back")  # it was a slip of the thumb
    assert "Handed over" not in visitor.get(HANDOVER).get_text()
    visitor.post(HANDOVER, f"{HANDOVER}/done", anyway="yes")
    assert "Handed over" in visitor.get(HANDOVER).get_text()
    assert "handed over" in visitor.get(HANDOVER).select_one(".work-step.here").get_text()
    assert "cat-back 63.5" in visitor.get("/jobs/away").get_text()


def test_the_invoice_is_numbered_and_stays(visitor: Visitor) -> None:
    wrong = visitor.post(HANDOVER, f"{HANDOVER}/say", 422, sound_before="loud")
    assert wrong.select_one("[name=sound_before]")["value"] == "loud"
    visitor.post(
        HANDOVER, f"{HANDOVER}/say", sound_before="96", sound_after="88.5", sound_how="<b>3000</b>", words="mind it"
    )
    wrong = visitor.post(HANDOVER, f"{HANDOVER}/pay", 422, who="Jun", amount="some")
    assert "an amount like 12.50" in wrong.get_text()
    visitor.post(HANDOVER, f"{HANDOVER}/pay", who="Jun", amount="478.45", paid_words="deposit <b>by card</b>")
    visitor.post(HANDOVER, f"{HANDOVER}/invoice", who="Jun")
    text = re.sub(r"\s+", " ", visitor.get(HANDOVER).get_text())
    assert len(re.findall(r"Invoice (\d+),", text)) == 1
    assert not visitor.get(HANDOVER).select(f"form[action='{HANDOVER}/invoice']")  # one to a job
    form = {"csrf_token": visitor.get(HANDOVER).select_one("[name=csrf_token]")["value"], "who": "Jun"}
    again = visitor.client.post(f"{HANDOVER}/invoice", data=form)
    assert again.status_code == 422
    assert b"is made already" in again.data
    whole, paid, left = (
        Decimal(re.search(rf"{words} ?(\d[\d ]*\.\d\d)", text)[1].replace(" ", ""))
        for words in ("invoice", "by card</b>", "left to pay")
    )
    assert whole - paid == left
    assert paid == Decimal("478.45")
    assert visitor.client.get(f"{HANDOVER}/pack.pdf").data.startswith(b"%PDF")
    lacking = visitor.post("/jobs/104/handover", "/jobs/104/handover/invoice", 422, who="Jun")
    assert "no price yet" in lacking.get_text()
    assert "nothing designed yet" in visitor.get("/jobs/102/handover").get_text().lower()


def test_the_months_say_what_was_earned_an_hour(visitor: Visitor) -> None:
    """One invoice of a month by hand: net less metal and parts at cost, by the hours clocked in it."""
    page = visitor.get("/months")
    rows = [
        [re.sub(r"\s+", " ", cell.get_text()).strip() for cell in row.select("td")]
        for row in page.select("[aria-label='Month by month'] tbody tr")
    ]
    row = next(r for r in rows if r[1] != "–" and r[0].startswith(tuple("123456789")))
    net, material, hour = (Decimal(r.replace(" ", "")) for r in row[1:4])
    took = Decimal(re.search(r"· ([\d.]+) h", row[0])[1])
    assert abs((net - material) / took - hour) < hour / 50  # hours are shown to a tenth
    month = page.select("[aria-label='Month by month'] tbody a")[3]["href"]
    assert "weld" in visitor.get(month).get_text()


def test_a_promise_is_made_at_the_vehicle(visitor: Visitor) -> None:
    intake = "/jobs/102/intake"
    wrong = visitor.post(intake, f"{intake}/said", 422, promised_on="soon", budget="1500")
    assert "a day like" in wrong.get_text()
    assert wrong.select_one("[name=budget]")["value"] == "1500"
    day = date.today() + timedelta(days=6)
    visitor.post(intake, f"{intake}/said", promised_on=day.isoformat(), budget="1500")
    assert visitor.get(intake).select_one("[name=promised_on]")["value"] == day.isoformat()
    assert f"promised {day:%a %d %b}" in re.sub(r"\s+", " ", visitor.get("/board").get_text())
