"""The creeper card without a connection: strokes wait on the device, are sent later in their order, each once."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Page, expect

CARD = "/jobs/104/cut/card"


@pytest.fixture
def context(browser: Browser, address: str) -> Iterator[BrowserContext]:
    made = browser.new_context(base_url=address, viewport={"width": 820, "height": 1180})
    yield made
    made.close()


def _hold_done(page: Page) -> None:
    box = page.locator("#done").bounding_box()
    page.mouse.move(box["x"] + 50, box["y"] + 50)
    page.mouse.down()
    page.wait_for_timeout(900)
    page.mouse.up()


def _ready(page: Page) -> None:
    """Until the service worker has the run's cards."""
    page.goto(f"{CARD}?at=1")
    kept = "caches.open('cards-1').then(c => c.keys()).then(k => k.some(r => r.url.includes('at=3')))"
    for _ in range(300):  # wait_for_function takes a promise for a yes
        if page.evaluate(kept):
            return
        page.wait_for_timeout(50)
    raise AssertionError("the cards were never kept")


def test_ticks_made_without_a_connection_are_kept_shown_and_sent_once(context: BrowserContext) -> None:
    page = context.new_page()
    sent: list[str] = []
    page.on("request", lambda r: sent.append(r.post_data or "") if r.method == "POST" else None)
    _ready(page)
    context.set_offline(True)
    _hold_done(page)
    page.wait_for_url(re.compile("at=2"))
    expect(page.locator("#waiting")).to_contain_text("1 stroke waits on this device (piece 1 done)")
    page.get_by_role("button", name="deburr").click()
    expect(page.locator("#waiting")).to_contain_text("2 strokes wait")
    _hold_done(page)
    page.wait_for_url(re.compile("at=3"))
    expect(page.locator("#waiting")).to_contain_text("3 strokes wait")
    page.reload()  # the battery, or a thumb: what waits is still there
    expect(page.locator("#waiting")).to_contain_text("3 strokes wait")
    sent.clear()
    context.set_offline(False)
    expect(page.locator("#waiting")).to_be_hidden()
    taken = [s for s in sent if "outcome=" in s]
    assert [re.search(r"outcome=([^&]+)", s)[1] for s in taken][-3:] == ["done", "step%3Adeburr", "done"]
    assert len({re.search(r"stroke=([^&]+)", s)[1] for s in taken[-3:]}) == 3
    page.goto(f"{CARD}?at=1")
    expect(page.locator(".creeper-undo")).to_contain_text("done")
    page.goto(f"{CARD}?at=2")
    expect(page.get_by_role("button", name="✓ deburr")).to_be_visible()


def test_a_picture_taken_without_a_connection_waits_and_is_sent(context: BrowserContext, tmp_path: Path) -> None:
    shot = tmp_path / "weld.png"
    Image.effect_noise((320, 240), 90.0).convert("RGB").save(shot)
    page = context.new_page()
    _ready(page)
    context.set_offline(True)
    page.locator("#picture").set_input_files(shot)
    page.get_by_role("button", name="keep it").click()
    expect(page.locator("#waiting")).to_contain_text("1 picture waits on this device (piece 1 picture)")
    page.reload()
    expect(page.locator("#waiting")).to_contain_text("1 picture waits")
    context.set_offline(False)
    expect(page.locator(".creeper-thumb")).to_have_count(1)
    expect(page.locator("#waiting")).to_be_hidden()


def test_a_stroke_that_comes_twice_counts_once(context: BrowserContext) -> None:
    """The answer was lost on the way, the person took it back, and the device sends it again: it stays taken back."""
    page = context.new_page()
    page.goto(f"{CARD}?at=2")
    send = """async (outcome) => {
      const fields = Object.fromEntries(new FormData(document.getElementById('done-form')));
      fields.outcome = outcome[0]; fields.stroke = outcome[1];
      return (await fetch(location.pathname, { method: 'POST', body: new URLSearchParams(fields) })).status;
    }"""
    first, back = "00000000-0000-4000-8000-000000000001", "00000000-0000-4000-8000-000000000002"
    assert [page.evaluate(send, [o, s]) for o, s in (("done", first), ("undo", back), ("done", first))] == [200] * 3
    page.reload()
    expect(page.locator(".creeper-undo")).to_have_count(0)


def test_a_tick_is_for_the_piece_as_it_was_shown(context: BrowserContext) -> None:
    """The design changed while the tablet was away: the tick is kept as cut to the older drawing, and the card asks."""
    page = context.new_page()
    page.goto(f"{CARD}?at=2")
    page.evaluate("document.querySelector('#done-form [name=shape]').value = 'ab'.repeat(16)")
    _hold_done(page)
    page.wait_for_url(re.compile("at=3"))
    page.goto(f"{CARD}?at=2")
    expect(page.get_by_text("ticked as it was drawn before")).to_be_visible()


def test_the_clock_runs_stops_and_goes_with_the_tick_and_the_card_is_read_when_asked(context: BrowserContext) -> None:
    page = context.new_page()
    page.goto(f"{CARD}?at=1")
    clock = page.locator("#clock")
    expect(clock).to_contain_text("start the clock")
    clock.click()
    page.wait_for_timeout(1300)
    clock.click()
    expect(clock).to_contain_text("go on")
    assert "cut length" in page.locator("#card").get_attribute("data-says")
    _hold_done(page)
    page.wait_for_url(re.compile("at=2"))
    page.goto(f"{CARD}?at=1")
    expect(page.get_by_text("took 1 min")).to_be_visible()
