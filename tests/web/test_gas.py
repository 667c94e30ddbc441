"""Bore, heat and sound as a person meets them: engine, what costs most, sizes, shields, covers, drones, the log."""

from __future__ import annotations

import re

import pytest

from widebend.instruments.stand_in import StandIn
from widebend.instruments.taking import Tool

from .conftest import Visitor

BORE, HEAT, SOUND = (f"/jobs/101/layout/{s}" for s in ("bore", "heat", "sound"))


def _words(page: object) -> str:
    return " ".join(page.get_text(" ").split())  # type: ignore[attr-defined]


def test_what_costs_most_stands_first_with_its_reasons(visitor: Visitor) -> None:
    page = visitor.get(BORE)
    lead = _words(page.select_one(".gas-lead"))
    assert "The gas pushes against" in lead and "Cat takes most" in lead
    takes = [float(b.get_text().split()[0]) for b in page.select(".losses tbody td:nth-of-type(2) b")]
    assert takes == sorted(takes, reverse=True)
    bend = next(r for r in page.select(".losses tbody tr") if "bend" in r.summary.get_text())
    why = _words(bend)
    assert "Crane TP-410" in why and "Idelchik" in why and "range" in why
    assert len(page.select(".lines-ribbon")) == 2
    visitor.client.set_cookie("unit", "in16")
    assert "psi" in _words(visitor.get(BORE).select_one(".gas-lead"))


def test_an_engine_is_asked_for_and_wrong_entries_stay_at_their_place(visitor: Visitor) -> None:
    page = visitor.get("/jobs/102/layout/bore")
    assert "Say what engine it is" in _words(page.select_one(".gas-lead"))
    usual = {
        "cylinders": "4",
        "strokes": "4",
        "firing": "even",
        "idle_rpm": "800",
        "cruise_rpm": "2400",
        "rated_rpm": "6000",
        "fuel": "petrol",
        "aspiration": "natural",
        "sheet": "bore",
    }
    none = visitor.post("/jobs/102/layout/bore", "/jobs/102/engine", 422, **usual)
    assert "power, or what it displaces" in _words(none.select_one("#wrong-n-power"))
    million = visitor.post("/jobs/102/layout/bore", "/jobs/102/engine", 422, **usual, power="1000000 hp")
    assert "to 2500 kW" in _words(million.select_one("#wrong-n-power"))
    assert million.select_one("#n-power")["value"] == "1000000 hp"
    gears = visitor.post(
        "/jobs/102/layout/bore", "/jobs/102/engine", 422, **usual, power="90", ratios="3.5 nine", tyre="205"
    )
    assert "3.6 2.1" in _words(gears.select_one("#wrong-n-ratios"))
    visitor.post(BORE, "/jobs/101/engine", **usual, power="2400")
    assert "So much gas does not pass" in _words(visitor.get(BORE).select_one(".gas-lead"))
    visitor.post(
        BORE, "/jobs/101/engine", **usual, power="150 PS", ratios="3.5 2 1.4 1", final="3.9", tyre="205/55 R16"
    )
    assert "110 kW" in _words(visitor.get(BORE).select_one(".engine summary"))


def test_every_size_stands_beside_the_others_and_one_is_laid_over(visitor: Visitor) -> None:
    page = visitor.get(BORE)
    rows = page.select(".bores tbody tr")
    assert len(rows) >= 7
    assert len(page.select(".bores tr.chosen")) == 1
    assert "every bend pressed" in _words(page.select_one(".bores"))
    over = visitor.get(f"{BORE}?over=76.2")
    assert over.select(".over-line")
    laid = visitor.get(f"{BORE}?lay=57.15")
    assert "laid again" in _words(laid.select_one(".bores"))


def test_a_can_is_described_and_what_was_measured_goes_before(visitor: Visitor) -> None:
    def takes() -> str:
        rows = visitor.get(BORE).select(".losses tbody tr")
        return next(r for r in rows if r.summary.get_text() == "muffler").select("td b")[0].get_text()

    before = takes()
    part = {"part": "muffler", "inside": "three passes", "packed": "yes"}
    visitor.post(BORE, "/jobs/101/layout/bore/part", **part, pa="", flow="", by="")
    chambered = takes()
    assert before != chambered
    visitor.post(BORE, "/jobs/101/layout/bore/part", **part, pa="1.2", flow="150", by="a flow bench")
    assert takes() not in (before, chambered)
    assert "measured by a flow bench" in _words(visitor.get(BORE))
    half = visitor.post(BORE, "/jobs/101/layout/bore/part", 422, **part, pa="1.2", flow="", by="")
    assert "from 1 to 5000" in _words(half)


def test_what_heat_harms_is_told_shielded_and_wanted_by_heat(visitor: Visitor) -> None:
    page = visitor.get(f"{HEAT}?state=full")
    lead = _words(page.select_one(".gas-lead"))
    assert "gets too hot at full power" in lead
    tank = next(r for r in page.select(".near tbody tr") if "fuel tank" in r.get_text())
    assert "wrong" in tank["class"]
    rev = tank.select_one("input[name=rev]")["value"]
    assert rev != ""
    visitor.post(HEAT, "/jobs/101/layout/heat/shield", thing="tank")
    after = visitor.get(f"{HEAT}?state=full")
    tank = next(r for r in after.select(".near tbody tr") if "fuel tank" in r.get_text())
    assert "take the shield away" in _words(tank)
    findings = "/jobs/101/route"
    assert "brake hose" not in _words(visitor.get(findings).select_one(".finding-list"))
    visitor.post(HEAT, "/jobs/101/layout/heat/gaps", gaps="at full power")
    assert "brake hose" in _words(visitor.get(findings).select_one(".finding-list"))


