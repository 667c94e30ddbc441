"""Every room answers, every edit is kept, every refusal is in words at its field."""

import json
import re
from concurrent.futures import ThreadPoolExecutor

import pytest
from bs4 import BeautifulSoup

from tests.web.conftest import Visitor
from widebend.core.laying import positions
from widebend.core.records import Design, Rules
from widebend.core.review import review
from widebend.core.units import Length
from widebend.formats.design_json import read_design
from widebend.web.floor.rules import EVERY
from widebend.web.page.at_hand import LruCache

ROOMS = ["/", "/jobs/new", "/rules"] + [
    f"/jobs/{job}/{room}" for job in (101, 102, 103) for room in ("intake", "underbody", "layout", "route", "cut")
]


def _design(visitor: Visitor, job: int = 101) -> Design:
    return read_design(visitor.client.get(f"/jobs/{job}/design.json").data)


def _revision(visitor: Visitor, job: int = 101) -> str:
    return str(visitor.get(f"/jobs/{job}/route").select_one("input[name=rev]")["value"])


@pytest.mark.parametrize("url", ROOMS)
def test_every_room_answers_with_secure_headers(visitor: Visitor, url: str) -> None:
    response = visitor.client.get(url)
    assert response.status_code == 200
    policy = response.headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert response.headers["X-Content-Type-Options"] == "nosniff"


def test_the_floor_names_the_next_action_of_each_job(visitor: Visitor) -> None:
    words = [a.get_text(" ", strip=True) for a in visitor.get("/").select("a.next")]
    assert words[:2] == ["Clear what touches 1 place", "Place the start and the finish"]
    assert "Measure the underbody" in words
    assert "Cut the pieces 26 pieces" in words


def test_posting_without_a_token_is_refused(visitor: Visitor) -> None:
    assert visitor.client.post("/jobs/new", data={"title": "x"}).status_code == 400


def test_a_foreign_host_is_refused(visitor: Visitor) -> None:
    assert visitor.client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400


@pytest.mark.parametrize("url", ["/nothing", "/jobs/999/route", "/jobs/999/cut/sheet.pdf", "/jobs/102/cut.csv"])
def test_what_is_not_there_is_said(visitor: Visitor, url: str) -> None:
    page = visitor.get(url, 404)
    assert "Traceback" not in page.get_text()
    assert page.select_one("[role=alert]")


def test_new_job_keeps_what_was_typed_when_something_is_missing(visitor: Visitor) -> None:
    page = visitor.post("/jobs/new", "/jobs/new", 422, customer="Ada Fenn", title="", vehicle=" ", wanted="quiet")
    assert page.select_one("#customer")["value"] == "Ada Fenn"
    assert page.select_one("#wanted").get_text() == "quiet"
    assert page.select_one("#wrong-vehicle")
    visitor.post("/jobs/new", "/jobs/new", vehicle="van")  # who and what can be said later
    assert "walk-in" in visitor.get("/").get_text()


def test_a_value_is_set_and_kept(visitor: Visitor) -> None:
    visitor.post("/jobs/101/route?piece=p9", "/jobs/101/route/set", value='16"', then="carry")
    leg = _design(visitor).runs[0].pieces[8]
    assert leg.length_mm == pytest.approx(406.4)
    assert leg.length_mm.typed == '16"'


OF_ONE_PAGE = re.compile(r'tab=\w+|name="(?:tab|csrf_token)" type="hidden" value="[^"]*"')


