"""The underbody's sheets: what is entered is kept, what is wrong is said at its field, what is measured lands."""

import io
import json
import threading
import zipfile
from collections.abc import Iterator

import numpy as np
import pytest
import trimesh
from PIL import Image

from tests.web.conftest import Visitor
from widebend.core.records import Extrusion, MeshShape, Rock, ShaftSweep, Survey
from widebend.core.survey import bounds
from widebend.formats.survey_bundle import read_survey
from widebend.instruments.stand_in import StandIn
from widebend.instruments.taking import Tool
from widebend.store import jobs
from widebend.store.database import Database

URL = "/jobs/103/underbody"
SHEETS = ["things", "travel", "windows", "hang-points", "old-parts", "marks", "stance", "check"]
HELPERS = ["tapes", "plumb", "rail", "edges", "line", "finder", "round", "old"]
AXLE = {"id": "rear-axle", "how": "axle, straight up and down", "measured_at": "droop", "droop": "110", "bump": "90"}
PLACE = {"x": "1200", "y": "-380", "z": "310"}


def _survey(visitor: Visitor, job: int = 103) -> Survey:
    return read_survey(visitor.client.get(f"/jobs/{job}/underbody/survey.json").data).survey


def _start(visitor: Visitor, key: str = "ladder-frame") -> Survey:
    visitor.post(URL, f"{URL}/start-from", starter=key, wheelbase="3300", track="1620")
    return _survey(visitor)


@pytest.mark.parametrize("job", [101, 103])
@pytest.mark.parametrize("sheet", SHEETS)
def test_every_sheet_answers(visitor: Visitor, sheet: str, job: int) -> None:
    page = visitor.get(f"/jobs/{job}/underbody?sheet={sheet}")
    assert page.select_one(".sheet-tab.on")


@pytest.mark.parametrize("key", HELPERS)
def test_every_way_of_measuring_has_a_drawing_and_refuses_nothing_at_all(visitor: Visitor, key: str) -> None:
    page = visitor.get(f"{URL}/measure/{key}")
    assert page.select_one("svg.helper-drawing")
    wrong = visitor.post(f"{URL}/measure/{key}", f"{URL}/measure/{key}", 422)
    assert wrong.select_one(".field-error, .notice.wrong")


def test_a_starter_is_scaled_and_marked_as_guesses(visitor: Visitor) -> None:
    survey = _start(visitor)
    assert len(survey.things) == 12
    page = visitor.get(URL)
    assert "a guess until measured" in page.text
    assert page.select("path.thing.guess")
    visitor.post(URL, f"{URL}/start-from", 422, starter="ladder-frame", wheelbase="12")
    visitor.post(URL, f"{URL}/start-from", 422, starter="spaceship")


def test_a_survey_is_copied_from_another_vehicle_with_its_figures(visitor: Visitor) -> None:
    button = next(b for b in visitor.get(URL).select("button[name=vehicle]") if "estate" in b.text)
    visitor.post(URL, f"{URL}/copy", vehicle=button["value"])
    assert _survey(visitor) == _survey(visitor, 101)
    assert not visitor.get(URL).select("button[name=vehicle]")  # only an empty survey is offered one


def test_travel_of_every_kind(visitor: Visitor) -> None:
    page, action = f"{URL}?sheet=travel", f"{URL}/book/travel"
    shaft = {
        "id": "driveline",
        "how": "propshaft with the axle",
        "px2": "1400",
        "py2": "0",
        "pz2": "380",
        "hx2": "3000",
        "hy2": "0",
        "hz2": "350",
        "follows": "rear-axle",
    }
    refused = visitor.post(page, action, 422, **shaft)
    assert "has no travel yet" in refused.text
    visitor.post(page, action, **AXLE)
    visitor.post(page, action, **shaft)
    rock = {"id": "engine", "how": "rocks on its mounts", "px": "0", "py": "0", "pz": "400", "axis": "fore and aft"}
    assert "at most 30" in visitor.post(page, action, 422, **rock, deg="45").text
    visitor.post(page, action, **rock, deg="3")
    visitor.post(page, action, id="steering", how="steering, sliding across", side="70")
    arms = {
        "id": "front-axle",
        "how": "wheels on arms about a pivot",
        "droop": "150",
        "bump": "50",
        "axis": "across",
        "px": "100",
        "py": "0",
        "pz": "300",
        "hx": "0",
        "hy": "0",
        "hz": "300",
    }
    assert "check the pivot" in visitor.post(page, action, 422, **arms).text
    groups = {g.id: g for g in _survey(visitor).groups}
    assert set(groups) == {"rear-axle", "driveline", "engine", "steering"}
    assert isinstance(groups["driveline"].motion, ShaftSweep)
    assert isinstance(groups["engine"].motion, Rock)
    assert groups["rear-axle"].measured_at == "droop"


