"""A joint seen against the flow: tacks by the clock, the order of its four welds, and where no torch gets to."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...core.joining import ROUND, WeldPlan

SIZE, RADIUS, TACK_AT, HOUR_AT, SHUT_AT = 260.0, 78.0, 96.0, 118.0, 60.0


@dataclass(frozen=True)
class Spot:
    """A place by the clock: a number, and where it is drawn."""

    text: str
    x: float
    y: float


@dataclass(frozen=True)
class JointPicture:
    """The picture of a joint: hours round it, tacks in their order, sides that are shut as arcs, quarters as arcs
    with their number.
    """

    size: float
    radius: float
    hours: tuple[Spot, ...]
    tacks: tuple[Spot, ...]
    shut: tuple[str, ...]
    quarters: tuple[tuple[str, Spot], ...]
    words: str


def joint_picture(plan: WeldPlan) -> JointPicture:
    """The drawing of a joint's plan, and the same in words."""
    hours = tuple(_spot(f"{h or 12}", 30.0 * h, HOUR_AT) for h in range(12))
    tacks = tuple(_spot(f"{k}", deg, TACK_AT) for k, deg in enumerate(plan.tacks, 1))
    step = 360.0 / ROUND
    shut = tuple(
        _arc(step * k - step / 2, step * k + step / 2, SHUT_AT) for k, is_shut in enumerate(plan.joint.shut) if is_shut
    )
    quarters = tuple(
        (_arc(first + 6.0, last - 6.0, RADIUS), _spot(f"{k}", first + 45.0, RADIUS - 40.0))
        for k, (first, last) in enumerate(plan.quarters, 1)
    )
    return JointPicture(SIZE, RADIUS, hours, tacks, shut, quarters, _words(plan))


def clock(deg: float) -> str:
    """A clock direction as hours and half hours.

    >>> clock(0.0), clock(105.0), clock(240.0)
    ("12 o'clock", 'half past 3', "8 o'clock")
    """
    half = round(deg / 15.0) % 24
    hour = half // 2 or 12
    return f"half past {hour}" if half % 2 else f"{hour} o'clock"


def _words(plan: WeldPlan) -> str:
    tacks = ", ".join(clock(deg) for deg in plan.tacks)
    shut = [clock(360.0 / ROUND * k) for k, is_shut in enumerate(plan.joint.shut) if is_shut]
    quarters = ", ".join(f"{clock(first)} to {clock(last)}" for first, last in plan.quarters)
    said = f"Seen against the flow, 12 up. Tacks at {tacks}. Weld {quarters}." if plan.tacks else ""
    return said + (f" No torch gets to {', '.join(shut)} on the vehicle." if shut else "")


def _spot(text: str, deg: float, far: float) -> Spot:
    angle = math.radians(deg)
    return Spot(text, SIZE / 2 + far * math.sin(angle), SIZE / 2 - far * math.cos(angle))


def _arc(first: float, last: float, far: float) -> str:
    a, b = _spot("", first, far), _spot("", last, far)
    large = int((last - first) % 360.0 > 180.0)
    return f"M{a.x:.1f},{a.y:.1f}A{far:g},{far:g} 0 {large} 1 {b.x:.1f},{b.y:.1f}"
