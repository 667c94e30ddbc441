"""A way found, compared with another, taken and undone; looked for longer by a worker while the page shows how far."""

import re

from playwright.sync_api import Page, expect


def test_find_compare_take_undo(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p8")
    expect(page.locator(".worst")).to_contain_text("touches")
    before = page.locator(".tile").count()
    page.click("#find-from-here")
    expect(page.locator(".proposal").first).to_be_visible(timeout=60_000)
    expect(page.locator(".goes").first).to_contain_text("the axle housing")
    assert page.locator("path.ghost").count() > 0
    page.click("text=most clearance first")
    expect(page.locator(".helper-tab.on")).to_contain_text("most clearance", timeout=60_000)
    page.click("#take-1")
    expect(page.locator(".work-line .here")).not_to_contain_text("touches", timeout=20_000)
    expect(page.locator(".work-line .here")).not_to_contain_text("not closed")
    page.click("#undo")
    expect(page.locator(".worst")).to_contain_text("touches")
    assert page.locator(".tile").count() == before


def test_look_longer_shows_the_best_so_far_and_stops(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p8")
    page.click("#find-from-here")
    expect(page.locator(".proposal").first).to_be_visible(timeout=60_000)
    page.click("#look-longer")
    expect(page.locator("#progress")).to_be_visible(timeout=60_000)
    expect(page.locator(".proposal").first).to_be_visible(timeout=120_000)  # drawn again when one is found
    stop = page.locator("#stop-search")
    if stop.count():
        stop.click()
    expect(page.locator("#progress")).to_contain_text(re.compile("stopped|everywhere"), timeout=60_000)
    page.click("#take-1")
    expect(page.locator(".work-line .here")).not_to_contain_text("touches", timeout=20_000)
