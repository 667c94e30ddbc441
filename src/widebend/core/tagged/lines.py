"""Tags of the whole vehicle: its rails, its low line, how it stands on the lift."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..errors import InputError
from ..photos import FoundTag, is_left
from ..records import Design, LowLine, Rails, Stance
from ..space import Vector
from ..survey import line_through
from ..units import Length
from .proposal import Proposal, beside, sign, surveyed

RAIL_APART_MM = 100.0
LIFTED_MM = 50.0  # a floor this far below where the wheels stand is a lift's


def rails_of(tags: Sequence[FoundTag]) -> Rails | None:
    """The rails by tags along their inner edges; None where they do not say both."""
    left, right = ([tag for tag in tags if is_left(tag.number) == side] for side in (True, False))
    if not left or not right:
        return None
    ys = [float(np.mean([tag.place[1] for tag in side])) for side in (left, right)]
    xs = sorted(float(tag.place[0]) for tag in tags)
    if ys[0] >= ys[1] or xs[-1] - xs[0] < RAIL_APART_MM:
        return None
    front, rear = (
        float(np.mean([t.place[2] for t in tags if abs(float(t.place[0]) - x) < RAIL_APART_MM]))
        for x in (xs[0], xs[-1])
    )
    return Rails(
        left_y_mm=Length(round(ys[0], 1)),
        right_y_mm=Length(round(ys[1], 1)),
        front_at_mm=Length(round(xs[0])),
        rear_at_mm=Length(round(xs[-1])),
        front_height_mm=Length(round(front, 1)),
        rear_height_mm=Length(round(rear, 1)),
    )


def rails(tags: Sequence[FoundTag], design: Design) -> Iterator[Proposal]:
    """Rails by their tags."""
    new = rails_of(tags)
    if new is None:
        return
    middle = np.mean([tag.place for tag in tags], axis=0)
    mm, there = max(tag.plus_minus_mm for tag in tags), design.survey.rails
    off = max(abs(there.left_y_mm - new.left_y_mm), abs(there.right_y_mm - new.right_y_mm)) if there else 0.0
    yield Proposal(
        "rails",
        f"rails {new.left_y_mm:.0f} and {new.right_y_mm:.0f} mm off the middle",
        middle,
        mm,
        lambda design: surveyed(design, rails=new),
        _rail_lines(new),
        beside=beside(off, mm) if there else None,
    )


def _rail_lines(rails: Rails) -> Vector:
    ends = [(rails.front_at_mm, rails.front_height_mm), (rails.rear_at_mm, rails.rear_height_mm)]
    way = [(x, rails.left_y_mm, z) for x, z in ends] + [(x, rails.right_y_mm, z) for x, z in reversed(ends)]
    return np.array(way, dtype=float)


def low_line(tags: Sequence[FoundTag], design: Design) -> Iterator[Proposal]:
    """The low line through the lowest points; where they are not one line, level at the lowest of them."""
    if not tags:
        return
    places = np.array([tag.place for tag in tags])
    lowest = float(places[:, 2].min())
    level = LowLine(d=Length(round(lowest, 1)))
    try:
        line, how = (line_through(places.tolist()), "through them") if len(tags) > 1 else (level, "level")
    except InputError:
        line, how = level, "level, at the lowest"
    there = design.survey.low_line
    mm = max(tag.plus_minus_mm for tag in tags)
    yield Proposal(
        "low-line",
        f"low line by {len(tags)} low point{'s' if len(tags) > 1 else ''}, {how}",
        places.mean(axis=0),
        mm,
        lambda design: surveyed(design, low_line=line),
        np.concatenate([sign(place) for place in places]),
        beside=beside(abs(float(there.d) - float(line.d)), mm) if there else None,
        usual=there is None,
    )


def stance(rail_tags: Sequence[FoundTag], floor: Sequence[FoundTag]) -> Iterator[Proposal]:
    """How the vehicle stands on the lift: both heights of its rails over the floor's tags, and which side is higher."""
    its = rails_of(rail_tags)
    if its is None or len(floor) < 3 or its.front_height_mm is None or its.rear_height_mm is None:
        return
    places = np.array([tag.place for tag in floor])
    if places[:, 2].mean() > -LIFTED_MM:
        return  # it stands on its wheels there
    rows = np.column_stack([places[:, :2], np.ones(len(places))])
    (by_x, by_y, at_0), _, rank, _ = np.linalg.lstsq(rows, places[:, 2], rcond=1e-6)
    if rank < 3:
        return
    front, rear = (
        float(z) - (at_0 + by_x * float(x))
        for x, z in ((its.front_at_mm, its.front_height_mm), (its.rear_at_mm, its.rear_height_mm))
    )
    new = Stance(
        on="lift",
        suspension="droop",
        rail_roll_deg=round(float(-np.degrees(np.arctan(by_y))), 2),
        front_rail_now_mm=Length(round(front, 1)),
        rear_rail_now_mm=Length(round(rear, 1)),
    )
    mm = max(tag.plus_minus_mm for tag in (*rail_tags, *floor))
    yield Proposal(
        "stance",
        f"on the lift, rails {front:.0f} and {rear:.0f} mm over the floor",
        places.mean(axis=0),
        mm,
        lambda design: surveyed(design, stance=new),
        np.vstack([places, places[:1]]),
    )