def test_an_edited_design_is_kept_in_memory_as_it_is_read(visitor: Visitor) -> None:
    """What another process reads of it is the same to the last word."""

    def seen() -> list[str]:
        pages = [visitor.get(url) for url in ("/jobs/104/route?piece=p3", "/jobs/104/cut", "/jobs/104/weld")]
        return [OF_ONE_PAGE.sub("", str(page.select_one("main"))) for page in pages] + [
            _design(visitor, 104).model_dump_json()
        ]

    edits = {"set": {"value": '16 1/8"'}, "insert": {"kind": "bend"}, "lock": {"locked": "yes"}}
    for action, values in edits.items():
        visitor.post("/jobs/104/route?piece=p3", f"/jobs/104/route/{action}", then="carry", **values)
        before, kept = seen(), visitor.client.application.extensions
        kept |= {"kept": LruCache(), "surveys": LruCache(), "solved": LruCache()}
        assert seen() == before


BAD_VALUES = ["", "abc", "-5", "99999999", "nan", "1/0", "1,500", "<script>"]


def test_a_bend_is_made_of_slices_and_one_bend_again(visitor: Visitor) -> None:
    bend = next(p for p in _design(visitor, 104).runs[0].pieces if p.kind == "bend")
    at = f"/jobs/104/route?run={_design(visitor, 104).runs[0].id}&piece={bend.id}"
    assert visitor.get(at).select_one("#otherwise").get_text() == "of slices"
    visitor.post(at, "/jobs/104/route/otherwise", run=_design(visitor, 104).runs[0].id, piece=bend.id)
    assert visitor.get(at).select_one("#otherwise").get_text() == "one bend"
    assert next(p for p in _design(visitor, 104).runs[0].pieces if p.id == bend.id).kind == "pie"


@pytest.mark.parametrize("text", BAD_VALUES)
def test_a_bad_value_is_refused_at_its_field_and_kept(visitor: Visitor, text: str) -> None:
    before = _design(visitor)
    page = visitor.post("/jobs/101/route?piece=p9", "/jobs/101/route/set", 422, value=text)
    field = page.select_one("#value-length_mm")
    assert field["value"] == text
    assert field["aria-invalid"] == "true"
    assert page.select_one("#wrong-length_mm").get_text(strip=True)
    assert _design(visitor) == before


def test_a_bend_with_no_room_says_what_would_be_possible(visitor: Visitor) -> None:
    values = {"value": "5000", "then": "hold"}
    page = visitor.post("/jobs/101/route?piece=p9", "/jobs/101/route/set", 422, **values)
    words = page.select_one("#wrong-length_mm").get_text()
    assert "cannot be held" in words
    assert "smaller step, or carry the rest" in words


def test_undo_and_redo_over_a_reload(visitor: Visitor) -> None:
    before = _design(visitor)
    visitor.post("/jobs/101/route?piece=p9", "/jobs/101/route/take-out", then="carry")
    after = _design(visitor)
    assert len(after.runs[0].pieces) == len(before.runs[0].pieces) - 1
    visitor.post("/jobs/101/route", "/jobs/101/route/history", which="undo")
    assert _design(visitor) == before
    visitor.post("/jobs/101/route", "/jobs/101/route/history", which="redo")
    assert _design(visitor) == after


def test_a_stale_edit_is_refused_with_both_shown(visitor: Visitor) -> None:
    url, action = "/jobs/101/route?piece=p9", "/jobs/101/route/set"
    form = visitor.form(url, action)
    mine = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")} | {
        "value": "333",
        "then": "carry",
    }
    visitor.post(url, action, value="222", then="carry")  # another page comes first
    response = visitor.client.post(action, data=mine)
    assert response.status_code == 409
    text = response.get_data(as_text=True)
    assert "333" in text
    assert "length 222 mm" in text
    assert _design(visitor).runs[0].pieces[8].length_mm == 222


