"""A finished job kept as a card, found again, and taken over onto the next vehicle's readings."""

from __future__ import annotations

import re

from .conftest import Visitor

TWIN = "/jobs/104/handover"


def _kept(visitor: Visitor) -> str:
    visitor.post(
        TWIN, "/jobs/104/card", name="twin with X", engine="V6", wheelbase="2700", words="tunnel", watch="shaft"
    )
    link = visitor.get("/cards?q=twin").select_one(".bay a")
    return str(link["href"])


def test_a_card_is_found_by_words_wheelbase_and_likeness(visitor: Visitor) -> None:
    at = _kept(visitor)
    assert "twin with X" in visitor.get("/cards?wheelbase=2740").get_text()
    assert "No card is like that" in visitor.get("/cards?wheelbase=3200").get_text()
    assert "No card is like that" in visitor.get("/cards?q=zzqq").get_text()
    assert "100 % alike" in visitor.get("/cards?like=104").get_text()
    page = visitor.get(at)
    assert "26 pieces" in page.get_text()
    assert 5 <= len(page.select("input[inputmode=decimal]")) <= 8
    sheet = page.select_one("a[href*='sheet.pdf']")["href"]
    assert visitor.client.get(sheet).data.startswith(b"%PDF")
    assert "kg on" in page.get_text()  # the hang card in short
    assert visitor.client.get(f"{at}/sheet.pdf?run=none").status_code == 404
    refused = visitor.post("/jobs/103/handover", "/jobs/103/card", 422, name="nothing")
    assert "no pipe to keep" in refused.get_text()
    visitor.post(at, f"{at}/drop")
    visitor.get(at, 404)


def test_readings_say_what_fits_and_it_is_taken_over(visitor: Visitor) -> None:
    at = _kept(visitor)
    fields = {i["name"]: i for i in visitor.get(at).select("input[inputmode=decimal]")}
    shaft = next(name for name in fields if name.startswith("thing-") and "prop" in fields[name]["aria-label"])
    row = fields[shaft].find_parent("tr").get_text()
    was = float(re.search(r"(-?\d+) mm", row)[1])
    same = visitor.post(at, at, 200, **{shaft: str(was)})
    assert "it fits as it is" in same.get_text()
    off = visitor.post(at, at, 200, **{shaft: str(was - 120)})
    assert "120 mm off" in off.get_text().replace("-", "")
    nowhere = visitor.post(at, at, 422, take="yes")
    assert "choose the job" in nowhere.get_text()
    wrong = visitor.post(at, at, 422, take="yes", job="102", **{shaft: "low"})
    assert wrong.select_one(f"input[name={shaft}]")["value"] == "low"
    visitor.post(at, at, take="yes", job="102", **{"start-up": "262"})
    page = visitor.get("/jobs/102/route")
    line = page.select_one(
        ".work-line"
    ).get_text()  # the left start is 12 mm higher: its run was laid again, and is clear
    assert "clear" in line
    assert "4 hangers" in line
    visitor.get("/jobs/102/hang")
    with visitor.client.application.extensions["database"].transaction() as connection:
        rows = connection.execute("SELECT why FROM revisions WHERE why LIKE 'taken over%'").fetchall()
    assert len(rows) == 2  # the survey, and the design
