"""Fitted in a browser: three pieces with readings at the vehicle, the rest corrected, the sheet again, undone."""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

FIT, CARD = "/jobs/101/fit", "/jobs/101/fit/card"


def _sheet(page: Page) -> str:
    """The cut list as it is printed now."""
    printed = page.request.get("/jobs/101/cut/sheet.pdf")
    assert printed.body().startswith(b"%PDF")
    return page.request.get("/jobs/101/cut.csv").text()


def _fit(page: Page, piece: str, **read: str) -> None:
    page.goto(f"{CARD}?run=r1&piece={piece}")
    page.locator("#tack-it").click()
    for kind, value in read.items():
        page.fill(f"#t-{kind.replace('_', '-')}", value)
    page.locator("#keep-measures").click()
    expect(page.locator(".notice.done")).to_contain_text("Kept")


def test_three_pieces_fitted_the_fourth_corrected_the_sheet_anew_and_undone(page: Page) -> None:
    before = _sheet(page)
    page.set_viewport_size({"width": 390, "height": 800})  # at the vehicle, with one thumb
    _fit(page, "p1", angle_finder="6.5", height="232")
    _fit(page, "p2", angle_finder="0.3", height="224")
    _fit(page, "p3", angle_finder="0.5", height="226", right_rail="207")
    expect(page.locator(".fit-card")).to_contain_text("off plan")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(FIT)
    expect(page.locator("[aria-label=Pieces]")).to_contain_text("3 of 15 on")
    expect(page.locator(".strips .planned").first).to_be_attached()
    page.locator("#find-answer").click()
    page.wait_for_url(re.compile("find=yes"))
    expect(page.locator(".strips .ghost").first).to_be_attached()
    expect(page.locator(".bench-words li").first).to_contain_text("instead of")
    page.locator("#take-answer").click()
    expect(page.locator(".notice.done")).to_contain_text("Corrected")
    assert _sheet(page) != before
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_role("button", name="redo")).to_be_visible()  # it is undone, and not only asked for
    page.goto(f"{FIT}?run=r1&piece=p1")
    page.locator("#take-off").click()
    expect(page.locator(".notice.done")).to_contain_text("drawn as planned again")
    expect(page.locator(".work-line")).to_contain_text("nothing on yet")


def test_a_measure_that_cannot_be_is_named_at_the_vehicle_and_taken_out(page: Page) -> None:
    _fit(page, "p3", height="2230")
    expect(page.locator(".fit-card")).to_contain_text("cannot be: about 2")
    page.get_by_role("button", name="take it out").click()
    expect(page.locator(".fit-card")).not_to_contain_text("cannot be")
    page.fill("#t-height", "two hands")
    page.locator("#keep-measures").click()
    expect(page.locator(".field-error").first).to_be_visible()
    expect(page.locator("#t-height")).to_have_value("two hands")


@pytest.mark.parametrize("width", [1280, 390])
def test_the_engine_finds_nothing_where_something_is_on(page: Page, width: int) -> None:
    _fit(page, "p6", angle_finder="0.4", height="225")
    page.set_viewport_size({"width": width, "height": 800})
    for where in (f"{FIT}?run=r1&piece=p6", f"{FIT}?run=r1&find=yes", f"{CARD}?run=r1&piece=p6", "/jobs/101/weld"):
        page.goto(where)
        wrong = [
            f"{where} {found['id']}: {[n['html'][:120] for n in found['nodes'][:2]]}"
            for found in Axe().run(page).response["violations"]
        ]
        assert not wrong
        assert page.evaluate("document.documentElement.scrollWidth") <= width, where


def test_a_joint_is_welded_in_its_turn_and_the_refit_is_ticked(page: Page) -> None:
    page.goto("/jobs/101/weld")
    expect(page.locator("svg.joint")).to_be_visible()
    page.get_by_role("link", name="next in turn").click()
    expect(page.locator("[aria-label='The joint'] h2")).to_contain_text("muffler to tip")
    page.get_by_role("link", name="refit card").click()
    page.get_by_role("button", name=re.compile("^done: pieces 1 to")).click()
    expect(page.locator("#in-r1-0")).to_have_class(re.compile("done"))
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