def test_a_refusal_keeps_what_was_typed_and_says_nothing_else(visitor: Visitor) -> None:
    url, action = "/jobs/101/route?piece=p9", "/jobs/101/route/set"
    hidden = {i["name"]: i.get("value", "") for i in visitor.form(url, action).select("input[type=hidden]")}
    visitor.post(url, action, value="222", then="carry")
    refused = visitor.client.post(action, data=hidden | {"value": "333", "then": "carry"})
    page = BeautifulSoup(refused.data, "html.parser")
    assert page.select_one("#value-length_mm")["value"] == "333"
    assert "You wanted the length to 333" in " ".join(page.select_one(".refused").text.split())
    assert not page.select(".notice.done")
    layout = "/jobs/101/underbody"
    form = visitor.form(layout, f"{layout}/thing")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    box = {"name": "brace", "shape": "box", "x0": "1000", "x1": "1100", "y0": "0", "y1": "90", "z0": "300", "z1": "400"}
    visitor.post(layout, f"{layout}/thing", **box)
    refused = visitor.client.post(f"{layout}/thing", data=hidden | box | {"name": "other brace"})
    assert refused.status_code == 409
    assert "Entered" not in refused.get_data(as_text=True)


def test_a_value_that_was_only_looked_at_is_no_edit(visitor: Visitor) -> None:
    """The clock shows 3:15 where it is 3:17: entered as it stands it turns nothing and makes no revision."""
    before, number = _design(visitor), _revision(visitor)
    bend = next(p for p in before.runs[0].pieces if p.kind == "bend")
    url, action = f"/jobs/101/route?piece={bend.id}", "/jobs/101/route/set"
    for form in visitor.get(url).select("form.value"):
        if not form.select_one("input[name=shown]"):
            continue
        hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
        field = form.select_one("input[name=value]")
        assert visitor.client.post(action, data=hidden | {"value": field["value"]}).status_code == 303
    assert _design(visitor) == before
    assert _revision(visitor) == number


def test_edits_of_one_page_that_come_at_once_are_all_kept(visitor: Visitor) -> None:
    """Two posts at the same moment, same page and revision, different pieces, twelve times: nothing is overwritten."""
    legs = [p.id for p in _design(visitor).runs[0].pieces if p.kind == "leg"][:2]
    url, action = f"/jobs/101/route?piece={legs[0]}", "/jobs/101/route/set"
    hidden = {i["name"]: i.get("value", "") for i in visitor.form(url, action).select("input[type=hidden]")}
    cookies = visitor.client._cookies.copy()
    for k in range(12):
        want = {piece: f"{150 + 10 * k + n}" for n, piece in enumerate(legs)}

        def post(item: tuple[str, str]) -> int:
            client = visitor.client.application.test_client()
            client._cookies.update(cookies)
            values = hidden | {"piece": item[0], "value": item[1], "shown": "", "then": "carry"}
            return client.post(action, data=values).status_code

        with ThreadPoolExecutor(2) as both:
            assert list(both.map(post, want.items())) == [303, 303]
        lengths = {p.id: float(p.length_mm) for p in _design(visitor).runs[0].pieces if p.id in want}
        assert lengths == {piece: float(value) for piece, value in want.items()}


def test_close_shows_answers_and_takes_one(visitor: Visitor) -> None:
    url = "/jobs/101/route/close?keep=p12"
    page = visitor.get(url)
    assert len(page.select(".proposal")) >= 2
    assert page.select("path.ghost")
    visitor.post(url, "/jobs/101/route/answer", answer="1", keep="p12")
    found = review(_design(visitor))
    assert found.system.runs[0].miss_mm < 1e-6


def test_an_answer_that_comes_too_near_says_so(visitor: Visitor) -> None:
    """Straight on from the resonator of the demo's cat-back there is the axle."""
    shown = visitor.get("/jobs/101/route/close?run=r1&keep=p8")
    near = [p for p in shown.select(".proposal") if "margin -" in p.text]
    assert near
    assert all("too near" in p.text and "tight" in p["class"] for p in near)
    assert "none keeps its gaps" in shown.text


def test_closing_without_ends_says_what_is_missing(visitor: Visitor) -> None:
    page = visitor.get("/jobs/103/route/close", 422)
    assert "Layout step" in page.select_one(".field-error").get_text()