def test_growth_by_each_pieces_own_heat_is_chosen(visitor: Visitor) -> None:
    visitor.post(HEAT, "/jobs/101/layout/heat/growth", growth="by piece")
    assert visitor.get(HEAT).select_one("input[name=growth][value='by piece'][checked]")


def test_a_wrap_goes_on_and_comes_off(visitor: Visitor) -> None:
    def skin() -> str:
        rows = visitor.get(f"{HEAT}?state=full").select("[aria-label='Gas and skin by piece'] tbody tr")
        return next(r for r in rows if "piece 5," in r.get_text()).select("td b")[0].get_text()

    bare = skin()
    visitor.post(HEAT, "/jobs/101/layout/heat/cover", kind="wrap", over="run/r1")
    assert skin() != bare
    page = visitor.get(HEAT)
    assert "wrap over cat-back, pieces 1 to" in _words(page.select_one("[aria-label='Kept in']"))
    visitor.post(HEAT, "/jobs/101/layout/heat/uncover", id="k1")
    assert skin() == bare
    refused = visitor.post(HEAT, "/jobs/101/layout/heat/cover", 422, kind="wrap", over="part/none")
    assert "choose what it goes over" in _words(refused)


def test_a_drone_is_named_and_a_branch_that_fits_mends_it(visitor: Visitor) -> None:
    lead = _words(visitor.get(SOUND).select_one(".gas-lead"))
    assert "It drones at" in lead and "km/h in gear 5" in lead and "half wave" in lead
    page = visitor.get(f"{SOUND}?drone=1&over=mend-0")
    assert page.select(".curve.over")
    button = next(b for b in page.select("button[name=mend]"))
    gone = visitor.post(f"{SOUND}?drone=1", "/jobs/101/layout/sound/branch", 422, drone="9", mend="0")
    assert "no longer" in _words(gone)
    visitor.post(f"{SOUND}?drone=1", "/jobs/101/layout/sound/branch", drone="1", mend=button["value"])
    after = _words(visitor.get(SOUND).select_one(".gas-lead"))
    assert "1 closed branch counted in" in after
    assert after.split("rpm")[0] != lead.split("rpm")[0] or "No order" in after
    visitor.client.set_cookie("unit", "in")
    assert "mph in gear" in _words(visitor.get("/jobs/101/layout/sound").select_one(".gas-lead")) or "No order" in after


@pytest.fixture
def meter():  # type: ignore[no-untyped-def]
    import threading

    server = StandIn("sound", seed=3)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


def test_the_log_takes_readings_judges_them_and_corrects_the_forecast(visitor: Visitor, meter: StandIn) -> None:
    visitor.client.application.extensions["tools"]["sound"] = Tool(meter.address, stand_in=True)
    taken = visitor.get("/tools/take/sound?name=level1&id=s-level1")
    read = taken.select_one("input[name=level1]")["value"]
    assert 88 < float(read) < 94
    mark = taken.select_one("input[name=taken-level1]")["value"]
    test = {"fitted": "as built", "test": "stationary", "rpm": "3750", "around": "60"}
    before = _words(visitor.get(SOUND).select_one("[aria-label='Where the meter stands']"))
    visitor.post(
        SOUND,
        "/jobs/101/layout/sound/test",
        **test,
        level1=read,
        level2="91.5",
        level3="91.9",
        **{"taken-level1": mark},
    )
    page = visitor.get(SOUND)
    log = _words(page.select_one("[aria-label='Sound log']"))
    assert "stand-in sound meter" in log and "This system came out" in log
    assert before != _words(page.select_one("[aria-label='Where the meter stands']"))
    visitor.post(SOUND, "/jobs/101/layout/sound/limit", place="the club's track", limit_test="stationary", db_a="88")
    assert re.search(r"the club's track 88: [34] dB too loud", _words(visitor.get(SOUND)))
    assert "as built, stationary" in _words(visitor.get("/jobs/101/handover"))
    other = _words(visitor.get("/jobs/104/layout/sound"))
    assert "The shop’s finished systems came out" in other
    wrong = visitor.post(SOUND, "/jobs/101/layout/sound/test", 422, **test, level1="loud")
    assert "from 20 to 150" in _words(wrong.select_one("#in-s-level1"))
    visitor.post(SOUND, "/jobs/101/layout/sound/strike", id="s1")
    assert "Nothing was measured yet" in _words(visitor.get(SOUND))


def test_ribbons_on_route_are_switched_on(visitor: Visitor) -> None:
    assert not visitor.get("/jobs/101/route").select(".lines-ribbon")
    visitor.post("/jobs/101/route", "/preferences", gas="on", back="/jobs/101/route")
    assert len(visitor.get("/jobs/101/route").select(".lines-ribbon")) == 2


def test_nothing_drawn_has_words_and_no_figures(visitor: Visitor) -> None:
    for sheet in ("bore", "heat", "sound"):
        assert "Say what engine it is" in _words(visitor.get(f"/jobs/103/layout/{sheet}").select_one(".gas-lead"))
