"""The README's first job in other ways: by Tab, Enter and typing, each thing known by its role and spoken name; then
by fingers on a tablet.
"""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.test_first_job import Hand

# a page that was laid out for another screen draws its strips again at once
DRAWN_TO_FIT = """() => Math.abs(document.querySelector("svg.strips")?.getAttribute("width")
    - document.querySelector(".strips-frame")?.clientWidth) <= 4"""
MOST_TABS = 140  # to reach one thing: the longest page has that many


class Keys:
    """Somebody who cannot see the page and has no mouse: goes on with Tab, knows things by what a reader says."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def reach(self, role: str, name: str | re.Pattern[str], *, within: str = "") -> Locator:
        """Tab on until it is reached. Fails where it never is."""
        among = self.page.get_by_role("group", name=within, exact=True) if within else self.page
        wanted = among.get_by_role(role, name=name, exact=isinstance(name, str)).first
        for _ in range(MOST_TABS):
            if wanted.evaluate("e => e === document.activeElement"):
                return wanted
            self.page.keyboard.press("Tab")
        raise AssertionError(f"{role} “{name}” is not reached by Tab")

    def press(self, role: str, name: str | re.Pattern[str]) -> None:
        self.reach(role, name)
        self.page.keyboard.press("Enter")

    def type(self, name: str | re.Pattern[str], text: str, *, within: str = "") -> None:
        self.reach("textbox", name, within=within)
        self.page.keyboard.type(text)


def test_the_first_job_by_keyboard_alone(page: Page) -> None:
    keys = Keys(page)
    page.goto("/")
    keys.press("link", "New job")
    keys.type(re.compile("vehicle"), "van, rear-drive")
    page.keyboard.press("Enter")
    page.wait_for_url("**/underbody*")
    edges = ("front edge, back", "rear edge, back", "left edge, right", "right edge, right", "underside, up", "top, up")
    things = {"crossmember": "1900 1990 -430 430 320 400", "fuel tank": "2250 2900 -430 -40 280 430"}
    for name, sizes in things.items():
        keys.press("link", "Skip to the sheets")
        keys.type("name", name)
        for edge, size in zip(edges, sizes.split(), strict=True):
            keys.type(re.compile(f"^{edge}"), size)
        page.keyboard.press("Enter")
        expect(page.locator(".notice.done")).to_contain_text(f"Entered {name}")
    keys.press("link", "Place the big pieces")
    places = {"start": "1300 60 260", "finish": "2700 260 230"}
    for which, numbers in places.items():
        for what, number in zip(("back", "right", "up"), numbers.split(), strict=True):
            keys.type(re.compile(f"^{what} mm"), number, within=which)
    keys.press("button", "Place and join up")
    expect(page.locator(".proposal").first).to_be_visible()
    keys.press("button", re.compile("^take"))
    expect(page.locator(".worst-words")).to_contain_text("the end meets its aim")
    keys.press("link", re.compile("^Cut"))
    sheet = keys.reach("link", re.compile("shop sheet")).get_attribute("href")
    assert page.request.get(sheet).body()[:5] == b"%PDF-"
    keys.press("link", re.compile("[Cc]reeper card"))
    keys.reach("button", re.compile("[Dd]one"))
    page.keyboard.down("Enter")
    page.wait_for_url("**at=2**")
    page.keyboard.up("Enter")


class Fingers(Hand):
    """A person at a tablet: touches and drags, never a mouse."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.glass = page.context.new_cdp_session(page)

    def click(self, selector: str) -> None:
        self.page.locator(selector).first.tap()

    def tap(self, view: str, back: float, other: float) -> None:
        self.page.touchscreen.tap(*self._px(view, back, other))

    def stroke(self, view: str, start: tuple[float, float], end: tuple[float, float]) -> None:
        (x0, y0), (x1, y1) = self._px(view, *start), self._px(view, *end)
        self._touch("touchStart", x0, y0)
        for k in range(1, 6):
            self._touch("touchMove", x0 + (x1 - x0) * k / 5, y0 + (y1 - y0) * k / 5)
        self._touch("touchEnd")

    def arm(self, tool: str) -> None:
        """Take a drawing tool; no finger is on the glass before the next frame shows that it is taken."""
        self.click(f"[data-draw={tool}]")
        self.seen(f"[data-draw={tool}][aria-pressed=true]")

    def seen(self, selector: str) -> None:
        expect(self.page.locator(selector)).to_be_attached()
        self.page.evaluate("() => new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r)))")

    def hold(self, selector: str, until: str) -> None:
        box = self.page.locator(selector).bounding_box()
        self._touch("touchStart", box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.wait_for_url(until)
        self._touch("touchEnd")

    def _touch(self, kind: str, *place: float) -> None:
        points = [{"x": place[0], "y": place[1]}] if place else []
        self.glass.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})


def test_the_first_job_by_fingers_alone(browser: Browser, address: str) -> None:
    tablet = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True, base_url=address)
    page = tablet.new_page()
    hand = Fingers(page)
    page.goto("/")
    hand.click("#new-job")
    hand.click("#vehicle")
    page.keyboard.type("van, rear-drive")  # the tablet's own keys
    hand.click("#make-job")
    page.wait_for_function(DRAWN_TO_FIT)
    hand.arm("box")
    hand.stroke("below", (1900, -430), (1990, 430))
    expect(page.locator(".notice.done")).to_contain_text("Drew box")
    hand.seen("svg.strips.second")
    hand.stroke("left", (1900, 320), (1990, 400))
    expect(page.locator(".notice.done")).to_contain_text("drawn in both strips")
    for tool, other in (("above", 430), ("low-line", 150)):
        hand.arm(tool)
        hand.tap("left", 1500, other)
        expect(page.locator("[data-draw][aria-pressed=true]")).to_have_count(0)
    hand.click("#go-on")
    expect(page.locator("[data-fields=l-s]")).to_have_attribute("aria-pressed", "true")
    for view, back, other in (("below", 1300, 60), ("left", 1300, 260), ("below", 2700, 260), ("left", 2700, 230)):
        hand.tap(view, back, other)
        filled = {"below": "y", "left": "z"}[view]
        expect(page.locator(f"#l-{'s' if back == 1300 else 'm'}_{filled}")).not_to_have_value("")
    hand.click("#place-and-join")
    hand.click("#take-1")
    expect(page.locator(".worst-words")).to_contain_text("the end meets its aim")
    hand.click("text=Cut it")
    hand.click("#card-link")
    hand.hold("#done", "**at=2**")
    tablet.close()