def test_a_remedy_is_offered_and_taken(visitor: Visitor) -> None:
    page = visitor.get("/jobs/101/route/remedies")
    button = page.select_one("button[name=remedy]")
    visitor.post("/jobs/101/route/remedies", "/jobs/101/route/remedy", remedy=button["value"])
    assert not [f for f in review(_design(visitor)).findings if f.code == "touches"]


THING = {
    "name": "brace",
    "shape": "box",
    "x0": "2000",
    "x1": "2050",
    "y0": "-300",
    "y1": "300",
    "z0": "200",
    "z1": "220",
    "nature": "hard",
    "moves_with": "body",
    "state": "as found",
}


def test_a_thing_is_entered_changed_and_taken_out(visitor: Visitor) -> None:
    url = "/jobs/102/underbody"
    visitor.post(url, f"{url}/thing", **THING)
    things = {t.name: t for t in _design(visitor, 102).survey.things}
    assert things["brace"].shape.center == (2025, 0, 210)
    visitor.post(
        f"{url}?thing={things['brace'].id}", f"{url}/thing", **THING | {"z1": '10"', "thing": things["brace"].id}
    )
    assert {t.name: t for t in _design(visitor, 102).survey.things}["brace"].shape.size[2] == pytest.approx(54)
    visitor.post(url, f"{url}/take-out", thing=things["brace"].id)
    assert "brace" not in {t.name for t in _design(visitor, 102).survey.things}
    visitor.post(url, f"{url}/history", which="undo")
    assert "brace" in {t.name for t in _design(visitor, 102).survey.things}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": ""}, "name"),
        ({"x1": "1900"}, "x1"),
        ({"z0": "letters"}, "z0"),
        ({"y1": ""}, "y1"),
        ({"shape": "capsule", "dia": "0", **dict.fromkeys(("ax", "ay", "az", "bx", "by", "bz"), "5")}, "dia"),
        ({"shape": "cylinder", "dia": "9", **dict.fromkeys(("ax", "ay", "az", "bx", "by", "bz"), "5")}, "bx"),
        ({"moves_with": "rear-axle", "droop": "x", "bump": "9"}, "droop"),
        ({"needed_gap_mm": "-4"}, "needed_gap_mm"),
    ],
)
def test_a_wrong_thing_is_refused_at_its_field(visitor: Visitor, change: dict, field: str) -> None:
    url = "/jobs/102/underbody"
    page = visitor.post(url, f"{url}/thing", 422, **THING | change)
    assert page.select_one(f"#wrong-t-{field}"), page.select(".field-error")
    assert page.select_one("#t-x0")["value"] == "2000"  # nothing typed is lost


def test_travel_is_checked_at_droop_ride_and_bump(visitor: Visitor) -> None:
    url = "/jobs/103/underbody"
    thing = THING | {"moves_with": "rear-axle", "droop": "100", "bump": "80"}
    visitor.post(url, f"{url}/thing", **thing)
    survey = _design(visitor, 103).survey
    states = positions(survey.groups[0], survey)
    assert [(s.name, s.shift[2]) for s in states] == [("droop", -100), ("ride", 0), ("bump", 80)]


LAYOUT = {
    "s_x": "1300",
    "s_y": "60",
    "s_z": "260",
    "s_heading": "0",
    "s_slope": "0",
    "m_x": "2700",
    "m_y": "260",
    "m_z": "230",
    "m_heading": "0",
    "m_slope": "0",
    "m_long": "380",
    "m_wide": "230",
    "m_high": "110",
    "od": '2 1/2"',
    "wall": "1.5",
    "material": "304",
    "t_od": "76.2",
    "t_long": "0",
    "clr": "95.25",
    "angles": "15, 30, 45, 90",
    "shortest": "0",
    "free": "yes",
}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"wall": "40"}, "wall"),
        ({"s_slope": "200"}, "s_slope"),
        ({"clr": ""}, "clr"),
        ({"angles": "15, x"}, "angles"),
        ({"angles": "", "free": ""}, "angles"),
        ({"m_long": "0"}, "m_long"),
        ({"s_x": "1e9"}, "s_x"),
    ],
)
def test_a_wrong_layout_is_refused_at_its_field(visitor: Visitor, change: dict, field: str) -> None:
    page = visitor.post("/jobs/103/layout", "/jobs/103/layout", 422, **LAYOUT | change)
    assert page.select_one(f"#wrong-l-{field}")
    assert page.select_one("#l-s_y")["value"] == "60"


