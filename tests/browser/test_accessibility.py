"""axe-core, an accessibility engine, finds nothing wrong on the pages, wide and narrow."""

from __future__ import annotations

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser

PAGES = (
    "/",
    "/jobs/new",
    "/jobs/away",
    "/rules",
    "/tools",
    "/jobs/101/intake",
    "/jobs/101/underbody",
    "/jobs/101/underbody?sheet=windows",
    "/jobs/101/underbody?sheet=stance",
    "/jobs/101/underbody/measure/tapes",
    "/jobs/101/layout",
    "/jobs/104/layout/fixings",
    "/jobs/104/layout/crossings",
    "/jobs/104/layout/apart",
    "/jobs/104/layout/driven",
    "/jobs/104/layout/rear",
    "/jobs/104/layout/shelf",
    "/jobs/104/layout/model",
    "/jobs/101/route?piece=p8",
    "/jobs/101/route/close?run=r1&keep=p8",
    "/jobs/104/cut",
    "/jobs/101/cut/card?at=2",
    "/jobs/101/cut/card?at=2&ask=wrong",
    "/jobs/104/hang?hanger=hanger-1",
    "/jobs/101/quote?wishes=yes",
    "/months",
    "/jobs/120/underbody/camera",
    "/jobs/101/fit",
    "/jobs/101/fit/card",
    "/jobs/101/weld?joint=r1-6",
    "/jobs/101/weld/refit",
    "/jobs/101/hours",
    "/jobs/101/handover",
    "/board",
    "/cards",
    "/cards/1",
    "/find?q=mara",
    "/customers/1",
    "/rates",
    "/take-in",
    "/people",
    "/people/audit",
    "/account",
    "/sign-in",
    "/jobs/101/cut/nest",
    "/stock",
)
# what a button shows is what it is called by voice: an experimental rule of the engine, on here
OPTIONS = {"rules": {"label-content-name-mismatch": {"enabled": True}}, "resultTypes": ["violations"]}


@pytest.mark.parametrize("width", [1280, 390])
def test_the_engine_finds_nothing(browser: Browser, address: str, width: int) -> None:
    context = browser.new_context(viewport={"width": width, "height": 800}, base_url=address)
    page = context.new_page()
    wrong = []
    for where in PAGES:
        answer = page.goto(where)
        assert answer is not None and answer.status == 200, where
        for found in Axe().run(page, options=OPTIONS).response["violations"]:
            targets = [node["html"][:140] for node in found["nodes"][:3]]
            wrong.append(f"{where}: {found['id']}: {found['help']}: {targets}")
    context.close()
    assert not wrong, "\n".join(wrong)
