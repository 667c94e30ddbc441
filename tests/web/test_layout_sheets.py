"""The sheets of the Layout step: each is shown, edits are kept, what is wrong is said at its field and nothing lost."""

import json
import re

import pytest

from tests.web.conftest import Visitor
from widebend.core.records import Design
from widebend.formats.design_json import read_design
from widebend.store.database import Database
from widebend.work.searches import do_search

TWIN, TRUCK, QUAD, PIPE = 104, 105, 106, 107


def _design(visitor: Visitor, job: int) -> Design:
    return read_design(visitor.client.get(f"/jobs/{job}/design.json").data)


@pytest.mark.parametrize("job", [101, 103, TWIN, TRUCK, QUAD, PIPE])
@pytest.mark.parametrize("sheet", ["", "/fixings", "/crossings", "/apart", "/driven", "/rear", "/shelf", "/model"])
def test_every_sheet_opens_for_every_job(visitor: Visitor, job: int, sheet: str) -> None:
    page = visitor.get(f"/jobs/{job}/layout{sheet}")
    assert page.select_one("[aria-current='page']")
    assert not re.search(r"None\b(?! yet)", page.text)


def test_joints_make_sections_and_bosses_are_checked(visitor: Visitor) -> None:
    url = f"/jobs/{PIPE}/layout/fixings"
    page = visitor.get(url)
    place = page.select("#a-place option")[3]["value"]
    refused = visitor.post(url, f"{url}/joint", 422, place=place, kind="slip")
    assert "overlap" in refused.select_one(".field.wrong").text
    visitor.post(url, f"{url}/joint", place=place, kind="v-band")
    assert any(j.kind == "v-band" for r in _design(visitor, PIPE).runs for j in r.joints)
    visitor.post(url, f"{url}/take-off", place=place)
    assert not any(j.kind == "v-band" for r in _design(visitor, PIPE).runs for j in r.joints)
    refused = visitor.post(url, f"{url}/boss", 422, place="r1/p3", along="9000", clock="1:30")
    assert refused.select_one("[name='along']")["value"] == "9000"
    visitor.post(url, f"{url}/boss", place="r1/p3", along="10", clock="6:00", name="low one", watches="wideband")
    page = visitor.get(url)
    assert "low one looks" in page.text
    boss = _design(visitor, PIPE).attachments[-1]
    assert boss.watches == "wideband"
    visitor.post(url, f"{url}/take-off", id=boss.id)
    hang = url.replace("/layout/fixings", "/hang")
    visitor.post(hang, f"{hang}/add", place="r1/p3", along="20", hang_point="")
    assert "ahead of the flex" in visitor.get(url).text
    visitor.post(
        url, f"{url}/branch", place="r1/p3", b_along="60", b_clock="3:00", angle="60", od="38.1", b_name="dump"
    )
    assert "leaves at 60°" in visitor.get(url).text
    assert visitor.post(url, f"{url}/branch", 422, place="r1/p3", b_along="60", b_clock="3", angle="45", od="90")


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("helper=x&chamber=90", "length of contact, the chamber"),
        ("helper=x&left=101&right=95", "3 mm"),
        ("helper=y", "crotch behind the outlet end"),
        ("helper=h", "stub, longest"),
        ("helper=twin", "four bends of"),
        ("helper=faces&a_at=30", "30°"),
    ],
)
def test_helpers_answer(visitor: Visitor, query: str, words: str) -> None:
    assert words in visitor.get(f"/jobs/{TWIN}/layout/crossings?{query}").text


def test_helpers_refuse_at_the_field_and_set_things_down(visitor: Visitor) -> None:
    url = "/jobs/103/layout/crossings"
    page = visitor.get(f"{url}?helper=x&od=wide", 422)
    assert page.select_one("#a-od")["value"] == "wide"
    assert "nearer than" in visitor.get(f"{url}?helper=x&off=45", 422).text
    form = visitor.get(f"{url}?helper=x&off=18").select_one("form[action$='/parts/add']")
    values = {i["name"]: i["value"] for i in form.select("input[type='hidden']") if i["name"] not in ("csrf_token",)}
    visitor.post(f"{url}?helper=x", "/jobs/103/layout/parts/add", **values, p_x="1800", p_y="0", p_z="230")
    part = _design(visitor, 103).parts[0]
    assert part.item.kind == "crossover"
    assert len(part.item.ports) == 4


def test_a_section_is_tried_out_step_by_step(visitor: Visitor) -> None:
    page = visitor.get(f"/jobs/{TWIN}/layout/apart?try=0")
    assert "comes out in 1 move" in page.text
    stepped = visitor.get(f"/jobs/{TWIN}/layout/apart?try=0&step=1")
    assert stepped.select(".shadow")
    assert "down" in stepped.select_one("[aria-current='step']").text
    assert not visitor.get(f"/jobs/{TWIN}/layout/apart?try=99").select(".steps-out")