def test_a_vertical_flange_is_placed_and_can_be_left(visitor: Visitor) -> None:
    visitor.post("/jobs/103/layout", "/jobs/103/layout", **LAYOUT | {"s_slope": "-90", "s_z": "500"})
    page = visitor.get("/jobs/103/route/close")
    assert page.select(".proposal")


def test_another_tube_goes_through_to_the_tip(visitor: Visitor) -> None:
    for tube in ("63.5", "57.15"):
        visitor.post("/jobs/103/layout", "/jobs/103/layout", **LAYOUT | {"t_long": "150", "od": tube})
    ends = {port.od_mm for part in _design(visitor, 103).parts for port in part.item.ports}
    assert ends == {57.15, 76.2}  # the tip's own mouth


def test_a_start_inside_a_thing_is_said(visitor: Visitor) -> None:
    url = "/jobs/103/underbody"
    around = THING | {"name": "gearbox", "x0": "1200", "x1": "1400", "y0": "0", "y1": "120", "z0": "200", "z1": "320"}
    visitor.post(url, f"{url}/thing", **around)
    visitor.post("/jobs/103/layout", "/jobs/103/layout", **LAYOUT)
    assert "starts inside the gearbox" in visitor.get("/jobs/103/layout").get_text()


def _card_fields(visitor: Visitor, at: int) -> dict[str, str]:
    form = visitor.get(f"/jobs/101/cut/card?at={at}&ask=wrong").select_one(".creeper-ask")
    return {i["name"]: i.get("value", "") for i in form.select("input")}


def test_the_card_goes_on_to_the_next_run_and_ends_with_all_cut(visitor: Visitor) -> None:
    """The badge, the cut list and the card count the same pieces, of all runs together."""
    job = "/jobs/104"
    badge = next(a.text for a in visitor.get(f"{job}/cut").select(".work-line a, .work-line li") if "pieces" in a.text)
    runs = [a["href"] for a in visitor.get(f"{job}/cut").select("nav[aria-label=Runs] a")]
    count = sum(len(visitor.get(href).select(".cut-table tbody tr")) for href in runs)
    assert f"{count} pieces" in badge
    where = f"{job}/cut/card"
    for _ in range(count + len(runs)):
        page = visitor.get(where)
        form = page.select_one("#done-form")
        if form is None:
            onward = page.select_one(".creeper-done")
            if "cut list" in onward.text:
                break
            where = onward["href"]
            continue
        fields = {i["name"]: i.get("value", "") for i in form.select("input")}
        where = visitor.client.post(f"{job}/cut/card", data={**fields, "outcome": "done"}).headers["Location"]
    assert "All cut" in page.select_one("h1").text
    assert f"{count} of {count} cut" in visitor.get(f"{job}/cut").select_one("#card-link").text