def test_what_moves_cannot_lose_its_travel(visitor: Visitor) -> None:
    _start(visitor)
    refused = visitor.post(f"{URL}?sheet=travel", f"{URL}/book/travel/take-out", 422, item="rear-axle")
    assert "moves with it" in refused.text


def test_a_window_is_cut_and_says_the_biggest_tube(visitor: Visitor) -> None:
    _start(visitor)
    page, action = f"{URL}?sheet=windows", f"{URL}/book/windows"
    hole = {
        "name": "hole",
        "x": "1040",
        "y": "150",
        "z": "480",
        "way": "back",
        "form": "oval",
        "wide": "100",
        "high": "100",
        "through": "gearbox crossmember",
        "plus_minus_mm": "2",
    }
    outside = visitor.post(page, action, 422, **hole | {"z": "560"})
    assert "does not lie inside" in outside.text
    visitor.post(page, action, **hole | {"wide": "70", "high": "70"})
    told = visitor.get(page)
    assert "cut out of the gearbox crossmember" in told.text
    assert "biggest tube with its gap: 4" in told.text  # 70 less 2 x (10 + 2), a polygon's flats a little less


def test_a_thing_that_is_taken_out_leaves_its_window_standing(visitor: Visitor) -> None:
    _start(visitor)
    hole = {"name": "hole", "x": "1040", "y": "150", "z": "480", "form": "rectangle", "wide": "70", "high": "60"}
    visitor.post(f"{URL}?sheet=windows", f"{URL}/book/windows", through="gearbox crossmember", **hole)
    assert _survey(visitor).windows[0].through == "gearbox-crossmember"
    visitor.post(URL, f"{URL}/take-out", thing="gearbox-crossmember")
    assert _survey(visitor).windows[0].through is None
    visitor.post(URL, f"{URL}/history", which="undo")
    assert _survey(visitor).windows[0].through == "gearbox-crossmember"


def test_hang_points_old_parts_and_marks(visitor: Visitor) -> None:
    for key, more in (
        ("hang-points", {"kind": "spare bolt hole", "thread": "M8"}),
        ("marks", {}),
        ("old-parts", {"kind": "flange", "condition": "good"}),
    ):
        page, action = f"{URL}?sheet={key}", f"{URL}/book/{key}"
        wrong = visitor.post(page, action, 422, name="one", x="1200", y="left", z="310", **more)
        assert wrong.select_one("#f-x")["value"] == "1200"
        assert wrong.select_one("#wrong-f-y")
        visitor.post(page, action, name="one", plus_minus_mm="3", how_measured="tape", **PLACE, **more)
    survey = _survey(visitor)
    assert survey.hang_points[0].thread == "M8"
    assert [survey.hang_points[0].plus_minus_mm, survey.marks[0].how_measured] == [3.0, "tape"]
    page = visitor.get(f"{URL}?sheet=marks")
    assert len(page.select("path.sign")) == 6  # each in both strips
    visitor.post(f"{URL}?sheet=marks", f"{URL}/book/marks/take-out", item=survey.marks[0].id)
    assert not _survey(visitor).marks


def test_an_outline_with_a_depth(visitor: Visitor) -> None:
    thing = {"name": "brace", "shape": "extrusion", "way": "back", "ox": "1000", "oy": "0", "oz": "300", "depth": "80"}
    wrong = visitor.post(URL, f"{URL}/thing", 422, **thing, corners="0, 0\n100, 0")
    assert "at least three corners" in wrong.text
    wrong = visitor.post(URL, f"{URL}/thing", 422, **thing, corners="0,0\n100,100\n100,0\n0,100")
    assert "crosses itself" in wrong.text
    visitor.post(URL, f"{URL}/thing", **thing, corners="-100, 0\n100, 0\n100, 40\n0, 40\n0, 90\n-100, 90")
    shape = _survey(visitor).things[0].shape
    assert isinstance(shape, Extrusion)
    assert np.allclose(bounds(shape), [[1000, -100, 300], [1080, 100, 390]])