def _looked_longer(visitor: Visitor, database: Database, job: int, **what: str) -> str:
    """Press a button of long work, and do what a worker does; the address it leads to."""
    url = f"/jobs/{job}/layout/apart"
    form = visitor.form(url, f"{url}/look")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    answer = visitor.client.post(f"{url}/look", data={**hidden, **what})
    assert answer.status_code == 303
    where = str(answer.headers["Location"])
    assert "waiting for a worker" in visitor.get(where).select_one("#progress").text
    do_search(database, int(where.split("search=")[1].split("&")[0]))
    return where


def test_long_trying_out_is_done_by_a_worker_told_of_and_shown(visitor: Visitor, database: Database) -> None:
    order = visitor.get(_looked_longer(visitor, database, PIPE, what="order"))
    assert order.select(".steps-out li")
    where = _looked_longer(visitor, database, TWIN, **{"what": "out", "try": "0"})
    assert "comes out in 1 move" in visitor.get(where).text
    assert visitor.get(f"{where}&step=1").select(".shadow")
    done = visitor.client.get(where.replace("/apart?", "/apart/progress?"))
    assert done.headers["HX-Retarget"] == "#bench"
    visitor.get(where.replace(f"/jobs/{TWIN}/", "/jobs/101/"), 404)
    number = where.split("search=")[1].split("&")[0]
    visitor.get(f"/jobs/{TWIN}/route/search/{number}", 404)  # it is no search for ways
    visitor.get(f"/jobs/{TWIN}/route/search/{number}/progress", 404)


def test_use_is_written_down_and_emissions_are_marked(visitor: Visitor) -> None:
    url = "/jobs/101/layout/driven"
    visitor.post(url, f"{url}/emission", what="catalyst", name="front cat", fate="removed", noted="by the owner")
    page = visitor.get(url)
    assert "Front cat: removed" in page.text
    assert "in writing" in page.select_one(".notice.touches ~ .notice.touches").text
    visitor.post(
        url,
        f"{url}/use",
        written="track days only",
        acknowledged_by="Mara Quill",
        acknowledged_on="today",
        class_rules="silencer stays",
    )
    use = _design(visitor, 101).use
    assert (use.acknowledged_by, use.class_rules) == ("Mara Quill", ("silencer stays",))
    assert "wanted on the" not in visitor.get(url).text
    sheet = visitor.client.get("/jobs/101/cut/sheet.pdf?paper=a4")
    assert sheet.status_code == 200
    assert "Front cat: removed" in visitor.get("/jobs/101/cut").text
    assert visitor.post(url, f"{url}/use", 422, written="x" * 700).select_one("textarea").text.strip() == "x" * 700
    visitor.post(url, f"{url}/take-out", id="e1")
    assert not _design(visitor, 101).use.emissions


def test_configurations_are_listed_each_with_its_own_findings(visitor: Visitor) -> None:
    url = f"/jobs/{QUAD}/layout/driven"
    page = visitor.get(url)
    assert "leads nowhere" in page.select_one(".configurations").text
    assert "what is it called" in visitor.post(url, f"{url}/configuration", 422, without="muffler-1").text
    visitor.post(url, f"{url}/configuration", c_name="bare", without="tip-1")
    assert [c.name for c in _design(visitor, QUAD).configurations][-1] == "bare"


def test_the_rear_view_and_its_template(visitor: Visitor) -> None:
    page = visitor.get(f"/jobs/{QUAD}/layout/rear?sizes=76.2,4in")
    assert len(page.select(".tip-end")) == 4
    assert "101.6 mm" in page.text
    assert visitor.get(f"/jobs/{QUAD}/layout/rear?sizes=huge", 422).select_one("#a-sizes")["value"] == "huge"
    pdf = visitor.client.get(f"/jobs/{QUAD}/layout/rear/template-tip-1.pdf")
    assert pdf.data.startswith(b"%PDF")
    assert visitor.client.get(f"/jobs/{QUAD}/layout/rear/template-nothing.pdf").status_code == 404


