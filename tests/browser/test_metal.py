"""From a route that closes to labelled pieces: the shelf booked, an offcut used up, the last one fought over."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect


@pytest.fixture
def context(browser: Browser, address: str) -> Iterator[BrowserContext]:
    made = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    yield made
    made.close()


def _put(page: Page, who: str, **fields: str) -> None:
    page.goto("/stock")
    for name, value in fields.items():
        field = page.locator(f"#s-{name}")
        if field.evaluate("e => e.tagName") == "SELECT":
            field.select_option(value)
        else:
            if not field.is_visible():
                page.get_by_text("supplier, price, bin, as measured").click()
            field.fill(value)
    if fields["bin"].startswith("rest"):
        page.get_by_label("an offcut").check()
    page.locator("#s-who").fill(who)
    page.locator("#put-on-shelf").click()
    expect(page.locator(".notice.done")).to_contain_text("On the shelf")


def _row(page: Page, place: str) -> Locator:
    return page.locator(".stock-list li", has_text=f"bin {place}")


def test_from_a_route_to_labels_with_an_offcut_used_up(context: BrowserContext) -> None:
    page = context.new_page()
    tube = {"kind": "straight", "od_mm": "63.5", "wall_mm": "1.5", "material": "409"}
    _put(page, "Ann", **tube, length_mm="2520", bin="rest 9")
    page.goto("/jobs/105/route")
    page.get_by_role("link", name="Cut").first.click()
    page.get_by_role("link", name="bars to cut").click()
    page.get_by_role("link", name="tidy shelf").click()
    expect(page.locator(".bars").first).to_contain_text("offcut, bin rest 9")
    page.locator("#take-who").fill("Ann")
    page.get_by_role("button", name="Take it from the shelf").click()
    expect(page.get_by_text("for this job by Ann")).to_be_visible()
    page.goto("/stock")
    expect(_row(page, "rest 9")).to_have_count(0)
    answer = context.request.get("/jobs/105/cut/labels.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    assert answer.body().startswith(b"%PDF")
    page.goto("/jobs/105/cut/nest")
    page.locator("#back-who").fill("Ann")
    page.get_by_role("button", name="put all of it back").click()
    page.goto("/stock")
    expect(_row(page, "rest 9")).to_have_count(1)


def test_a_delivery_comes_in_and_the_last_bend_is_fought_over(context: BrowserContext) -> None:
    one, other = context.new_page(), context.new_page()
    bend = {"kind": "bend", "od_mm": "76.2", "wall_mm": "1.5", "material": "304", "angle_deg": "90", "clr_mm": "114.3"}
    _put(one, "Ann", **bend, counted="0", bin="Q7")
    row = _row(one, "Q7")
    row.locator("[name=number]").fill("1")
    row.locator("[name=who]").fill("Cy")
    row.get_by_role("button", name="receive").click()
    expect(one.locator(".notice.done")).to_contain_text("Cy received 1; 1 on the shelf")
    for page in (one, other):
        page.goto("/stock")
    for page, who in ((one, "Ann"), (other, "Bo")):
        row = _row(page, "Q7")
        row.locator("[name=who]").fill(who)
        row.get_by_role("button", name="take", exact=True).click()
    expect(one.locator(".notice.done")).to_contain_text("Ann took 1; 0 on the shelf")
    told = _row(other, "Q7").get_by_role("alert")
    expect(told).to_have_text(re.compile(r"there are none, not 1: Ann took of it at \d\d:\d\d"))
    expect(_row(other, "Q7").locator("[name=who]")).to_have_value("Bo")