def test_a_stroke_puts_a_thing_in_and_its_sizes_are_typed_over(visitor: Visitor) -> None:
    strips = visitor.get(URL).select_one("svg.strips")
    low, high, wide = float(strips["data-low"]), float(strips["data-high"]), float(strips["width"])
    below = strips.select_one("[data-view=below]")
    hidden = {i["name"]: i["value"] for i in visitor.form(URL, f"{URL}/drag").select("input[type=hidden]")}
    state = hidden | {"view0": "below"} | {f"{k}0": below[f"data-{k}"] for k in ("top", "height", "middle")}
    px = {"x0": "300", "y0": "60", "x1": "520", "y1": "130"}
    answer = visitor.client.post(f"{URL}/draw", data=state | px | {"shape": "box"})
    assert answer.status_code == 303
    box = bounds(_survey(visitor).things[-1].shape)
    mm = (high - low) / wide
    assert box[0][0] == pytest.approx(low + 300 * mm, abs=0.51)
    assert box[1][0] == pytest.approx(low + 520 * mm, abs=0.51)
    middle = float(below["data-top"]) + float(below["data-height"]) / 2
    assert box[0][1] == pytest.approx(float(below["data-middle"]) + (60 - middle) * mm, abs=0.51)
    assert _survey(visitor).things[-1].how_measured == "set by eye"
    chosen = f"{URL}?thing={_survey(visitor).things[-1].id}"
    visitor.post(chosen, f"{URL}/size", name="gearbox", tall="140", underside="212.5")
    thing = _survey(visitor).things[-1]
    assert (thing.name, thing.how_measured) == ("gearbox", "taped")
    assert [edge[2] for edge in bounds(thing.shape)] == [212.5, 352.5]
    refused = visitor.post(chosen, f"{URL}/size", 422, tall="high", underside="230")
    assert refused.select_one(".taped [name=underside]")["value"] == "230"
    assert bounds(_survey(visitor).things[-1].shape)[0][2] == 212.5
    assert visitor.client.post(f"{URL}/draw", data=state | px | {"shape": "cloud", "rev": "3"}).status_code == 422


def test_drag_stretch_and_nudge(visitor: Visitor) -> None:
    before = bounds(_start(visitor).thing("fuel-tank").shape)
    action = f"{URL}/drag"
    visitor.post(URL, action, thing="fuel-tank", view="below", dx="20", dy="0")
    after = bounds(_survey(visitor).thing("fuel-tank").shape)
    assert after[0][0] > before[0][0] + 20
    assert after[0][1] == before[0][1]
    assert _survey(visitor).thing("fuel-tank").how_measured == "set by eye"
    visitor.post(URL, action, thing="fuel-tank", view="left", handle="z0", dx="0", dy="-10")
    stretched = bounds(_survey(visitor).thing("fuel-tank").shape)
    assert stretched[0][2] > after[0][2]
    assert stretched[1][2] == after[1][2]
    visitor.post(f"{URL}?thing=fuel-tank", f"{URL}/nudge", thing="fuel-tank", way="left", by="25")
    assert bounds(_survey(visitor).thing("fuel-tank").shape)[0][1] == pytest.approx(stretched[0][1] - 25)
    refused = visitor.post(URL, action, 422, thing="fuel-tank", view="left", handle="z0", dx="0", dy="-400")
    assert "stretch it less" in refused.text


