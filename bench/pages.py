"""What benches read off the program's pages and files."""

from __future__ import annotations

import html
import re
from typing import Any


def hidden(page: str, name: str) -> str:
    """A hidden field of a page."""
    found = re.search(rf'name="{name}"\s+value="([^"]*)"', page)
    assert found, f"{name} is not on the page"
    return html.unescape(found[1])


def straights(design: dict[str, Any]) -> dict[tuple[str, str], float]:
    """The straights of a design file by run and piece: their lengths [mm], which stand bare or with what was typed."""
    lengths = {
        (run["id"], piece["id"]): piece["length_mm"]
        for run in design["runs"]
        for piece in run["pieces"]
        if piece["kind"] == "leg"
    }
    return {key: float(mm["mm"] if isinstance(mm, dict) else mm) for key, mm in lengths.items()}
