"""Surveying with a camera in a browser: print, photos in, propose, take, the pipe in the photo."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from widebend.demo.photographed import PHOTOS

VAN, OTHER = "/jobs/120/underbody/camera", "/jobs/102/underbody/camera"


def test_photos_become_a_survey_and_the_old_pipe_a_run(page: Page) -> None:
    page.goto(VAN)
    expect(page.get_by_role("img", name=re.compile("over what is there"))).to_be_visible()
    becomes = page.get_by_role("form", name="Take them")
    expect(becomes).to_contain_text("within both doubts")
    expect(becomes.get_by_text("more than")).to_have_count(0)
    old = becomes.get_by_label(re.compile("old pipe old pipe as a run"))
    expect(old).not_to_be_checked()
    old.check()
    page.locator("#take-tags").click()
    page.wait_for_url(re.compile("camera"))
    page.get_by_role("link", name="pipe in it").nth(8).click()
    expect(page.locator(".planned-pipe").first).to_be_attached()
    page.goto("/jobs/120/route")
    expect(page.locator("#bench")).to_contain_text("old pipe")


def test_each_photo_answers_as_it_comes(page: Page, tmp_path: Path) -> None:
    page.goto(OTHER)
    sheet = page.get_by_role("link", name="bolt, sheet 1, A4").get_attribute("href")
    assert page.request.get(sheet or "").headers["content-type"] == "application/pdf"
    film = tmp_path / "film.mp4"
    film.write_bytes(b"\x00\x00\x00\x18ftypmp42" + bytes(200))
    photos = [PHOTOS / f"van-{k:02d}.jpg" for k in (7, 8, 9)]
    page.locator("input[name=photos]").set_input_files([*photos, film])
    page.locator("#send-photos").click()
    lines = page.locator("#photo-answers li")
    expect(lines).to_have_count(4)
    expect(lines.nth(0)).to_contain_text("tags ")
    expect(lines.nth(3)).to_contain_text("film")
    page.get_by_role("link", name="show what was taken").click()
    expect(page.locator("[aria-label=Photos] tbody tr")).to_have_count(3)
    expect(page.locator("body")).to_contain_text("how high")


@pytest.mark.parametrize("size", [(1280, 800), (820, 1180), (390, 800)])
def test_nothing_runs_off_the_side(page: Page, size: tuple[int, int]) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(VAN)
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