def test_stance_rails_and_low_lines(visitor: Visitor) -> None:
    page, action = f"{URL}?sheet=stance", f"{URL}/lines"
    lines = {
        "on": "lift",
        "suspension": "droop",
        "pitch": "2",
        "low": "",
        "low_through": "500, 0, 150\n2500, 0, 170",
        "lowered": "190",
        "left": "-430",
        "right": "430",
    }
    assert "far from level" in visitor.post(page, action, 422, **lines | {"low_through": "0,0,0\n500,0,900"}).text
    wrong = visitor.post(page, action, 422, **lines | {"low_through": "500, 0"})
    assert "point 1" in wrong.text
    assert (
        "same two heights at ride" in visitor.post(page, action, 422, **lines, front_now="1500", rear_now="1550").text
    )
    visitor.post(page, action, **lines)
    survey = _survey(visitor)
    assert survey.low_line.n[0] == pytest.approx(-0.01, abs=1e-4)
    assert (survey.lowered_line.d, survey.stance.on) == (190.0, "lift")
    assert "more along the vehicle now than at ride" in visitor.get(page).text


def test_cut_list_gives_readings_as_the_vehicle_stands(visitor: Visitor) -> None:
    page = visitor.get("/jobs/101/cut")
    assert "as it stands" not in page.text
    lines = {"on": "lift", "suspension": "droop", "pitch": "2", "low": "150", "left": "-430", "right": "430"}
    visitor.post("/jobs/101/underbody?sheet=stance", "/jobs/101/underbody/lines", **lines)
    assert "as it stands: angle finder 2° up" in visitor.get("/jobs/101/cut").text


def test_the_check_list_and_what_it_knows(visitor: Visitor) -> None:
    page = visitor.get(f"{URL}?sheet=check")
    assert len(page.select(".check-list li")) == 7
    assert not page.select(".check-list li.done")
    visitor.post(f"{URL}?sheet=check", f"{URL}/tick", item="covers")
    assert len(visitor.get(f"{URL}?sheet=check").select(".check-list li.done")) == 1


def test_states_can_be_seen_each(visitor: Visitor) -> None:
    box = {"name": "brace", "shape": "box", "x0": "1000", "x1": "1100", "y0": "0", "y1": "90", "z0": "300", "z1": "400"}
    visitor.post(URL, f"{URL}/thing", **box, state="removed for now")
    assert not visitor.get(URL).select("path.thing.pending")
    for view, drawn in (("everything", True), ("now", False)):
        visitor.post(URL, "/preferences", show="all", view=view, back=URL)
        assert bool(visitor.get(URL).select("path.thing.pending")) is drawn
    visitor.post(URL, "/preferences", show="all", view="everything", hide="hard", back=URL)
    assert not visitor.get(URL).select("path.thing")


# --- measuring ------------------------------------------------------------------------------------------------------

MARKS = {"left bolt": (900, -420, 330), "right bolt": (900, 420, 340), "rear bolt": (1900, 60, 420)}
POINT = np.array([1350.0, 150.0, 240.0])


def _with_marks(visitor: Visitor) -> dict[str, str]:
    """Three marks, and the readings of three tapes to POINT."""
    readings = {}
    for n, (name, place) in enumerate(MARKS.items(), 1):
        values = {k: str(v) for k, v in zip("xyz", place, strict=True)}
        visitor.post(f"{URL}?sheet=marks", f"{URL}/book/marks", name=name, plus_minus_mm="1", **values)
        readings |= {f"mark{n}": name, f"tape{n}": f"{np.linalg.norm(POINT - place):.1f}"}
    return readings


def test_tapes_to_marks_land_as_a_hang_point_with_their_doubt(visitor: Visitor) -> None:
    readings = _with_marks(visitor)
    helper = f"{URL}/measure/tapes"
    page = visitor.post(helper, helper, 200, **readings)
    assert len(page.select(".answer")) == 2
    assert "a fourth would" in page.text
    hidden = {i["name"]: i.get("value", "") for i in page.select_one(".answer form").select("input[type=hidden]")}
    wanted = {**hidden, "answer": "0", "to": "new:hang", "name": "front hanger"}
    assert visitor.client.post(f"{helper}/put", data=wanted).status_code == 303
    found = _survey(visitor).hang_points[0]
    assert np.allclose(found.point, POINT, atol=1.0)
    assert (found.name, found.how_measured) == ("front hanger", "tapes to 3 marks")
    assert 1.0 < found.plus_minus_mm < 20.0


