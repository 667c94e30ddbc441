"""A person's wishes for a way: what stays, through what, not past what, what counts most, and how long to look."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..errors import EditError
from ..laying import biggest_tube
from ..records import Design, InLine, Run, Survey, Window
from ..space import Vector, biggest_round, pose, unit

WEIGHS = {
    "gentlest": "gentlest first",
    "welds": "fewest welds first",
    "highest": "highest first",
    "cheapest": "cheapest first",
    "clear": "most clearance first",
}
BURIED_MM = 120.0  # what a joint out of a torch's reach counts for, as pipe
WEIGHED_BY = {
    "gentlest": f"pipe, bends and degrees counted together; a joint out of a torch's reach as {BURIED_MM:g} mm more",
    "welds": "fewest pieces, then gentlest",
    "highest": "whose lowest piece is highest, then gentlest",
    "cheapest": "by your prices; without them by weld and pipe",
    "clear": "largest worst margin, then gentlest",
}
VIA_MM = 12.0  # how near to a mark a way must come that is to go through it
Kind = Literal["find", "improve", "mend"]


@dataclass(frozen=True)
class Wish:
    """One question about a run.

    `keep` pieces stay (none given: all that are there), and from the piece `until` on everything stays where it is;
    none given: from the next locked piece or part on, else only the aim. `through` names windows and marks in order,
    `avoid` sides of things as "over:thing-id". `thorough` looks longer: for other sides, for what would open a way.
    """

    keep: int | None = None
    until: str = ""
    through: tuple[str, ...] = ()
    avoid: tuple[str, ...] = ()
    weigh: str = "gentlest"
    thorough: bool = False
    kind: Kind = "find"


def parts_of(wish: Wish, survey: Survey) -> list[tuple[str, Wish]]:
    """Return the wishes for where it goes, each in words and with the wish less that."""
    names = {t.id: t.name for t in survey.things} | {w.id: w.name for w in survey.windows}
    names |= {m.id: m.name for m in survey.marks}
    out = []
    for i, key in enumerate(wish.through):
        less = replace(wish, through=(*wish.through[:i], *wish.through[i + 1 :]))
        out.append((f"{'then ' if i else ''}through {names.get(key, key)}", less))
    for i, shut in enumerate(wish.avoid):
        side, _, key = shut.partition(":")
        less = replace(wish, avoid=(*wish.avoid[:i], *wish.avoid[i + 1 :]))
        out.append((f"not {side} the {names.get(key, key)}", less))
    return out


def span_of(run: Run, wish: Wish) -> tuple[int, int]:
    """The pieces [first, last) that are to be found again. Raises EditError."""
    pieces = run.pieces
    fixed = [i for i, p in enumerate(pieces) if p.locked or isinstance(p, InLine)]
    first = len(pieces) if wish.keep is None else min(max(wish.keep, 0), len(pieces))
    while first < len(pieces) and first in fixed:
        first += 1
    if wish.until:
        last = next((i for i, p in enumerate(pieces) if p.id == wish.until), None)
        if last is None:
            raise EditError("the piece it should lead to is no longer in this run")
        if last < first:
            raise EditError(f"piece {last + 1} comes before piece {first + 1}: choose one further on to lead to")
        between = [i for i in fixed if first <= i < last]
        if between:
            raise EditError(f"piece {between[0] + 1} between them is locked or a part: lead to that, or unlock it")
        return first, last
    return first, next((i for i in fixed if i >= first), len(pieces))


def vias_of(design: Design, names: Sequence[str], od_mm: float) -> Vector:
    """Return the windows a way must come through in order, (n, 7): middle, axis, within how much [mm]. Raises
    EditError.
    """
    rows = [_via(design, name, od_mm) for name in names]
    return np.array(rows).reshape(-1, 7)


def _via(design: Design, name: str, od_mm: float) -> Vector:
    window = next((w for w in design.survey.windows if w.id == name), None)
    if window is not None:
        biggest = biggest_tube(window, design.settings.rules)
        if biggest < od_mm:
            raise EditError(f"{od_mm:g} mm does not pass the {window.name} with its gap: at most {biggest:.0f} mm does")
        return _through_window(window, (biggest - od_mm) / 2)
    mark = next((m for m in design.survey.marks if m.id == name), None)
    if mark is None:
        raise EditError(f"there is no window or mark “{name}” in this survey")
    return np.array([*(float(v) for v in mark.point), 0.0, 0.0, 0.0, VIA_MM])


def _through_window(window: Window, room: float) -> Vector:
    """The middle of the largest round that passes; off it by what is left of the window's own size."""
    return np.array([*_middle(window), *unit(window.axis), max(room, VIA_MM)])


def _middle(window: Window) -> Vector:
    at = pose(window.center, window.axis, window.reference)
    x, y = biggest_round(window.outline, 0.0)[1]
    return np.asarray(at.point + x * at.across + y * at.reference)
