"""A unit belongs to each figure: rulers, lines and sentences follow the person's own, nothing is read as another."""

from __future__ import annotations

import re

from tests.web.conftest import Visitor
from widebend.core.units import parse_length


def test_the_ruler_and_the_low_line_are_in_the_person_s_unit(visitor: Visitor) -> None:
    in_mm = visitor.get("/jobs/101/route")
    assert "low line 150 mm" in in_mm.text
    visitor.client.set_cookie("unit", "in")
    page = visitor.get("/jobs/101/route")
    ticks = [t.text for t in page.select("svg.strips text") if re.fullmatch(r"\d+ in", t.text.strip())]
    assert len(ticks) > 5
    assert re.search(r"low line 5\.9\d* in", page.text)
    assert " mm" not in page.select_one(".worst").text
    assert " in deep" in page.select_one(".worst").text


def test_switching_a_placed_job_to_inches_shows_lengths_that_are_taken_back(visitor: Visitor) -> None:
    layout = "/jobs/101/layout"
    visitor.client.set_cookie("unit", "in")
    form = visitor.form(layout, layout)
    shown = {i["name"]: i.get("value", "") for i in form.select("input") if i.get("type") != "checkbox"}
    assert float(parse_length(shown["od"], "in")) == 63.5
    before = visitor.client.get("/jobs/101/design.json").json["runs"]
    visitor.post(layout, layout, **shown)
    assert visitor.client.get("/jobs/101/design.json").json["runs"] == before


def test_angles_and_counts_on_the_shelf_have_no_length_s_unit(visitor: Visitor) -> None:
    visitor.client.set_cookie("unit", "in")
    labels = {i["for"]: i.text for i in visitor.get("/jobs/101/layout").select("#shelf label[for]")}
    assert "usual 200" in labels["h-cat-cells"]
    assert "in" not in labels["h-cat-cells"].split("usual")[1]
    assert "degrees" in labels["h-merge-deg"]
    assert "°" in labels["h-merge-deg"]
