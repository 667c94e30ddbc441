"""The Hang step as a person meets it: hung by one button, slid, changed, broken, printed; and what is refused."""

from __future__ import annotations

import re

import pytest

from .conftest import Visitor

ESTATE, TWIN = "/jobs/101/hang", "/jobs/104/hang"


def _hung(visitor: Visitor, url: str = ESTATE) -> None:
    visitor.post(f"{url}?find=yes", f"{url}/take", at="0")


def _loads(visitor: Visitor, url: str, query: str = "") -> list[float]:
    rows = visitor.get(f"{url}{query}").select(".hang-table tbody tr")
    return [float(row.select("td")[1].b.get_text().split()[0]) for row in rows]


def test_nothing_hangs_then_one_button_hangs_it_with_no_finding(visitor: Visitor) -> None:
    page = visitor.get(ESTATE)
    assert "Nothing hangs yet" in page.select_one(".notice").get_text()
    offered = visitor.get(f"{ESTATE}?find=yes")
    ways = offered.select("a.way")
    assert 2 <= len(ways) <= 4
    assert all(re.search(r"\d hangers?, [\d.]+ mm down", way.get_text()) for way in ways)
    assert offered.select(".hanger-load")  # the first is drawn before it is taken
    assert "on nothing yet" in offered.select_one(".work-line").get_text()
    _hung(visitor)
    hung = visitor.get(ESTATE)
    assert "hangers" in hung.select_one(".work-step.here").get_text()
    assert not [n for n in hung.select(".notice") if "carries" in n.get_text() or "goes down" in n.get_text()]
    still, swung = (visitor.get(f"{ESTATE}{q}").select(".strips .shadow") for q in ("", "?swing=0"))
    assert [m["d"] for m in still if m.name == "path"] != [m["d"] for m in swung if m.name == "path"]
    card = visitor.client.get(f"{ESTATE}/card.pdf?paper=letter")
    assert card.data.startswith(b"%PDF")
    assert visitor.client.get(f"{ESTATE}/card.pdf?paper=a0").status_code == 404


def test_a_hanger_answers_when_it_is_slid_stiffened_and_broken(visitor: Visitor) -> None:
    _hung(visitor, TWIN)
    chosen = f"{TWIN}?hanger=hanger-1"
    visitor.post(
        chosen, f"{TWIN}/change", hanger="hanger-1", rubber="two-hole", way="rubber", rubbers="1", hang_point=""
    )
    before = _loads(visitor, TWIN)
    for _ in range(6):  # one that hangs straight above goes with its place; the rod of one with a point only slants
        visitor.post(chosen, f"{TWIN}/drag", hanger="hanger-1", step="back")
    moved = _loads(visitor, TWIN)
    assert moved != before
    assert sum(moved) == pytest.approx(sum(before), abs=12.0)  # the flange takes the rest
    visitor.post(chosen, f"{TWIN}/change", hanger="hanger-1", rubber="two-hole", way="rubber", rubbers="2",
                 hang_point="h3", pull_n="60", stretch="2")  # fmt: skip
    page = visitor.get(chosen)
    assert "pulled in the shop" in page.get_text()
    assert _loads(visitor, TWIN)[0] > moved[0]
    assert len(_loads(visitor, TWIN, "?hanger=hanger-1&off=hanger-1")) == len(moved) - 1
    visitor.post(chosen, f"{TWIN}/remove", hanger="hanger-1")
    assert len(_loads(visitor, TWIN)) == len(moved) - 1


def test_the_rod_and_the_bracket_are_drawn_and_printed(visitor: Visitor) -> None:
    _hung(visitor, TWIN)
    chosen = f"{TWIN}?hanger=hanger-3"
    page = visitor.get(chosen)
    assert len(page.select(".hanger-views svg")) == 2
    assert [td.get_text() for td in page.select(".hanger-metal tbody td:first-child")][:2] == ["hook", "stop bend"]
    point = page.select_one("#c-hang_point option[selected]")["value"]
    visitor.post(chosen, f"{TWIN}/change", hanger="hanger-3", rubber="", way="rubber", rubbers="1", hang_point=point,
                 px="0", py="60", pz="-40")  # fmt: skip
    assert "bracket" in visitor.get(chosen).select_one(".hanger-metal").get_text()
    for suffix, begins in (("pdf", b"%PDF"), ("svg", b"<"), ("dxf", b"  0")):
        file = visitor.client.get(f"{TWIN}/bracket.{suffix}?hanger=hanger-3")
        assert file.data.lstrip().startswith(begins.strip()), suffix
    assert visitor.client.get(f"{TWIN}/bracket.pdf?hanger=gone").status_code == 303


def test_what_cannot_be_is_refused_at_its_place_and_kept(visitor: Visitor) -> None:
    wrong = visitor.post(ESTATE, f"{ESTATE}/add", 422, place="r1/p3", along="far", hang_point="h2")
    assert wrong.select_one("#wrong-h-along")
    assert "choose a piece" in visitor.post(ESTATE, f"{ESTATE}/add", 422, place="r1/p99", hang_point="").get_text()
    assert "no such hang point" in visitor.post(ESTATE, f"{ESTATE}/add", 422, place="part:muffler",
                                                hang_point="nail").get_text()  # fmt: skip
    visitor.post(ESTATE, f"{ESTATE}/add", place="part:muffler", hang_point="h2")
    chosen = f"{ESTATE}?hanger=hanger-1"
    soft = {"hanger": "hanger-1", "rubber": "two-hole", "way": "rubber", "rubbers": "1", "hang_point": "h2"}
    none = visitor.post(chosen, f"{ESTATE}/change", 422, **soft, pull_n="0", stretch="4")
    assert "a number from 1 to 5000" in none.select_one("#wrong-c-pull_n").get_text()
    assert none.select_one("#c-stretch")["value"] == "4"
    engine = visitor.post(ESTATE, f"{ESTATE}/engine", 422, cylinders="0", idle_rpm="fast", cruise_rpm="2500")
    assert engine.select_one("#wrong-e-idle_rpm")
    bad = visitor.client.get("/jobs/103/hang")
    assert bad.status_code == 200
    assert "It cannot be said how it hangs" in bad.get_data(as_text=True)
    assert visitor.client.get("/jobs/103/hang?find=yes").status_code == 200
    assert visitor.client.get("/jobs/103/hang/card.pdf").status_code in (303, 400, 422)


def test_no_hang_point_says_what_would_do(visitor: Visitor) -> None:
    """All points of the twin taken out of the survey, as a person would: what hung from one says so."""
    _hung(visitor, TWIN)
    for point in ("h1", "h2", "h3", "h4", "h5"):
        out = "/jobs/104/underbody/book/hang-points/take-out"
        shown = visitor.get("/jobs/104/underbody")
        token, rev = (shown.select_one(f"[name={name}]")["value"] for name in ("csrf_token", "rev"))
        data = {"csrf_token": token, "rev": rev, "item": point}
        assert visitor.client.post(out, data=data).status_code == 303
    assert "hangs from no point of the vehicle yet" in visitor.get(TWIN).get_text()
    page = visitor.get(f"{TWIN}?find=yes")
    assert "The points that are known do not do" in page.get_text()
    assert "Never weld to the body sheet" in page.get_text()
