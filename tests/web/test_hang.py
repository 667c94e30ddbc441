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
    # what is said of an offered way is what is said of it once it is taken
    told = [[n.get_text(" ", strip=True) for n in page.select(".notice")] for page in (offered, hung)]
    assert told[0] == told[1] != []
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
    visitor.post(
        chosen,
        f"{TWIN}/change",
        hanger="hanger-1",
        rubber="two-hole",
        way="rubber",
        rubbers="2",
        hang_point="h3",
        pull_n="60",
        stretch="2",
    )
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
    visitor.post(
        chosen,
        f"{TWIN}/change",
        hanger="hanger-3",
        rubber="",
        way="rubber",
        rubbers="1",
        hang_point=point,
        px="0",
        py="60",
        pz="-40",
    )
    assert "bracket" in visitor.get(chosen).select_one(".hanger-metal").get_text()
    for suffix, begins in (("pdf", b"%PDF"), ("svg", b"<"), ("dxf", b"  0")):
        file = visitor.client.get(f"{TWIN}/bracket.{suffix}?hanger=hanger-3")
        assert file.data.lstrip().startswith(begins.strip()), suffix
    assert visitor.client.get(f"{TWIN}/bracket.pdf?hanger=gone").status_code == 303


def test_what_cannot_be_is_refused_at_its_place_and_kept(visitor: Visitor) -> None:
    wrong = visitor.post(ESTATE, f"{ESTATE}/add", 422, place="r1/p3", along="far", hang_point="h2")
    assert wrong.select_one("#wrong-h-along")
    assert "choose a piece" in visitor.post(ESTATE, f"{ESTATE}/add", 422, place="r1/p99", hang_point="").get_text()
    assert (
        "no such hang point"
        in visitor.post(ESTATE, f"{ESTATE}/add", 422, place="part:muffler", hang_point="nail").get_text()
    )
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
    assert "No known point works" in page.get_text()
    assert "Never weld to the body sheet" in page.get_text()


def test_the_shop_s_school_its_rubbers_and_what_parts_weigh(visitor: Visitor) -> None:
    visitor.post(TWIN, f"{TWIN}/school", school="two rubbers a point")
    ways = visitor.get(f"{TWIN}?find=yes").select("a.way")
    assert ways
    visitor.post(TWIN, f"{TWIN}/school", code=422, school="by the exhaust fairy")
    chosen = f"{TWIN}?hanger=hanger-1"
    visitor.post(
        chosen,
        f"{TWIN}/change",
        hanger="hanger-1",
        rubber="two-hole",
        way="rubber",
        rubbers="1",
        hang_point="h3",
        pull_n="60",
        stretch="4",
    )
    visitor.post(chosen, f"{TWIN}/keep-rubber", code=422, hanger="hanger-1", name=" ")
    visitor.post(chosen, f"{TWIN}/keep-rubber", hanger="hanger-1", name="grey one from the drawer")
    offered = visitor.get(f"{ESTATE}?hanger=none").get_text()
    assert "grey one" not in offered  # nothing is chosen: no list of rubbers
    _hung(visitor)
    shown = visitor.get(f"{ESTATE}?hanger=hanger-1")
    assert "grey one from the drawer" in shown.select_one("select[name=rubber]").get_text()
    assert not visitor.get(TWIN).select("input[name^=kg-]")
    layout = "/jobs/104/layout?part=muffler-1"
    visitor.post(layout, "/jobs/104/layout/parts/made", part="muffler-1", metal="409", wall="1", mass="")
    assert [i["name"] for i in visitor.get(TWIN).select("input[name^=kg-]")] == ["kg-muffler-1"]
    visitor.post(TWIN, f"{TWIN}/masses", code=422)
    wrong = visitor.post(TWIN, f"{TWIN}/masses", code=422, **{"kg-muffler-1": "heavy"})
    assert wrong.select_one("input[name=kg-muffler-1]")["value"] == "heavy"
    visitor.post(TWIN, f"{TWIN}/masses", **{"kg-muffler-1": "3.1"})
    assert not visitor.get(TWIN).select("input[name^=kg-]")


def test_it_is_propped_while_it_is_tacked_and_its_rods_are_on_paper(visitor: Visitor) -> None:
    page = visitor.get(TWIN)
    tacked = page.select_one("[aria-label='While it is tacked']").get_text()
    assert re.search(r"\d props?", tacked)
    assert "N m" in tacked
    for suffix, start in (("pdf", b"%PDF"), ("svg", b"<svg"), ("dxf", b"  0")):
        assert start in visitor.client.get(f"{TWIN}/rod.{suffix}?hanger=hanger-1").data[:200]
    assert visitor.client.get(f"{TWIN}/spoon.pdf?hanger=hanger-1").status_code == 404
    assert "rod 10 mm" in visitor.get("/jobs/104/cut/nest").get_text()


def test_two_pipes_an_old_rod_and_a_clamp(visitor: Visitor) -> None:
    chosen = f"{TWIN}?hanger=hanger-1"
    plain = {"hanger": "hanger-1", "rubber": "two-hole-stiff", "way": "rubber", "rubbers": "1", "hang_point": "h3"}
    own = visitor.post(chosen, f"{TWIN}/change", code=422, **plain, also_run="r2")
    assert "from one run to another" in own.get_text()
    visitor.post(chosen, f"{TWIN}/change", **plain, also_run="r4")
    assert "A bar across to the other pipe" in visitor.get(chosen).get_text()
    visitor.post(chosen, f"{TWIN}/change", **plain, hold="old rod")
    assert "no old rod is noted" in visitor.get(chosen).get_text()
    visitor.post(chosen, f"{TWIN}/change", **plain, hold="strap")
    assert "a strap goes round the pipe" in visitor.get(chosen).get_text()
    assert "strap for 63.5 mm pipe" in visitor.get("/jobs/104/cut/nest").get_text()
