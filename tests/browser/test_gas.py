"""Bore, heat and sound in a browser: two sizes laid over each other, a drone found and mended by a branch that fits."""

from __future__ import annotations

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

BORE, HEAT, SOUND = (f"/jobs/101/layout/{sheet}" for sheet in ("bore", "heat", "sound"))


def test_two_bores_are_laid_over_each_other(page: Page) -> None:
    page.goto(BORE)
    expect(page.locator(".gas-lead")).to_contain_text("The gas pushes against")
    row = page.locator(".bores tr", has_text="76.2 mm")
    row.get_by_role("link", name="lay it over").click()
    expect(page.locator(".gas-lead")).to_contain_text("Laid over in blue: the same in 76.2 mm")
    expect(page.locator("svg.strips .over-line").first).to_be_visible()
    page.locator(".losses summary").first.click()
    expect(page.locator(".losses details[open]")).to_contain_text("g/s of gas")
    page.go_back()
    expect(page.locator("svg.strips .over-line")).to_have_count(0)


def test_a_drone_is_found_and_mended_by_a_branch_that_fits(page: Page) -> None:
    page.goto(SOUND)
    lead = page.locator(".gas-lead")
    expect(lead).to_contain_text("It drones at")
    lead.get_by_role("link", name="what to do").first.click()
    mends = page.locator(".mends li")
    expect(mends.first).to_contain_text("closed branch")
    page.get_by_role("button", name="put it on").first.click()
    # what may be put on is tried on the whole design, and its kernels may still compile
    expect(page.locator(".notice.done")).to_contain_text("Put a closed branch on", timeout=120_000)
    expect(lead).to_contain_text("1 closed branch counted in")
    expect(lead).not_to_contain_text(re.compile("Order 2 stands out by 6 dB"))
    page.goto("/jobs/101/route?run=q1")
    expect(page.locator(".line-up")).to_be_visible()
    page.goto(SOUND)
    page.locator("#undo").click()
    expect(lead).to_contain_text("It drones at")
    expect(lead).not_to_contain_text("counted in")


@pytest.mark.parametrize("width", [1280, 820, 390])
def test_the_sheets_are_read_by_anybody(page: Page, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800})
    for where in (BORE, f"{BORE}?over=76.2", f"{HEAT}?state=full", f"{SOUND}?drone=1&over=mend-0"):
        page.goto(where)
        wrong = [
            f"{where} {found['id']}: {[n['html'][:120] for n in found['nodes'][:2]]}"
            for found in Axe().run(page).response["violations"]
        ]
        assert not wrong
        assert page.evaluate("document.documentElement.scrollWidth") <= width, where
