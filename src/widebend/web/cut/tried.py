"""A change tried on the design before it is taken: what the review says more and less, and figures before and after."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass

from flask import g

from ...core.cutting import cut_lists
from ...core.flow import as_straight_mm
from ...core.records import Design
from ...core.review import Review, review
from ...core.units import format_length
from ...core.wording import say
from ..page.at_hand import AtHand

TOLD_RANK = 4  # findings of a worse rank than this are told


@dataclass(frozen=True)
class Tried:
    """The changed design, what the review says more and less of it, and figures: words, before, after."""

    design: Design
    worse: list[str]
    better: list[str]
    figures: list[tuple[str, str, str]]


def tried(here: AtHand, design: Design, runs: Set[str]) -> Tried:
    """How a changed design compares with the one at hand; figures of the runs that change."""
    found = review(design)
    before, after = _said(here.found, here.design), _said(found, design)
    rows = [
        (words, format_length(a, g.unit, 0), format_length(b, g.unit, 0))
        for (words, a), (_, b) in zip(
            _figures(here.design, here.found, runs), _figures(design, found, runs), strict=True
        )
    ]
    return Tried(design, [w for w in after if w not in before], [w for w in before if w not in after], rows)


def _said(found: Review, design: Design) -> list[str]:
    return [say(f, design, g.unit) for f in found.findings if f.rank[0] < TOLD_RANK]


def _figures(design: Design, found: Review, runs: Set[str]) -> list[tuple[str, float]]:
    laid = [r for r in found.system.runs if r.run.id in runs and r.pieces]
    lists = cut_lists(design, laid)
    return [
        ("tube along the middle", sum(cuts.tube_mm for cuts in lists)),
        ("costs the flow as much as straight pipe of", sum(as_straight_mm(r.pieces) for r in laid)),
        ("weld", sum(cuts.weld_mm for cuts in lists)),
    ]