def test_a_place_lands_on_a_things_end_and_its_doubt_reaches_the_findings(visitor: Visitor) -> None:
    helper = "/jobs/101/underbody/measure/plumb"
    page = visitor.post(helper, helper, 200, back="2200", right="190", up="330", rule_pm="2")
    hidden = {i["name"]: i.get("value", "") for i in page.select_one(".answer form").select("input[type=hidden]")}
    assert visitor.client.post(f"{helper}/put", data={**hidden, "to": "a:hose"}).status_code == 303
    hose = _survey(visitor, 101).thing("hose")
    assert (hose.plus_minus_mm, hose.how_measured) == (3.5, "plumb and rule")
    route = visitor.get("/jobs/101/route").text
    assert "brake hose" in route
    assert "± 4 mm" in route or "± 3" in route


def test_readings_taken_on_the_lift_are_given_at_ride(visitor: Visitor) -> None:
    """Rail 250 up at both places at ride, 1500 and 1570 on the lift: 70 in 2000 is 2.005 deg up to the back.

    A point 400 under the front place's rail on the lift lies 400 under it at ride, at about the same place along.
    """
    lines = {
        "on": "lift",
        "suspension": "droop",
        "left": "-400",
        "right": "400",
        "front_at": "500",
        "rear_at": "2500",
        "front_height": "250",
        "rear_height": "250",
        "front_now": "1500",
        "rear_now": "1570",
    }
    visitor.post(f"{URL}?sheet=stance", f"{URL}/lines", **lines)
    helper = f"{URL}/measure/plumb"
    page = visitor.post(helper, helper, 200, back="500", right="-400", up="1100")
    figures = {dt.text: dt.find_next("dd").text for dt in page.select(".answer-figures dt")}
    assert "as it is at ride height" in page.text
    assert float(figures["up"].split()[0]) == pytest.approx(250 - 400 / np.cos(np.radians(2.0045)), abs=1.0)
    helper = f"{URL}/measure/finder"
    page = visitor.post(helper, helper, 200, on="along a pipe", slope="2.0045", off_rail="0")
    assert page.select_one(".answer-figures dd").text.strip() in ("0°", "-0°")


def test_the_tape_round_a_pipe_and_the_old_pipe_land(visitor: Visitor) -> None:
    helper = "/jobs/101/underbody/measure/round"
    page = visitor.post(helper, helper, 200, round="251.3274")
    hidden = {i["name"]: i.get("value", "") for i in page.select_one(".answer form").select("input[type=hidden]")}
    assert visitor.client.post(f"{helper}/put", data={**hidden, "to": "dia:propshaft"}).status_code == 303
    assert _survey(visitor, 101).thing("propshaft").shape.radius == pytest.approx(40.0, abs=0.01)
    helper = "/jobs/101/underbody/measure/old"
    readings = {
        "od": "63.5",
        "clr": "95.25",
        "first": "100",
        "turn1": "45",
        "then1": "200",
        "turn2": "45",
        "roll2": "180",
        "then2": "100",
        "ends": "900",
    }
    page = visitor.post(helper, helper, 200, **readings)
    assert "one reading is wrong" in page.text
    hidden = {i["name"]: i.get("value", "") for i in page.select_one(".answer form").select("input[type=hidden]")}
    refused = visitor.client.post(f"{helper}/put", data={**hidden, "to": "run:r1"})
    assert refused.status_code == 422  # its parts in line are never thrown away silently
    assert b"take them out first" in refused.data
    helper = f"{URL}/measure/old"  # a job that has nothing yet: the old pipe is its first run
    page = visitor.post(helper, helper, 200, **readings)
    hidden = {i["name"]: i.get("value", "") for i in page.select_one(".answer form").select("input[type=hidden]")}
    assert "a first run" in page.select_one(".answer select").text
    assert visitor.client.post(f"{helper}/put", data={**hidden, "to": "run:r1"}).status_code == 303
    assert len(visitor.get("/jobs/103/route").select(".tile")) == 5


# --- files ----------------------------------------------------------------------------------------------------------


def _upload(visitor: Visitor, action: str, data: bytes, code: int, name: str = "file", **more: str) -> str:
    page = f"{URL}?sheet=check" if action == "photo" else f"{URL}/files"
    form = visitor.form(page, f"{URL}/{action}")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    answer = visitor.client.post(f"{URL}/{action}", data={**hidden, **more, "file": (io.BytesIO(data), name)})
    assert answer.status_code == code, answer.data[:800]
    return answer.data.decode()


