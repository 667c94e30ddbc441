"""The shelf on the Layout step: set down, moved, joined, mirrored; refusals at their fields."""

from tests.web.conftest import Visitor
from widebend.core.laying import system_of
from widebend.core.records import Design
from widebend.formats.design_json import read_design

URL = "/jobs/103/layout"
PLACE = {"p_x": "2000", "p_y": "100", "p_z": "250"}


def _design(visitor: Visitor, job: int = 103) -> Design:
    return read_design(visitor.client.get(f"/jobs/{job}/design.json").data)


def _add(visitor: Visitor, kind: str, code: int = 303, **values: str):
    return visitor.post(URL, f"{URL}/parts/add", code, kind=kind, **values)


def test_two_parts_are_set_down_joined_and_run(visitor: Visitor) -> None:
    _add(visitor, "flange-2", p_x="1000", p_y="100", p_z="250", part_name="downpipe end")
    _add(visitor, "muffler", **PLACE, **{"muffler-wide": '9"', "part_name": "muffler"})
    assert _design(visitor).part("muffler-1").item.bodies[0].width_mm == 228.6
    _add(visitor, "tip", where="port", onto="muffler-1.out", part_name="tip")
    page = visitor.get(URL)
    assert "muffler → tip" in page.text
    visitor.post(URL, f"{URL}/parts/join", **{"from": "flange-1.out", "to": "muffler-1.in"})
    page = visitor.get(URL)
    assert "downpipe end → muffler → tip" in page.text
    assert "leads nowhere" not in page.text  # the flange's own inlet is the vehicle's side
    visitor.post(f"{URL}?part=flange-1", f"{URL}/parts/moves", part="flange-1", moves_with="hung")
    chosen = visitor.get(f"{URL}?part=flange-1").select_one("#h-moves option[selected]")
    assert chosen["value"] == _design(visitor).part("flange-1").moves == "hung"
    closing = visitor.get("/jobs/103/route/close?run=r1")
    assert closing.select(".proposal")


def _pointed(visitor: Visitor, view: str, back: float, other: float) -> dict:
    """What is answered to a place pointed at, given in mm and turned into the pixels of the strip as it is drawn."""
    strips = visitor.get(URL).select_one("svg.strips")
    strip = strips.select_one(f"[data-view={view}]")
    low, high = float(strips["data-low"]), float(strips["data-high"])
    per_mm = float(strips["width"]) / (high - low)
    top, height, middle = (float(strip[f"data-{key}"]) for key in ("top", "height", "middle"))
    y = top + height / 2 + (other - middle) * per_mm * (1 if view == "below" else -1)
    asked = {"view": view, "x": (back - low) * per_mm, "y": y, "top": top, "height": height, "middle": middle}
    answer = visitor.client.get(f"{URL}/parts/pointed", query_string=asked | {"from_mm": low, "to_mm": high})
    assert answer.status_code == 200
    return answer.json


def test_hardware_is_put_where_one_points(visitor: Visitor) -> None:
    """At an open outlet it is that port; elsewhere the place, to the tape's step or the edge that is near."""
    _add(visitor, "muffler", **PLACE)
    out = next(p.pose.point for p in system_of(_design(visitor)).ports if p.port.id == "out")
    assert _pointed(visitor, "below", out[0] + 3, out[1] - 2) == {"onto": "muffler-1.out"}
    fields = _pointed(visitor, "below", 1200.3, 333.4)["fields"]
    assert {key: float(text) for key, text in fields.items()} == {"h-p_x": 1200, "h-p_y": 333}
    assert float(_pointed(visitor, "left", 1200.3, 287.2)["fields"]["h-p_z"]) == 287


def test_wrong_measures_and_places_are_refused_at_their_fields(visitor: Visitor) -> None:
    page = _add(visitor, "muffler", 422, p_x="2000", p_y="left", p_z="250")
    assert page.select_one("#h-p_x")["value"] == "2000"
    assert "field-error" in str(page.select_one("#h-p_y").parent)
    assert "wider angle" in _add(visitor, "merge", 422, **PLACE, **{"merge-long": "40"}).text
    assert "a number from" in _add(visitor, "cat", 422, **PLACE, **{"cat-cells": "many"}).text
    assert "more than nothing" in _add(visitor, "tip", 422, **PLACE, **{"tip-long": "0"}).text
    assert "no place yet" in _add(visitor, "tip", 422, where="port", onto="muffler-9.out").text
    _add(visitor, "spaceship", 422, **PLACE)
    assert not _design(visitor).parts


def test_a_part_is_moved_turned_levelled_and_locked(visitor: Visitor) -> None:
    _add(visitor, "muffler", **PLACE)
    page = f"{URL}?part=muffler-1"
    chosen = {"part": "muffler-1"}
    visitor.post(page, f"{URL}/parts/nudge", **chosen, way="up", by="25")
    visitor.post(page, f"{URL}/parts/nudge", **chosen, way="slope up", by="5")
    placed = _design(visitor).part("muffler-1").placed
    assert placed.point[2] == 275.0
    assert placed.axis[2] > 0.08
    visitor.post(page, f"{URL}/parts/stand", **chosen, how="level")
    assert _design(visitor).part("muffler-1").placed.axis[2] == 0.0
    visitor.post(page, f"{URL}/parts/stand", **chosen, how="lock")
    refused = visitor.post(page, f"{URL}/parts/nudge", 422, **chosen, way="up", by="25")
    assert "unlock it first" in refused.text
    visitor.post(page, f"{URL}/parts/stand", **chosen, how="free")
    visitor.post(page, f"{URL}/parts/place", **chosen, p_x="2100", p_y="-100", p_z="260", p_heading="10")
    assert _design(visitor).part("muffler-1").placed.point[0] == 2100.0
    visitor.post(page, f"{URL}/parts/mirror", **chosen)
    assert _design(visitor).parts[1].placed.point[1] == 100.0


def test_a_run_is_mirrored_linked_and_let_go(visitor: Visitor) -> None:
    url = "/jobs/101/layout"
    refused = visitor.post(url, f"{url}/parts/take-out", 422, part="muffler")
    assert "is joined to it" in refused.text
    visitor.post(url, f"{url}/parts/mirror", run="r1")
    twin = _design(visitor, 101).runs[1]
    assert twin.twin_of == "r1"
    page = visitor.get(url)
    assert "mirror image of cat-back" in page.text
    visitor.post(url, f"{url}/parts/link", run=twin.id)
    assert not _design(visitor, 101).runs[1].twin_linked
    visitor.post(url, f"{url}/parts/take-out", run=twin.id)
    assert len(_design(visitor, 101).runs) == 1
