"""Where no way goes: what the nearest miss lacks, and what would open a way, each tried by solving it."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from ..closing import Answer, Change
from ..cutting import USUAL_OD_MM
from ..geometry import shifted_row, straight_row, swept_gap
from ..laying import (
    ENGINE,
    LaidPiece,
    LaidRun,
    Obstacle,
    Position,
    behind,
    engine_positions,
    goes_as,
    spaced,
    system_of,
    tube_segments,
)
from ..pathfinding import find, pieces_of, solid_boxes
from ..records import HalfSpace, MarkPoint, Straight
from ..review import distances, point_gaps, worst_over
from ..space import Vector, unit
from ..units import Length
from .proposals import Proposal
from .question import RouteQuestion
from .searching import goes
from .wishes import VIA_MM, Wish, parts_of, vias_of

MOVES_MM = (10.0, 20.0, 35.0, 60.0)
OVAL_SHARE = 0.7  # an oval this high of its round is still made in a shop's press; common practice, no source


@dataclass(frozen=True)
class Trial:
    """Something to try: what is tried, what to say when it opens a way, and whether it does."""

    tried: str
    words: str
    opens: Callable[[], bool]


def nearest_miss(asked: RouteQuestion, miss: Proposal) -> tuple[str, tuple[Change, ...]]:
    """Return what is missing where; a tighter radius that was solved, where the job has only wider ones."""
    lacks = [f"{short:.{1 if short < 10 else 0}f} mm at the {name}" for name, short in miss.lacks[:4]]
    where = " and ".join(lacks) if lacks else "straight between its bends"
    said = f"No way was found that keeps every gap. The nearest lacks {where}."
    tight = float(asked.tube.od_mm)
    ways = replace(asked.ways, clr_mm=(*asked.ways.clr_mm, tight))
    if tight < min(asked.ways.clr_mm) - 0.5 and goes(replace(asked, ways=ways)):
        return said, (Change(f"use bends of {tight:.1f} mm radius as well", ways),)
    return said, ()


def unmet(asked: RouteQuestion) -> str:
    """Why nothing meets both ends: a mark that the pipe cannot come to, or something wished without which it goes."""
    for mark in (m for m in asked.design.survey.marks if m.id in asked.wish.through):
        if said := _out_of_reach(asked, mark):
            return said
    for trial in _unwished(asked):
        if trial.opens():
            return f"nothing was found that meets both ends. {trial.words}"
    return "nothing was found that meets both ends: move one, or allow other radii"


def _out_of_reach(asked: RouteQuestion, mark: MarkPoint) -> str:
    """Return the thing that keeps pipe further from a mark than going through it allows; empty for nothing."""
    things, radius = asked.things, float(asked.tube.od_mm) / 2
    if not things.obstacles:
        return ""
    gaps = point_gaps(np.array([mark.point], dtype=float), things)[0]
    worst = int((gaps - things.needed).argmin())
    needed, name = radius + things.needed[worst], things.obstacles[worst].thing.name
    if gaps[worst] + VIA_MM >= needed:
        return ""
    return (
        f"the {mark.name} is {max(gaps[worst], 0.0):.0f} mm from the {name}: the middle of a pipe through it needs "
        f"{needed:.0f} mm there, half its OD and its gap"
    )


def what_opens(asked: RouteQuestion, miss: Proposal) -> Iterator[tuple[float, Trial]]:
    """Return the changes that may open a way, with the share of all tries that is done before each."""
    trials = [
        *once_measured(asked),
        *_behind_a_flex(asked),
        *_unwished(asked),
        *_smaller(asked),
        *_ovals(asked),
        *_moved(asked, miss),
        *_off(asked, miss),
    ]
    for i, trial in enumerate(trials):
        yield 0.2 + 0.8 * i / len(trials), trial


def once_measured(asked: RouteQuestion) -> Iterator[Trial]:
    """All known as a tape knows it: a layout to start from leaves room for its own doubt everywhere."""
    taped = asked.design.settings.rules.taped_mm
    most = max((o.plus_minus_mm for o in asked.around), default=0.0)
    if most > taped:
        known = tuple(_taped(o, taped) for o in asked.around)
        words = f"Measured to ± {taped:.0f} mm, what is now known only to ± {most:.0f} mm would leave a way."
        yield Trial("all of it measured", words, partial(goes, replace(asked, around=known)))


def _taped(obstacle: Obstacle, taped_mm: Length) -> Obstacle:
    if obstacle.plus_minus_mm <= taped_mm:
        return obstacle
    return replace(obstacle, thing=obstacle.thing.replace(plus_minus_mm=taped_mm))


def _behind_a_flex(asked: RouteQuestion) -> Iterator[Trial]:
    """The design with pipe that rocks with the engine for want of a flex, as if it had one ahead."""
    rocks = len(engine_positions(asked.design)) > 1
    if goes_as(asked.mover) != ENGINE or not rocks:
        return

    def opens() -> bool:
        system = system_of(asked.design)
        mover, positions = behind(asked.design, system, asked.laid, asked.first, asked.tube, hung=True)
        return goes(replace(asked, mover=mover, positions=positions))

    yield Trial(
        "behind a flex",
        "Behind a flex, where it does not rock with the engine, there is a way: put one ahead "
        "of it; or, where the vehicle's own pipe has one, say of the part it starts from that it is hung "
        "behind that.",
        opens,
    )


def _unwished(asked: RouteQuestion) -> Iterator[Trial]:
    """Return the wishes for where it goes, relaxed: come through in the other order, then left off one at a time."""
    wish = asked.wish
    if len(wish.through) > 1:
        turned = replace(wish, through=wish.through[::-1])
        yield Trial("the other order", "The other way round there is a way.", partial(goes, _wishing(asked, turned)))
    for words, less in parts_of(wish, asked.design.survey):
        yield Trial(f"without “{words}”", f"Without “{words}” there is a way.", partial(goes, _wishing(asked, less)))


def _wishing(asked: RouteQuestion, wish: Wish) -> RouteQuestion:
    return replace(asked, wish=wish, vias=vias_of(asked.design, wish.through, float(asked.tube.od_mm)))


def _smaller(asked: RouteQuestion) -> Iterator[Trial]:
    for od in [od for od in USUAL_OD_MM if od < asked.tube.od_mm - 1.0][:-3:-1]:
        tube = asked.tube.replace(od_mm=Length(od))
        yield Trial(
            f"a tube of {od:g} mm", f"A tube of {od:g} mm would go through.", partial(goes, replace(asked, tube=tube))
        )


def _ovals(asked: RouteQuestion) -> Iterator[Trial]:
    """A way for a round as thin as the oval; where the whole round is too near on a straight, the oval must go."""
    od = float(asked.tube.od_mm)
    low, wide = od * OVAL_SHARE, oval_width(od, od * OVAL_SHARE)
    yield Trial(
        f"an oval {wide:.0f} by {low:.0f} mm",
        f"An oval {wide:.0f} by {low:.0f} mm, of the same girth, would go through on the straight.",
        lambda: oval_goes(asked, low, wide),
    )


def oval_width(od_mm: float, low_mm: float) -> float:
    """Width of a flat-sided oval `low_mm` high with the girth of a round [mm]: 2 (w - h) + pi h = pi D.

    >>> round(oval_width(63.5, 45.0), 2)
    74.06
    """
    return low_mm + np.pi * (od_mm - low_mm) / 2


def oval_goes(asked: RouteQuestion, low: float, wide: float) -> bool:
    """Whether there is a way with the full round but in straights made of level ovals, `wide` by `low` [mm]."""
    thin = replace(asked, tube=asked.tube.replace(od_mm=Length(low)))
    task = thin.task()
    return any(_oval_fits(asked, pieces_of(task, way), low, wide) for way in find(task)[:3] if way.spare_mm >= 0)


def _oval_fits(asked: RouteQuestion, answer: Answer, low: float, wide: float) -> bool:
    needs = list(zip(asked.things.obstacles, asked.things.needed, strict=True))
    for piece in asked.checked(answer, answer.pieces()).laid:
        rows = tube_segments(LaidRun(asked.run, asked.start, (piece,), None)).rows
        if worst_over(rows, asked.mover, asked.around, asked.positions).margin_mm >= 0.0:
            continue  # the round itself goes here
        if not isinstance(piece.piece, Straight) or any(
            _flat_gap(piece, position, o, low, wide) < needed for position in asked.positions for o, needed in needs
        ):
            return False
    return True


def _flat_gap(piece: LaidPiece, position: Position, obstacle: Obstacle, low: float, wide: float) -> float:
    """Gap of a straight made a level oval [mm], in one of its positions; none is vouched for to a scan."""
    if obstacle.mesh is not None:
        return -1.0
    flow = piece.inlet.flow
    across = unit(np.cross((0.0, 0.0, 1.0), flow)) if abs(flow[2]) < 0.99 else piece.inlet.across
    row = position.rows(straight_row(piece.inlet.point, flow, piece.length_mm, low / 2)[None])[0]
    half = position.scale * (wide - low) / 2
    args = half, 0.0, position.turn @ across, position.turn @ np.cross(flow, across)
    return min((float(swept_gap(row, *args, solid, 1e6)) for solid in obstacle.solids), default=1e6)


def _blocking(asked: RouteQuestion, miss: Proposal, most: int) -> Iterator[tuple[str, list[Obstacle]]]:
    """The things in the way that somebody could move: no scan, no plane, nothing that travels: an axle stays."""
    for name, _ in miss.lacks[:most]:
        some = [o for o in asked.around if o.thing.name == name]
        if all(
            o.mesh is None and not isinstance(o.thing.shape, HalfSpace) and o.thing.moves_with == "body" for o in some
        ):
            yield name, some


def _moved(asked: RouteQuestion, miss: Proposal) -> Iterator[Trial]:
    """Things in the way moved off by a little more each time, up, down or sideways from the pipe."""
    for name, some in _blocking(asked, miss, 2):
        way, said = _away(some[0], miss)
        for by in MOVES_MM:
            moved = tuple(_shifted(o, by * way) if o in some else o for o in asked.around)
            yield Trial(
                f"the {name} {by:.0f} mm {said}",
                f"With the {name} moved {by:.0f} mm {said}, there is a way.",
                partial(goes, replace(asked, around=moved)),
            )


def _off(asked: RouteQuestion, miss: Proposal) -> Iterator[Trial]:
    for name, some in _blocking(asked, miss, 3):
        stay = np.array([o not in some for o in asked.around])
        gone = {o.thing.id for o in some}
        avoid = tuple(a for a in asked.wish.avoid if a.partition(":")[2] not in gone)
        without = replace(
            asked,
            around=tuple(itertools.compress(asked.around, stay)),
            more=asked.more[stay],
            wish=replace(asked.wish, avoid=avoid),
        )
        yield Trial(f"the {name} off", f"With the {name} moved or off, there is a way.", partial(goes, without))


def _away(obstacle: Obstacle, miss: Proposal) -> tuple[Vector, str]:
    """Which way to move a thing out of the way of a pipe: up, down, left or right, and that in words."""
    points = np.concatenate([spaced(p, 15.0) for p in miss.laid])
    near = points[int(distances(points, obstacle).argmin())]
    box = solid_boxes(obstacle.solids)
    off = (box[:, 0].min(axis=0) + box[:, 1].max(axis=0)) / 2 - near
    k = 1 if abs(off[1]) > abs(off[2]) else 2
    way = np.zeros(3)
    way[k] = 1.0 if off[k] >= 0 else -1.0
    return way, {(1, 1.0): "to the right", (1, -1.0): "to the left", (2, 1.0): "up", (2, -1.0): "down"}[k, way[k]]


def _shifted(obstacle: Obstacle, by: Vector) -> Obstacle:
    return replace(obstacle, solids=np.array([shifted_row(row, by) for row in obstacle.solids]))
