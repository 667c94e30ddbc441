"""Losses where ways meet and part, on each way's own pressure.

Two into one: momentum along the trunk, one pressure all over the mouth (Borda and Carnot). One into two: Levin's
K = 1 + (w/v)^2 - 2 (w/v) cos a on the trunk's pressure (Idelchik, section 7, from memory). No measured figure of a
crossover is known to us: half a dynamic head at the most for an X, a fifth for an H.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...facts import PART_KINDS
from ..flow import UNSURE, can_across_mm, expansion_sharp
from ..records import Port
from ..space import unit
from .gas_paths import Meeting

X_LOSS, H_LOSS = (0.1, 0.25, 0.5), (0.0, 0.05, 0.2)


@dataclass(frozen=True)
class Met:
    """K of each way into and out of a meeting, by way: least, usual, most; and by what method."""

    ins: dict[int, tuple[float, float, float]]
    outs: dict[int, tuple[float, float, float]]
    method: str


def met(meeting: Meeting, bores_mm: dict[int, float]) -> Met:
    """The losses of a meeting; `bores_mm` is each way's bore there."""
    none = (0.0, 0.0, 0.0)
    ins, outs = [i for i, _ in meeting.ins], [i for i, _ in meeting.outs]
    kind = meeting.part.item.kind
    if PART_KINDS[kind].is_can:
        wide = can_across_mm(meeting.part)
        into = {i: _range(expansion_sharp(bores_mm[i], max(wide, bores_mm[i]))) for i in ins}
        out = {i: _range(0.5) for i in outs}
        return Met(into, out, "out into the can and in again (Borda and Carnot; a sharp inlet)")
    if kind == "crossover":
        crosses = X_LOSS if _is_x(meeting) else H_LOSS
        return Met(
            dict.fromkeys(ins, crosses), dict.fromkeys(outs, none), "a crossover: no published figure, common practice"
        )
    if len(ins) > 1 and len(outs) == 1:
        port = meeting.outs[0][1]
        into = {i: _range(_joins(bores_mm[i], bores_mm[outs[0]], _angle(p, port), len(ins))) for i, p in meeting.ins}
        return Met(into, {outs[0]: none}, "momentum along the trunk (Borda and Carnot)")
    if len(ins) == 1 and len(outs) > 1:
        port = meeting.ins[0][1]
        out = {i: _range(_parts(bores_mm[ins[0]], bores_mm[i], _angle(port, p), len(outs))) for i, p in meeting.outs}
        return Met({ins[0]: none}, out, "a parting flow (Levin, in Idelchik)")
    return Met(dict.fromkeys(ins, none), dict.fromkeys(outs, none), "straight through")


def _range(k: float) -> tuple[float, float, float]:
    low, usual, high = (k * share for share in UNSURE)
    return low, usual, high


def _is_x(meeting: Meeting) -> bool:
    """An X's pipes lean toward each other; an H's run straight with a stub between."""
    return any(abs(unit(p.axis)[1]) > 0.05 for p in meeting.part.item.ports)


def _angle(one: Port, other: Port) -> float:
    """How far the flow turns from one port to the other [rad]; their axes look outward."""
    return math.acos(float(np.clip(-unit(one.axis) @ unit(other.axis), -1.0, 1.0)))


def _joins(bore: float, trunk: float, angle: float, n: int) -> float:
    """One of n alike that meet in a trunk, on its own pressure; never less than nothing."""
    r = (bore / trunk) ** 2  # one inlet's area over the trunk's; speed in the trunk n r times its own
    speed = n * r
    return max(0.0, 1.0 + speed**2 - 2.0 * n * r * math.cos(angle))


def _parts(trunk: float, bore: float, angle: float, n: int) -> float:
    """One of n alike that a trunk parts into, on its own pressure."""
    speed = (trunk / bore) ** 2 / n  # its speed over the trunk's
    return (1.0 + speed**2 - 2.0 * speed * math.cos(angle)) / speed**2