def test_a_scan_is_seen_turned_and_taken(visitor: Visitor) -> None:
    data = trimesh.creation.box((0.3, 0.1, 0.2)).export(file_type="stl")
    form = visitor.form(f"{URL}/files", f"{URL}/scan")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    sent = {**hidden, "file": (io.BytesIO(data), "mock-up.stl")}
    answer = visitor.client.post(f"{URL}/scan", data=sent, headers={"HX-Request": "true"})
    assert b"300 mm</b> long" in answer.data
    upload = answer.data.decode().split('name="scan" value="')[1][:64]
    take = {
        **hidden,
        "scan": upload,
        "unit": "m",
        "up": "+y",
        "rear": "+x",
        "name": "mock-up",
        "nature": "hard",
        "moves_with": "body",
    }
    turned = visitor.client.post(f"{URL}/take-scan", data={**take, "take": "no"}, headers={"HX-Request": "true"})
    assert b"300 mm</b> long, <b>200 mm</b> wide, <b>100 mm</b> high" in turned.data
    wrong = visitor.client.post(f"{URL}/take-scan", data={**take, "take": "yes", "rear": "-y"})
    assert b"same axis" in wrong.data
    assert visitor.client.post(f"{URL}/take-scan", data={**take, "take": "yes"}).status_code == 303
    thing = _survey(visitor).things[0]
    assert isinstance(thing.shape, MeshShape)
    assert (thing.shape.closed, thing.shape.triangles, thing.how_measured) == (True, 12, "scan")
    assert visitor.get(URL).select("path.thing.hard")


def test_files_that_are_not_what_they_are_called(visitor: Visitor) -> None:
    assert "neither STL, PLY nor OBJ" in _upload(visitor, "scan", b"a letter " * 30, 422, "scan.stl")
    assert "not a picture" in _upload(visitor, "photo", b"text renamed", 422, "photo.jpg")
    assert "not a survey" in _upload(visitor, "survey", b'{"format": "x"}', 422, "survey.json")
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("survey.json", b" " * 30_000_000)
    assert "unpacks to more than" in _upload(visitor, "survey", bomb.getvalue(), 422, "survey.zip")
    assert not _survey(visitor).things


def test_a_table_with_a_bad_line_offers_the_rest_and_loses_nothing(visitor: Visitor) -> None:
    from widebend.formats.survey_csv import example

    text = example() + "thing,,tank,globe,1,2,3\n"
    page, action = f"{URL}/files", f"{URL}/table"
    refused = visitor.post(page, action, 422, table=text, take="all")
    assert "line 10: shape: it can be" in refused.text
    assert refused.select_one("#table-text").text.strip() == text.strip()
    assert "Take the 8 good lines" in refused.text
    visitor.post(page, action, table=text, take="good")
    survey = _survey(visitor)
    assert (len(survey.things), len(survey.marks), len(survey.hang_points), len(survey.old_parts)) == (3, 1, 1, 1)
    visitor.post(page, action, table=example(), take="all", put="beside")
    assert len(_survey(visitor).things) == 3  # the same ids are changed, not doubled


def test_a_picture_is_kept_shown_and_goes_with_the_bundle(visitor: Visitor) -> None:
    image = io.BytesIO()
    Image.linear_gradient("L").save(image, "PNG")
    _upload(visitor, "photo", image.getvalue(), 303, "photo.png", caption="cracked rubber")
    assert "already" in _upload(visitor, "photo", image.getvalue(), 422, "photo.png")
    shown = visitor.get(f"{URL}?sheet=check").select_one(".photos img")
    assert visitor.client.get(shown["src"]).mimetype == "image/jpeg"
    visitor.get(f"{URL}/photo/{'0' * 64}.jpg", 404)
    bundle = visitor.client.get(f"{URL}/survey.zip").data
    before = _survey(visitor)
    _upload(visitor, "survey", json.dumps({"format": "widebend-survey", "version": 1}).encode(), 303, "empty.json")
    assert _survey(visitor) == Survey()
    _upload(visitor, "survey", bundle, 303, "bundle.zip")
    assert _survey(visitor) == before


