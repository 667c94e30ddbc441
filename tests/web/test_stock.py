"""The shelf in the browser's own words, and a job laid into its bars."""

import re

from bs4 import BeautifulSoup

from .conftest import Visitor

TUBE = {"kind": "straight", "od_mm": "63.5", "wall_mm": "1.5", "material": "304", "length_mm": "1200", "counted": "1",
        "is_offcut": "yes", "bin": "B4", "who": "Ann"}  # fmt: skip


def _add(visitor: Visitor, code: int = 303, **values: str) -> BeautifulSoup:
    return visitor.post("/stock", "/stock/add", code, **TUBE | values)


def test_put_on_the_shelf_taken_and_counted(visitor: Visitor) -> None:
    _add(visitor)
    page = visitor.get("/stock")
    row = page.select_one(".stock-list li")
    assert "offcut of straight, 63.5 mm x 1.5 mm 304, 1200 mm long" in row.get_text()
    assert page.select_one("[name=who]")["value"] == "Ann"  # remembered on this device
    action = row.select_one("form")["action"]
    visitor.post("/stock", action, number="1", who="Bo", why="take")
    refused = visitor.post("/stock", action, 422, number="1", who="Cy", why="take")
    assert re.search(
        r"there are none, not 1: Bo took of it at \d\d:\d\d", refused.select_one(".field-error").get_text()
    )
    assert refused.select_one("[name=who]")["value"] == "Cy"
    visitor.post("/stock", action, number="3", who="Cy", why="count")
    assert visitor.get("/stock").select_one(".stock-count").get_text() == "3"


def test_what_is_wrong_is_said_and_kept(visitor: Visitor) -> None:
    page = _add(visitor, 422, length_mm="long", counted="-2")
    assert page.select_one("#wrong-s-length_mm")
    assert page.select_one("#s-counted")["value"] == "-2"
    assert "needs its wall" in _add(visitor, 422, wall_mm="").select_one(".notice.wrong").get_text()
    assert "who? a first name" in _add(visitor, 422, who=" ").get_text()
    _add(visitor)
    action = visitor.get("/stock").select_one(".stock-list form")["action"]
    assert "a whole number" in visitor.post("/stock", action, 422, number="0.5", who="Bo", why="take").get_text()
    assert visitor.client.post("/stock/4000/book", data={}).status_code in (400, 422)


def test_a_job_is_cut_from_its_own_tube_offcuts_first(visitor: Visitor) -> None:
    _add(visitor)
    _add(visitor, od_mm="60.3", length_mm="5000")  # another tube: never used
    visitor.client.post("/preferences", data={"csrf_token": _token(visitor), "unit": "in", "back": "/"})
    page = visitor.get("/jobs/101/cut/nest?aim=tidy+shelf")
    bars = [bar.get_text(" ", strip=True) for bar in page.select(".bars li")]
    assert "offcut, bin B4" in bars[0]
    assert "47" in bars[0]  # 1200 mm, in inches
    assert all("5000" not in bar and "196" not in bar for bar in bars)
    assert "proven best" in page.get_text()
    listed = visitor.get("/jobs/101/cut").select(".cut-table tbody tr")
    straights = [row for row in listed if "straight" in row.get_text()]
    assert len(page.select("rect.bar-piece")) == len(straights)


def _token(visitor: Visitor) -> str:
    return visitor.get("/stock").select_one("[name=csrf_token]")["value"]
