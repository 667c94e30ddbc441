"""The README's first job done as a person does it, to the printed sheet; then undo, keys, a stale edit, a tablet."""

import re
import time

import pytest
from playwright.sync_api import Page, expect

MOST_ACTIONS = 24  # the README's first job: a click, a tap, a stroke or a field typed each count as one


class Hand:
    """A person at the strips: places are in the vehicle's millimetres, every action is counted."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions = page, 0

    def click(self, selector: str) -> None:
        self.in_sight(selector)
        self.page.click(selector)
        self.actions += 1

    def type(self, selector: str, text: str) -> None:
        self.in_sight(selector)
        self.page.fill(selector, text)
        self.actions += 1

    def in_sight(self, selector: str) -> None:
        """It is on the screen as the page stands: nobody has to scroll to it."""
        box = self.page.locator(selector).bounding_box()
        assert box, selector
        assert box["y"] >= 0, selector
        assert box["y"] + box["height"] <= self.page.viewport_size["height"], selector

    def _px(self, view: str, back: float, other: float) -> tuple[float, float]:
        return self.page.evaluate(
            """([view, back, other]) => {
              const svg = document.querySelector("svg.strips"), box = svg.getBoundingClientRect();
              const strip = svg.querySelector(`[data-view=${view}]`).dataset, k = box.width / svg.viewBox.baseVal.width;
              const per = svg.viewBox.baseVal.width / (svg.dataset.high - svg.dataset.low);
              const middle = Number(strip.top) + Number(strip.height) / 2, up = view === "left" ? -1 : 1;
              const y = middle + up * (other - strip.middle) * per;
              return [box.x + (back - svg.dataset.low) * per * k, box.y + y * k];
            }""",
            [view, back, other],
        )

    def tap(self, view: str, back: float, other: float) -> None:
        self.page.mouse.click(*self._px(view, back, other))
        self.actions += 1

    def stroke(self, view: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*self._px(view, *start))
        self.page.mouse.down()
        self.page.mouse.move(*self._px(view, *end), steps=4)
        self.page.mouse.up()
        self.actions += 1


def test_new_job_to_printed_sheet(page: Page) -> None:
    """The README's first job by hand: fewer than 25 actions, and nothing scrolled."""
    hand = Hand(page)
    page.goto("/")
    hand.click("#new-job")
    hand.type("#vehicle", "van, rear-drive")
    hand.click("#make-job")
    job = re.search(r"/jobs/(\d+)/", page.url)[1]
    crossmember = "crossmember", (1900, -430), (1990, 430), (320, 400)
    tank = "fuel tank", (2250, -430), (2900, -40), (280, 430)
    for name, near, far, heights in (crossmember, tank):
        hand.click("[data-draw=box]")
        hand.stroke("below", near, far)
        expect(page.locator(".notice.done")).to_contain_text("Drew box")
        expect(page.locator("svg.strips.second")).to_be_attached()  # the other strip is waited for
        hand.stroke("left", (near[0], heights[0]), (far[0], heights[1]))
        expect(page.locator(".notice.done")).to_contain_text("drawn in both strips")
        hand.in_sight(".taped-name")
        page.keyboard.type(name)  # its name is chosen to be typed over
        page.keyboard.press("Enter")
        hand.actions += 1
        expect(page.locator(".notice.done")).to_contain_text(f"called {name}")
    for tool, strokes in (("above", [("left", 1500, 430)]), ("low-line", [("left", 1500, 150)])):
        hand.click(f"[data-draw={tool}]")
        for stroke in strokes:
            hand.tap(*stroke)
        expect(page.locator(".notice.done")).to_contain_text("Drew")
        expect(page.locator("[data-draw][aria-pressed=true]")).to_have_count(0)
    hand.click("[data-draw=rails]")
    hand.stroke("below", (1500, -430), (1500, 430))
    expect(page.locator(".notice.done")).to_contain_text("the rails")
    survey = page.request.get(f"/jobs/{job}/underbody/survey.json").json()
    kept = next(t for t in survey["things"] if t["name"] == "fuel tank")
    assert (kept["nature"], kept["heat_shy_what"]) == ("heat-shy", "fuel tank")
    low = [c - s / 2 for c, s in zip(kept["shape"]["center"], kept["shape"]["size"], strict=True)]
    assert max(abs(a - b) for a, b in zip(low, (2250, -430, 280), strict=True)) <= 5.0  # a pixel is 4 mm here
    hand.click("#go-on")
    expect(page.locator("[data-fields=l-s]")).to_have_attribute("aria-pressed", "true")
    for view, back, other in (("below", 1300, 60), ("left", 1300, 260), ("below", 2700, 260), ("left", 2700, 230)):
        filled = {"below": "y", "left": "z"}[view]
        hand.tap(view, back, other)
        expect(page.locator(f"#l-{'s' if back == 1300 else 'm'}_{filled}")).not_to_have_value("")
    hand.click("#place-and-join")
    expect(page.locator(".proposal").first).to_be_visible()
    assert page.locator("path.ghost").count() > 0
    hand.click("#take-1")
    expect(page.locator(".worst-words")).to_contain_text("the end meets its aim")
    assert hand.actions <= MOST_ACTIONS
    assert page.evaluate("scrollY") == 0
    page.click("text=Cut it")
    expect(page.locator(".cut-table tbody tr").first).to_be_visible()
    sheet = page.request.get(f"/jobs/{job}/cut/sheet.pdf?paper=a4")
    assert sheet.ok
    assert sheet.body()[:5] == b"%PDF-"
    page.click("#card-link")
    expect(page.locator("h1")).to_be_visible()