@pytest.mark.usefixtures("large_posts")
def test_a_large_scan_and_a_large_picture_are_taken_and_larger_ones_refused_in_words(visitor: Visitor) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (1800, 2400, 3), dtype=np.uint8)
    image = io.BytesIO()
    Image.fromarray(noise).save(image, "PNG")
    assert 5_000_000 < len(image.getvalue()) < 15_000_000
    _upload(visitor, "photo", image.getvalue(), 303, "photo.png")
    scan = trimesh.creation.icosphere(subdivisions=7, radius=200).export(file_type="stl")
    assert len(scan) > 10_000_000
    form = visitor.form(f"{URL}/files", f"{URL}/scan")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    sent = {**hidden, "file": (io.BytesIO(scan), "ball.stl")}
    seen = visitor.client.post(f"{URL}/scan", data=sent, headers={"HX-Request": "true"})
    assert b"327,680 triangles" in seen.data
    too_large = visitor.client.post(f"{URL}/photo", data={**hidden, "file": (io.BytesIO(b"0" * 17_000_000), "x.jpg")})
    assert too_large.status_code == 413
    assert b"larger than this can take" in too_large.data


# --- tools ----------------------------------------------------------------------------------------------------------


@pytest.fixture
def laser(visitor: Visitor) -> Iterator[StandIn]:
    with StandIn("distance", seed=1) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        visitor.client.application.extensions["tools"]["distance"] = Tool(server.address, stand_in=True)
        yield server
        server.shutdown()


def test_take_puts_the_reading_into_its_field(visitor: Visitor, laser: StandIn) -> None:
    visitor.post("/tools", "/tools", kind="distance", value="1385", noise="0", drop="0", absurd="0")
    field = visitor.get("/tools/take/distance?name=tape1&id=f-tape1").select_one("#f-tape1")
    assert float(field["value"]) == pytest.approx(1385.0, abs=0.11)
    assert field["name"] == "tape1"
    wrong = visitor.post("/tools", "/tools", 422, kind="distance", value="far", noise="0", drop="200", absurd="0")
    assert len(wrong.select(".field-error")) == 2


def test_take_without_a_tool_keeps_what_was_typed(visitor: Visitor) -> None:
    answer = visitor.get("/tools/take/angle?name=slope&id=f-slope&slope=12.5")
    assert answer.select_one("#f-slope")["value"] == "12.5"
    assert "type what yours shows" in answer.text
    assert "none set up" in visitor.get("/tools").text


def test_a_stand_in_is_called_one_wherever_its_reading_goes(visitor: Visitor, laser: StandIn) -> None:
    """The reading's tool goes into the record; one that is typed over is the person's own."""
    where = f"{URL}/measure/plumb"
    taken = visitor.get("/tools/take/distance?name=back&id=f-back")
    hidden = taken.select_one("input[name=taken-back]")["value"]
    assert hidden.endswith("|stand-in laser meter")
    typed = {"back": taken.select_one("#f-back")["value"], "right": "100", "up": "300", "taken-back": hidden}
    for name, back in (("dot", typed["back"]), ("dash", "1000")):
        hidden_fields = {i["name"]: i.get("value", "") for i in visitor.form(where, where).select("input[type=hidden]")}
        put = {**hidden_fields, **typed, "back": back, "to": "new:mark", "name": name}
        assert visitor.client.post(f"{where}/put", data=put).status_code == 303
    how = {mark.name: mark.how_measured for mark in _survey(visitor).marks}
    assert how["dot"].startswith("stand-in laser meter: ")
    assert "stand-in" not in how["dash"]


def test_stand_ins_answer_only_where_the_shop_lets_them(visitor: Visitor, laser: StandIn) -> None:
    visitor.post("/tools", "/tools/stand-ins", let="no")
    answer = visitor.get("/tools/take/distance?name=tape1&id=f-tape1&tape1=77")
    assert "no laser meter is set up" in answer.select_one(".field-error").text
    assert answer.select_one("#f-tape1")["value"] == "77"


def test_a_shop_of_its_own_starts_bare_and_without_stand_ins(database: Database) -> None:
    with database.transaction() as connection:
        connection.execute("TRUNCATE shop, jobs, bays CASCADE")
        assert jobs.open_shop(connection)
        assert not jobs.open_shop(connection)
        assert not jobs.stand_ins_answer(connection)
