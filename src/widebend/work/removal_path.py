"""Trying sections out as long work: one with what would help it, or the order in which all come out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from ..core.errors import EditError
from ..core.laying import View
from ..core.records import Design
from ..core.removal import OnProgress, order_out, out_or_helped
from ..core.review import review, sections
from ..formats.ways_out_json import way_out_data


@dataclass(frozen=True)
class OutWish:
    """The question: one section by its number, or all in order; with the things as that view counts them."""

    kind: Literal["out", "order"]
    section: int = 0
    view: View = "coming"


OUT_KINDS = ("out", "order")


def take_out(design: Design, wish: OutWish, tell: OnProgress) -> dict[str, Any]:
    """The ways out as data, and the one change that was needed, in words. Raises EditError."""
    laid = review(design, wish.view)
    known = sections(design, laid.system)
    if wish.kind == "order":
        ways, change = order_out(design, laid.system, laid.obstacles, tell), ""
    elif wish.section < len(known):
        way, change = out_or_helped(design, laid.system, known[wish.section], laid.obstacles, tell)
        ways = [way]
    else:
        raise EditError("that section is no longer there")
    return {"ways": [way_out_data(w, known) for w in ways], "change": change}
