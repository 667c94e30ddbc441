"""A full survey of the demo's truck, as it is done: typed, dragged, photographed, carried away, wiped, brought back."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

URL = "/jobs/103/underbody"


def _survey(page: Page, url: str = URL) -> dict:
    return json.loads(page.request.get(f"{url}/survey.json").body())


def _thing(page: Page, name: str) -> dict:
    return next(t for t in _survey(page)["things"] if t["name"] == name)


def _drag(page: Page, selector: str, dx: float, dy: float) -> None:
    page.locator(selector).first.scroll_into_view_if_needed()
    box = page.locator(selector).first.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2)
    page.mouse.move(x + dx, y + dy)
    page.mouse.up()


def _settled(page: Page, words: str) -> None:
    expect(page.locator(".notice.done")).to_contain_text(words)


def test_the_whole_survey_there_and_back(page: Page, tmp_path: Path) -> None:
    page.goto(URL)
    page.fill("#s-wheelbase", "3300")
    page.click("button[value=ladder-frame]")
    _settled(page, "every figure is a guess")

    # dragged: the tank 60 px to the rear in the view from below, then its underside up by its handle from the left
    page.click(".thing-row:has-text('fuel tank')")
    expect(page.locator("[data-handle]").first).to_be_attached()
    before = _thing(page, "fuel tank")["shape"]
    _drag(page, "[data-view=below] [data-thing=fuel-tank]", 60, 0)
    _settled(page, "moved fuel tank")
    moved = _thing(page, "fuel tank")["shape"]
    assert moved["center"][0] > before["center"][0] + 100
    assert moved["size"] == before["size"]
    _drag(page, "[data-view=left] [data-handle=z0]", 0, -8)
    _settled(page, "stretched fuel tank")
    assert _thing(page, "fuel tank")["shape"]["size"][2] < moved["size"][2]
    page.click(".nudge button[value=up]")
    _settled(page, "moved fuel tank 5 mm up")

    # typed: how it was really measured
    page.fill("#t-x0", "1420")
    page.fill("#t-how_measured", "square off the rail")
    page.fill("#t-plus_minus_mm", "3")
    page.click("#keep-thing")
    expect(page.locator(".thing-row:has-text('fuel tank')")).to_contain_text("square off the rail")

    # a window in the crossmember, and how the truck stands
    page.click(".sheet-tab:has-text('windows')")
    for key, value in {"name": "hole", "x": "1040", "y": "150", "z": "480", "wide": "70", "high": "70"}.items():
        page.fill(f"#f-{key}", value)
    page.select_option("#f-through", "gearbox crossmember")
    page.click("#keep-item")
    expect(page.locator(".thing-list")).to_contain_text("biggest tube")
    page.click(".sheet-tab:has-text('stance')")
    page.select_option("#line-on", "lift")
    page.click("#in-line-pitch .take")
    expect(page.locator("#in-line-pitch .taken, #in-line-pitch .field-error")).to_be_visible()
    page.fill("#line-pitch", "1.5")
    page.click("#keep-lines")
    expect(page.locator("section[aria-label='How the vehicle stands']")).to_contain_text("more along the vehicle now")

    # photographed, with the camera's notes that must not be kept
    picture = tmp_path / "hanger.jpg"
    exif = Image.Exif()
    exif.get_ifd(0x8825)[1] = "N"
    Image.linear_gradient("L").convert("RGB").save(picture, exif=exif)
    page.click(".sheet-tab:has-text('before you crawl out')")
    page.set_input_files("#photo-file", str(picture))
    page.select_option("#photo-of", label="hanger 2")
    page.click("#keep-photo")
    expect(page.locator(".photos")).to_contain_text("hanger 2")
    kept = page.request.get(page.locator(".photos img").get_attribute("src")).body()
    assert not Image.open(io.BytesIO(kept)).getexif()
    page.click(".check:has-text('Braces')")
    expect(page.locator(".check:has-text('Braces')")).to_have_attribute("aria-pressed", "true")

    # carried away, wiped, brought back: equal
    before = _survey(page)
    assert before["photos"] and before["windows"] and before["ticked"] == ["covers"]
    page.click(".sheet-tab:has-text('files')")
    with page.expect_download() as download:
        page.click("text=bundle, with scans and pictures")
    bundle = tmp_path / "survey.zip"
    download.value.save_as(bundle)
    empty = tmp_path / "empty.json"
    empty.write_text('{"format": "widebend-survey", "version": 1}')
    for file in (empty, bundle):
        page.goto(f"{URL}/files")
        page.set_input_files("#file-survey", str(file))
        page.click("#bring-survey")
        _settled(page, "The survey is in")
        if file == empty:
            assert not _survey(page)["things"]
    assert _survey(page) == before


def test_tapes_to_marks_by_hand(page: Page) -> None:
    page.goto(f"{URL}?sheet=marks")
    for name, place in {"left bolt": "900 -420 330", "right bolt": "900 420 340", "rear bolt": "1900 60 420"}.items():
        page.fill("#f-name", name)
        for key, value in zip("xyz", place.split(), strict=True):
            page.fill(f"#f-{key}", value)
        page.click("#keep-item")
        expect(page.locator(".thing-list")).to_contain_text(name)
    page.click(".sheet-tab:has-text('measure')")
    for n, (name, tape) in enumerate({"left bolt": "734.9", "right bolt": "532.9", "rear bolt": "585.7"}.items(), 1):
        page.select_option(f"#f-mark{n}", name)
        page.fill(f"#f-tape{n}", tape)
    page.click("#work-out")
    expect(page.locator(".answer")).to_have_count(2)
    page.fill("#name-0", "front hanger")
    page.click("#put-0")
    _settled(page, "front hanger")
    assert _survey(page)["hang_points"][0]["name"] == "front hanger"


def test_a_finger_drags_only_what_is_chosen(page: Page) -> None:
    page.goto(URL)
    page.click("button[value=rear-drive]")
    _settled(page, "every figure is a guess")
    before = _survey(page)
    touch = """([selector, dx]) => {
      const target = document.querySelector(selector), box = target.getBoundingClientRect();
      const at = {pointerId: 5, pointerType: "touch", button: 0, bubbles: true, clientX: box.x + box.width / 2,
                  clientY: box.y + box.height / 2};
      target.dispatchEvent(new PointerEvent("pointerdown", at));
      target.dispatchEvent(new PointerEvent("pointermove", {...at, clientX: at.clientX + dx}));
      target.dispatchEvent(new PointerEvent("pointerup", {...at, clientX: at.clientX + dx}));
    }"""
    tank = "[data-view=below] [data-thing=fuel-tank]"
    page.evaluate(touch, [tank, 40])
    page.wait_for_timeout(600)
    assert _survey(page) == before
    page.click(".thing-row:has-text('fuel tank')")
    expect(page.locator("[data-handle]").first).to_be_attached()
    page.evaluate(touch, [tank, 40])
    _settled(page, "moved fuel tank")
    assert _survey(page) != before


def _bare_job(page: Page) -> str:
    """The underbody of a new job: nothing is near that a stroke could snap to."""
    page.goto("/jobs/new")
    for field, words in (("customer", "Oda Fenn"), ("vehicle", "van"), ("title", "drawn by hand")):
        page.fill(f"#{field}", words)
    page.click("#make-job")
    return "/".join(page.url.split("/")[3:5])


def _pointed(page: Page, x: float) -> float:
    """What stands at an x of the screen in the strips [mm]."""
    return page.evaluate(
        """x => { const svg = document.querySelector("svg.strips"), box = svg.getBoundingClientRect();
      const low = Number(svg.dataset.low), high = Number(svg.dataset.high);
      return low + (x - box.x) / box.width * (high - low); }""",
        x,
    )


def test_a_box_is_drawn_by_mouse_and_its_height_dragged(page: Page) -> None:
    """It lands within a millimetre of what the pointer said, and Escape puts the tool away."""
    url = f"/{_bare_job(page)}/underbody"
    page.goto(url)
    page.click("[data-draw=box]")
    ground = page.locator("[data-view=below] .strip-ground").bounding_box()
    x, y = ground["x"] + 300, ground["y"] + 60
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 90, y + 30)
    expect(page.locator(".drawn-size")).to_contain_text("×")
    page.mouse.move(x + 180, y + 70)
    ends = [_pointed(page, x), _pointed(page, x + 180)]
    page.mouse.up()
    _settled(page, "Drew box")
    drawn = _survey(page, url)["things"][-1]["shape"]
    for end, sign in zip(ends, (-1, 1), strict=True):
        assert abs(drawn["center"][0] + sign * drawn["size"][0] / 2 - end) < 1.0
    _drag(page, "[data-view=left] [data-handle=z1]", 0, -20)
    _settled(page, "stretched")
    assert _survey(page, url)["things"][-1]["shape"]["size"][2] > drawn["size"][2]
    page.fill(".taped [name=name]", "cross brace")
    page.fill(".taped [name=long]", "640")
    page.keyboard.press("Enter")
    _settled(page, "cross brace")
    assert next(t for t in _survey(page, url)["things"] if t["name"] == "cross brace")["shape"]["size"][0] == 640
    page.click("[data-draw=cylinder]")
    page.keyboard.press("Escape")
    expect(page.locator("[data-draw][aria-pressed=true]")).to_have_count(0)


def test_a_bar_is_drawn_by_a_finger(page: Page) -> None:
    url = f"/{_bare_job(page)}/underbody"
    page.goto(url)
    page.click("[data-draw=cylinder]")
    page.evaluate("""() => {
      const box = document.querySelector("[data-view=below] .strip-ground").getBoundingClientRect();
      const target = document.querySelector("[data-view=below] .strip-ground");
      const at = {pointerId: 7, pointerType: "touch", button: 0, bubbles: true, clientX: box.x + 200,
                  clientY: box.y + 80};
      target.dispatchEvent(new PointerEvent("pointerdown", at));
      target.dispatchEvent(new PointerEvent("pointermove", {...at, clientX: at.clientX + 150}));
      target.dispatchEvent(new PointerEvent("pointerup", {...at, clientX: at.clientX + 150}));
    }""")
    _settled(page, "Drew bar")
    assert _survey(page, url)["things"][-1]["shape"]["type"] == "cylinder"


@pytest.mark.parametrize("size", [(1280, 800), (820, 1180)])
def test_nothing_runs_off_the_side(page: Page, size: tuple[int, int]) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for place in ("", "?sheet=travel", "?sheet=stance", "?sheet=check", "/files", "/measure/old"):
        page.goto(f"/jobs/101/underbody{place}")
        page.wait_for_timeout(300)
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth + 1"), place


def test_what_is_typed_survives_a_window_of_another_width(page: Page) -> None:
    page.goto("/jobs/101/underbody")
    page.fill("#t-name", "a brace half entered")
    drawn = page.locator("svg.strips").get_attribute("width")
    page.set_viewport_size({"width": 1100, "height": 800})
    expect(page.locator("svg.strips")).not_to_have_attribute("width", drawn)
    expect(page.locator("#t-name")).to_have_value("a brace half entered")