def test_the_shops_own_shelf(visitor: Visitor) -> None:
    url = "/jobs/103/layout/shelf"
    page = visitor.get(f"{url}?kind=muffler")
    assert page.select(".dimension")
    refused = visitor.post(url, f"{url}/keep", 422, kind="muffler", name="", **{"muffler-long": "14in"})
    assert refused.select_one("[name='muffler-long']")["value"] == "14in"
    values = {"muffler-long": "14in", "muffler-wide": "9in", "mass": "5.2", "metal": "409", "surface": "bare"}
    visitor.post(url, f"{url}/keep", kind="muffler", name="oval 14", **values)
    assert "body long 355.6" in visitor.get(url).text
    assert (
        "at least as wide" in visitor.post(url, f"{url}/keep", 422, kind="oval", name="o", **{"oval-wide": "10"}).text
    )
    number = visitor.get(url).select_one("[name='id']")["value"]
    visitor.post(url, f"{url}/set-down", id=number, p_x="2000", p_y="0", p_z="250")
    part = _design(visitor, 103).parts[0]
    assert (part.name, part.item.mass_kg, part.item.metal) == ("oval 14", 5.2, "409")
    table = visitor.client.get(f"{url}/shelf.csv").text
    assert "oval 14" in table
    mixed = table + "spaceship,x,od=1,,,\n"
    page = visitor.post(url, f"{url}/table", 422, table=mixed)
    assert "line 3: no kind" in page.text
    assert "spaceship" in page.select_one("#a-table").text
    assert "columns" in visitor.post(url, f"{url}/table", 422, table="hello").text
    visitor.post(url, f"{url}/drop", id=number)
    assert not visitor.get(url).select("[name='id']")


def test_the_model_is_the_servers_geometry(visitor: Visitor) -> None:
    url = f"/jobs/{TWIN}/layout/model"
    found = json.loads(visitor.client.get(f"{url}/bodies.json").data)
    kinds = {b["kind"] for b in found["bodies"]}
    assert kinds == {"pipe", "part", "hard", "heat-shy", "soft"}
    names = [m["name"] for m in found["moves"]]
    assert any("droop" in n for n in names)
    assert "pipe: swung left, hot" in names
    assert "pipe: hung and wet" in names
    assert all(len(own) == 16 for m in found["moves"] for own in m["matrices"].values())
    for what in ("system", "underbody", "both"):
        for kind in ("glb", "stl"):
            assert len(visitor.client.get(f"{url}/{what}.{kind}").data) > 1000
    assert visitor.client.get("/jobs/103/layout/model/system.glb").status_code == 404
    assert visitor.client.get(f"{url}/system.exe").status_code == 404


def test_a_corner_is_dragged_nudged_and_refused(visitor: Visitor) -> None:
    url = "/jobs/101/route?piece=p8"
    page = visitor.get(url)
    assert page.select("[data-handle='p8']")
    before = _design(visitor, 101).runs[0].pieces
    visitor.post(url, "/jobs/101/route/corner", run="r1", handle="p8", view="left", dx="0", dy="-10")
    after = _design(visitor, 101).runs[0].pieces
    assert after[7].angle_deg != before[7].angle_deg
    assert after[3:6] == before[3:6]
    visitor.post(url, "/jobs/101/route/corner", run="r1", handle="p8", way="up", by="10")
    refused = visitor.post(url, "/jobs/101/route/corner", 422, run="r1", handle="p9", way="up", by="10")
    assert "choose a bend" in refused.text
    assert "piece" in visitor.post(url, "/jobs/101/route/corner", 422, run="r1", handle="p8", way="up", by="a bit").text


def test_a_finding_is_shown_in_the_position_it_speaks_of(visitor: Visitor) -> None:
    page = visitor.get("/jobs/104/route?finding=0")
    assert page.select_one("svg.strips")
    rules = {"name": "shop"} | {i["name"]: i["value"] for i in visitor.get("/rules").select("input[name]")}
    rules |= {"hanger_swing_mm": "60", "name": "Long Bend Exhausts"}
    rules.pop("csrf_token", None)
    visitor.post("/rules", "/rules", **{k: v for k, v in rules.items() if k not in ("unit", "back")})
    page = visitor.get("/jobs/104/route?finding=0")
    assert "pipe swung" in page.text
    assert page.select(".shadow")


def test_what_a_whole_system_is_made_from_is_kept_by_itself(visitor: Visitor) -> None:
    url = f"/jobs/{TWIN}/layout"
    page = visitor.get(url)
    assert not page.select("#l-s_x"), "the first form is for a first run only"
    visitor.post(url, f"{url}/made-from", clr="95.25, 76.2", angles="30, 45", shortest="25", free="yes")
    assert [float(c) for c in _design(visitor, TWIN).settings.clr_mm] == [95.25, 76.2]
    assert visitor.post(url, f"{url}/made-from", 422, clr="tight", angles="30", shortest="0")