def test_steppers_keys_and_undo(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p9&then=carry")
    field = page.locator("#value-length_mm")
    expect(field).to_have_value("405")
    page.evaluate("for (let n = 0; n < 3; n++) document.querySelector('#more-length_mm').click()")
    expect(field).to_have_value("408")
    expect(page.locator(".kept")).to_contain_text("revision 2")  # a burst is one revision
    page.focus("#tile-p9")
    page.keyboard.press("ArrowRight")
    expect(page.locator("#tile-p10")).to_have_class(re.compile("chosen"))
    expect(page.locator("#tile-p10")).to_be_focused()
    page.keyboard.press("Shift+ArrowUp")
    expect(page.locator("#value-angle_deg")).to_have_value("45°")
    page.keyboard.press("Control+z")
    expect(page.locator("#value-angle_deg")).to_have_value("30°")
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#value-angle_deg")).to_have_value("45°")
    page.focus("#tile-p10")
    page.keyboard.press("b")
    expect(page.locator("#line-up .tile")).to_have_count(16)
    page.focus("#line-up .tile.chosen")
    page.keyboard.press("Delete")
    expect(page.locator("#line-up .tile")).to_have_count(15)
    page.reload()
    expect(page.locator("#line-up .tile")).to_have_count(15)
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()


def test_typing_a_bad_value_keeps_it_at_its_field(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p9")
    page.fill("#value-length_mm", "2 1/0")
    page.press("#value-length_mm", "Enter")
    expect(page.locator("#wrong-length_mm")).to_contain_text("divides by zero")
    expect(page.locator("#value-length_mm")).to_have_value("2 1/0")


def test_hold_the_finish_in_the_browser(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p8")
    expect(page.locator("#then-hold")).to_have_attribute("aria-current", "true")
    page.fill("#value-angle_deg", "27")
    page.press("#value-angle_deg", "Enter")
    expect(page.locator("#tile-p8 .tile-figure")).to_have_text("27°")
    expect(page.locator("#close-it")).not_to_contain_text("misses")


def test_a_program_that_does_not_answer_is_said_where_one_looks(page: Page) -> None:
    page.goto("/jobs/101/route")
    page.route("**/jobs/101/route/**", lambda asked: asked.abort())
    page.mouse.wheel(0, 2000)
    page.locator("#bench button", has_text="+").last.click()
    expect(page.locator("#trouble .notice")).to_contain_text("does not answer")
    assert page.locator("#trouble .notice").evaluate("one => one.getBoundingClientRect().top") >= 0


def test_a_stale_edit_shows_both(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p9&then=carry")
    other = page.context.new_page()
    other.goto("/jobs/101/route?piece=p9&then=carry")
    other.fill("#value-length_mm", "380")
    other.press("#value-length_mm", "Enter")
    expect(other.locator("#value-length_mm")).to_have_value("380")
    page.fill("#value-length_mm", "390")
    page.press("#value-length_mm", "Enter")
    refused = page.locator(".refused")
    expect(refused).to_contain_text("390")
    expect(refused).to_contain_text("length 380 mm")
    expect(page.locator("#value-length_mm")).to_have_value("390")  # what was typed stays to be entered again
    expect(page.locator("#tile-p9 .tile-figure")).to_have_text("380")


def test_no_edit_is_dropped_by_another_or_by_a_look(page: Page) -> None:
    """+ twice and at once a straight put in, the mouse over the strips: both are kept, however slow the server."""
    page.route("**/route/set", lambda route: (time.sleep(0.6), route.continue_())[1])
    page.goto("/jobs/101/route?piece=p9&then=carry")
    before = page.locator("#line-up .tile").count()
    was = float(page.input_value("#value-length_mm"))
    for _ in range(2):
        page.click("#more-length_mm")
    page.click("#add-leg")
    box = page.locator("#strips").bounding_box()
    for k in range(6):
        page.mouse.move(box["x"] + 200 + 60 * k, box["y"] + 60)
    expect(page.locator("#line-up .tile")).to_have_count(before + 1)
    expect(page.locator("#tile-p9 .tile-figure")).to_have_text(f"{was + 2:.0f}")


def test_what_is_typed_stays_when_something_else_is_entered(page: Page) -> None:
    page.goto("/jobs/101/route?piece=p9&then=carry")
    page.click("text=another tube from here on")
    page.fill("#tube-od", "76.2")
    page.click("#more-length_mm")
    expect(page.locator("[data-pending]")).to_have_count(0)
    expect(page.locator(".kept")).to_contain_text("revision")
    expect(page.locator("#tube-od")).to_have_value("76.2")


def test_reload_finds_the_place_again(page: Page) -> None:
    page.goto("/jobs/101/route")
    page.click("#tile-p12")
    expect(page.locator("#tile-p12")).to_have_class(re.compile("chosen"))
    page.reload()
    expect(page.locator("#tile-p12")).to_have_class(re.compile("chosen"))


SPAN = "document.querySelector('#strips').dataset.high - document.querySelector('#strips').dataset.low"


def test_zoom_keeps_strips_in_step_and_show_finds(page: Page) -> None:
    page.goto("/jobs/101/route")
    before = float(page.evaluate(SPAN))
    page.click("#sight-closer")
    page.wait_for_function(f"w => {SPAN} < w", arg=before * 0.7)
    page.click("#sight-fit")
    page.wait_for_function(f"w => Math.abs({SPAN} - w) < 1", arg=before)
    page.click(".worst >> text=show")
    page.wait_for_function("() => +document.querySelector('#strips').dataset.low > 2500")
    expect(page.locator("#slice")).to_contain_text("3210 mm back")


def test_remedies_follow_within_half_a_second_or_so_and_mend(page: Page) -> None:
    page.goto("/jobs/101/route")
    button = page.locator("#worst-remedy button")
    expect(button).to_be_visible()
    button.click()
    expect(page.locator(".notice.done")).to_contain_text("Done:")
    expect(page.locator("section.worst.touches")).to_have_count(0)


@pytest.mark.parametrize("url", ["/", "/jobs/101/route", "/jobs/101/underbody", "/jobs/101/layout", "/jobs/101/cut"])
def test_nothing_is_wider_than_a_tablet(page: Page, url: str) -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto(url)
    page.wait_for_load_state("networkidle")
    assert page.evaluate("document.documentElement.scrollWidth") <= 820
    small = page.evaluate(
        "[...document.querySelectorAll('button, a.button, a.tile, a.sight-button, .creeper-buttons *')]"
        ".filter(e => e.offsetParent && e.getBoundingClientRect().height < 43.5).map(e => e.outerHTML.slice(0, 80))"
    )
    assert small == []


def test_the_card_ticks_only_by_holding(page: Page) -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto("/jobs/101/cut/card?at=2")
    page.click("#done")  # a touch in passing
    time.sleep(0.4)
    assert "at=2" in page.url
    box = page.locator("#done").bounding_box()
    page.mouse.move(box["x"] + 50, box["y"] + 50)
    page.mouse.down()
    page.wait_for_url(re.compile("at=3"))
    page.mouse.up()
    page.click("text=undo")
    page.wait_for_url(re.compile("at=2"))


def test_it_works_without_javascript(browser, address: str) -> None:
    context = browser.new_context(base_url=address, java_script_enabled=False)
    page = context.new_page()
    page.goto("/jobs/101/route?piece=p9&then=carry")
    page.click("#more-length_mm")
    expect(page.locator("#value-length_mm")).to_have_value("406")
    context.close()
