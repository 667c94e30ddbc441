"""A hanger taken by its ring and slid along the pipe: the loads answer."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, expect


@pytest.fixture
def context(browser: Browser, address: str) -> Iterator[BrowserContext]:
    made = browser.new_context(base_url=address, viewport={"width": 1280, "height": 900})
    yield made
    made.close()


def test_hung_by_one_button_and_slid_by_hand(context: BrowserContext) -> None:
    page = context.new_page()
    page.goto("/jobs/106/hang")
    page.locator("#hang-it").click()
    page.locator("#take-way").click()
    expect(page.locator(".notice.done")).to_contain_text("Hung on")
    longest = page.locator("#h-place option", has_text="left pipe, piece 3").get_attribute("value")
    page.locator("#h-place").select_option(longest)
    page.locator("#add-hanger").click()
    expect(page.locator(".notice.done")).to_contain_text("Hung it there")
    loads = page.locator(".hang-table tbody td:nth-child(2) b")
    before = loads.all_inner_texts()
    ring = page.locator("svg.strips [data-view=below] circle[data-handle=hanger-4]")
    ring.scroll_into_view_if_needed()
    box = ring.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 40, y, steps=6)
    page.mouse.up()
    expect(page.locator(".notice.done")).to_contain_text("Moved hanger 4")
    after = loads.all_inner_texts()
    assert after != before
    assert all(re.fullmatch(r"-?\d+ N", text) for text in after)
    page.goto("/jobs/106/hang")  # it is kept
    assert loads.all_inner_texts() == after