def test_hardware_off_the_shelf_is_put_in_the_line_and_tube_changed_behind_it(visitor: Visitor) -> None:
    shelf_url, url = "/jobs/101/layout", "/jobs/101/route?piece=p15"
    visitor.post(shelf_url, f"{shelf_url}/parts/add", kind="reducer", part_name="step up", where="carried")
    page = visitor.get(url)
    part = page.select_one("#carry-part option")["value"]
    piece = _design(visitor, 101).runs[0].pieces[-1].id
    visitor.post(f"/jobs/101/route?piece={piece}", "/jobs/101/route/carry", part=part, then="carry")
    assert _design(visitor, 101).runs[0].pieces[-1].part == part
    refused = visitor.post(f"/jobs/101/route?piece={piece}", "/jobs/101/route/tube", 422, od="wide", wall="1.5")
    assert refused.select_one("#tube-od")["value"] == "wide"
    visitor.post(f"/jobs/101/route?piece={piece}", "/jobs/101/route/tube", od="3in", wall="1.5")
    assert _design(visitor, 101).runs[0].pieces[-2].tube.od_mm == pytest.approx(76.2)
    assert "a reducer or an expander is wanted" in visitor.get("/jobs/101/route").text


def test_what_a_section_needs_is_written_on_the_hand_over(visitor: Visitor) -> None:
    url = f"/jobs/{TWIN}/layout/apart"
    token = visitor.get(f"/jobs/{TWIN}/layout/fixings").select_one("[name='csrf_token']")["value"]
    for code, line in ((303, "comes out only with the tank off"), (422, " ")):
        number = visitor.get(f"/jobs/{TWIN}/layout/fixings").select_one("[name='rev']")["value"]
        answer = visitor.client.post(f"{url}/note", data={"csrf_token": token, "rev": number, "line": line})
        assert answer.status_code == code
    assert "tank off" in visitor.get(url).text
    assert visitor.client.get(f"/jobs/{TWIN}/cut/sheet.pdf?paper=a4").status_code == 200


def test_what_a_part_is_made_of_is_written_down_and_bites(visitor: Visitor) -> None:
    url = "/jobs/101/layout"
    page = f"{url}?part=res"
    refused = visitor.post(page, f"{url}/parts/made", 422, part="res", metal="titanium", wall="thin")
    assert refused.select_one("#h-wall")["value"] == "thin"
    visitor.post(page, f"{url}/parts/made", part="res", metal="titanium", wall="1", mass="2.5")
    item = _design(visitor, 101).part("res").item
    assert (item.metal, item.mass_kg) == ("titanium", 2.5)
    assert "do not weld to each other" in visitor.get("/jobs/101/layout/fixings").text


def test_hardware_in_the_line_is_rolled(visitor: Visitor) -> None:
    url = "/jobs/101/route?piece=p4"
    visitor.post(url, "/jobs/101/route/set", piece="p4", field="roll_deg", value="90", then="carry")
    assert _design(visitor, 101).runs[0].pieces[3].roll_deg == 90.0
    visitor.post(url, "/jobs/101/route/set", piece="p4", field="roll_deg", step="-1", value="", then="carry")
    assert _design(visitor, 101).runs[0].pieces[3].roll_deg == 85.0


def test_a_part_is_set_to_the_centre_line(visitor: Visitor) -> None:
    url = "/jobs/104/layout"
    part = next(p.id for p in _design(visitor, TWIN).parts if p.name == "X-pipe")
    assert "under left rear rubber" in visitor.get(f"{url}?part={part}").text
    visitor.post(f"{url}?part={part}", f"{url}/parts/stand", part=part, how="snap", to="left-rail")
    assert _design(visitor, TWIN).part(part).placed.point[1] == -420.0
    assert visitor.post(f"{url}?part={part}", f"{url}/parts/stand", 422, part=part, how="snap", to="moon")


def test_a_way_is_found_weighed_taken_and_undone(visitor: Visitor) -> None:
    url = "/jobs/104/route?run=r4"
    page = visitor.get("/jobs/104/route/find?run=r4&keep=none")
    assert page.select_one(".goes").text
    assert page.select("path.ghost")
    ordered = visitor.get("/jobs/104/route/find?run=r4&keep=none&weigh=clear")
    assert ordered.select_one(".helper-tab.on").text == "most clearance first"
    before = _design(visitor, TWIN).run("r4").pieces
    visitor.post(
        "/jobs/104/route/find?run=r4&keep=none", "/jobs/104/route/answer", answer="0", keep="none", about="ways"
    )
    assert _design(visitor, TWIN).run("r4").pieces != before
    assert "not closed" not in visitor.get(url).select_one(".work-line").text
    visitor.post(url, "/jobs/104/route/history", which="undo")
    assert _design(visitor, TWIN).run("r4").pieces == before