def test_the_creeper_card_ticks_and_takes_back(visitor: Visitor) -> None:
    url = "/jobs/101/cut/card"
    visitor.post(url, url, outcome="done")
    assert "undo" in visitor.get(f"{url}?at=1").select_one(".creeper-undo").get_text()
    asked = visitor.post(f"{url}?at=2", url, outcome="went wrong")  # it asks first, and nothing is written yet
    assert len(visitor.get("/jobs/101/cut").select("tr.went-wrong")) == 0
    assert asked is not None
    assert len(visitor.get(f"{url}?at=2&ask=wrong").select(".creeper-choices button")) > 4
    refused = visitor.client.post(url, data={**_card_fields(visitor, 2), "what": "short", "by": "a thumb"})
    assert "a thumb" in visitor.client.get(refused.headers["Location"]).text
    kept = visitor.client.post(url, data={**_card_fields(visitor, 2), "what": "short", "by": "30"})
    assert kept.status_code == 303
    assert "ring of 30" in visitor.get(f"{url}?at=2").select_one(".creeper-word").text
    page = visitor.get("/jobs/101/cut")
    assert [len(page.select(f"tr.{c}")) for c in ("done", "went-wrong")] == [1, 1]
    visitor.post(f"{url}?at=1", url, outcome="undo")
    assert not visitor.get("/jobs/101/cut").select("tr.done")


def test_the_shop_can_change_its_rules(visitor: Visitor) -> None:
    usual = {key: str(value) for key, value in Rules().model_dump(mode="json").items()}
    values = usual | {"name": "Shop", "hard_gap_mm": '1/2"', "moving_gap_mm": "60"}
    visitor.post("/rules", "/rules", **values)
    assert _design(visitor).settings.rules.moving_gap_mm == 60
    visitor.post("/rules", "/rules", 422, **values | {"hard_gap_mm": "x"})


def test_rules_left_as_shown_stay_and_one_goes_back_to_usual(visitor: Visitor) -> None:
    """In inches a gap of 10 mm reads 0.3937: kept untouched it is 10 mm to the last figure."""
    visitor.post("/", "/preferences", unit="in", back="/")
    page = visitor.get("/rules")
    assert page.select_one("#hard_gap_mm")["value"] == "0.3937"
    fields = {i["name"]: i["value"] for i in page.select(".rule input, #name")}
    visitor.post("/rules", "/rules", **fields | {"soft_gap_mm": "2"})
    assert visitor.get("/rules").select_one(".rule.changed label").text == "to soft things: bumper, trim"
    rules = _design(visitor).settings.rules
    assert (rules.hard_gap_mm, rules.soft_gap_mm, rules.fuel_tank_gap_mm) == (10.0, pytest.approx(50.8), 50.0)
    some = visitor.get("/rules?find=soft")
    assert [i["name"] for i in some.select(".rule input")] == ["soft_gap_mm", "soft_c"]
    visitor.post("/rules?find=soft", "/rules", name="Shop", usual="soft_gap_mm", soft_gap_mm="2")
    assert _design(visitor).settings.rules == Rules()


def test_what_the_page_says_is_the_least_and_most_of_a_rule_is_taken() -> None:
    for rule in EVERY:
        for value in (rule.least, rule.most):
            assert getattr(Rules.model_validate({rule.key: value}), rule.key) == value, rule.key


def test_only_a_length_is_read_as_one(visitor: Visitor) -> None:
    """A share was shown in mm, and in inches was another number."""
    lengths = {key for key, one in Rules.model_fields.items() if isinstance(one.default, Length)}
    assert {rule.key for rule in EVERY if not rule.unit} <= lengths
    visitor.client.set_cookie("unit", "in")
    assert visitor.get("/rules").select_one("[name=airflow_share]")["value"] == "0.3"


def test_units_are_remembered(visitor: Visitor) -> None:
    visitor.post("/", "/preferences", unit="in16", back="/")
    assert "2 3/4 in" in visitor.get("/jobs/101/cut").get_text()


def test_a_4_mb_post_is_refused(visitor: Visitor) -> None:
    response = visitor.client.post("/jobs/new", data={"wanted": "x" * 4_000_000})
    assert response.status_code == 413
    assert "Too big" in response.get_data(as_text=True)


def test_the_design_file_is_a_design(visitor: Visitor) -> None:
    data = visitor.client.get("/jobs/101/design.json").data
    assert json.loads(data)["format"] == "widebend-design"
    assert review(read_design(data)).findings[0].code == "touches"
