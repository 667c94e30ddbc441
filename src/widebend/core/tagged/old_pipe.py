"""An old pipe by a chain of cuffs and flange discs of one name: its angles, lengths and rolls, and a run that is it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..errors import InputError
from ..hardware import start_flange
from ..photos import CUFF_MM, FoundTag, is_cuff, meeting
from ..records import Design, Part, Placed, Run, Tube
from ..records.hardware import Item
from ..space import Vector, unit
from ..survey import OldBend, copy_pipe
from ..units import Length
from .proposal import Names, Proposal, named, point
from .shapes import SURE_ROUND_MM, in_line, outside_mm

SAME_DEG = 5.0  # tags whose axes lie this near to the line between them are on one straight
WALL_MM = Length(1.5)  # of an old pipe nobody measured: common practice, no source
PARALLEL = 1e-9


@dataclass(frozen=True)
class Chain:
    """An old pipe from one end to the other: its corners, ends with them (n, 3) [mm], how far the axes miss each other
    at them at most [mm], and how wide it is outside [mm].
    """

    corners: Vector
    miss_mm: float
    od_mm: float


def chain_of(tags: Sequence[FoundTag]) -> Chain:
    """Tags along a pipe, from the front backward, as its corners. Raises InputError where two axes do not meet."""
    order = sorted(tags, key=lambda tag: float(tag.middle[0]))
    straights: list[list[FoundTag]] = []
    for tag in order:
        if straights and _one_straight(straights[-1][-1], tag):
            straights[-1].append(tag)
        else:
            straights.append([tag])
    lines = [(np.mean([t.middle for t in one], axis=0), _along(one)) for one in straights]
    corners, misses = [_end(order[0], -1.0)], [0.0]
    for (a, way_a), (b, way_b) in pairwise(lines):
        place, off = meeting(np.array([a, b]), np.array([way_a, way_b]))
        corners.append(place)
        misses.append(off)
    corners.append(_end(order[-1], 1.0))
    if not any(tag.diameter_mm for tag in order):
        raise InputError("no cuff says how wide it is")
    return Chain(np.array(corners), max(misses), outside_mm(order))


def _one_straight(a: FoundTag, b: FoundTag) -> bool:
    way = unit(b.middle - a.middle)
    off = [np.degrees(np.arccos(np.clip(abs(tag.turn[:, 2] @ way), 0.0, 1.0))) for tag in (a, b)]
    return bool(max(off) < SAME_DEG)


def _along(tags: Sequence[FoundTag]) -> Vector:
    """The axis of tags on one straight."""
    way = unit(tags[-1].middle - tags[0].middle) if len(tags) > 1 else tags[0].turn[:, 2]
    return np.asarray(way if way[0] >= 0 else -way)


def _end(tag: FoundTag, way: float) -> Vector:
    """Where the pipe ends at its first or last tag: at a disc's face, behind a cuff's edge."""
    if not is_cuff(tag.number):
        return tag.middle
    along = tag.turn[:, 2] * (1.0 if tag.turn[0, 2] >= 0 else -1.0)
    return np.asarray(tag.middle + way * CUFF_MM * along)


def bends_of(chain: Chain, clr_mm: float) -> tuple[float, list[OldBend], Vector]:
    """The first straight [mm], each bend with its roll and the straight behind it, and which way the first bend goes
    (3,). Raises InputError where a straight is too short for that radius.
    """
    steps = np.diff(chain.corners, axis=0)
    longs = np.linalg.norm(steps, axis=1)
    ways = steps / longs[:, None]
    angles = [float(np.degrees(np.arccos(np.clip(a @ b, -1.0, 1.0)))) for a, b in pairwise(ways)]
    tangents = [0.0, *(clr_mm * np.tan(np.radians(angle) / 2) for angle in angles), 0.0]
    straights = [float(long - a - b) for long, a, b in zip(longs, tangents, tangents[1:], strict=False)]
    if min(straights) < 0:
        raise InputError(f"its corners lie nearer together than bends of {clr_mm:.0f} mm take")
    rolls, before, first = [], None, np.zeros(3)
    for way, after in pairwise(ways):
        aside = unit(after - (after @ way) * way)
        if before is None:
            first, roll = aside, 0.0
        else:
            # clockwise seen against the flow, from where the bend before would go on to
            roll = float(np.degrees(np.arctan2(np.cross(before, way) @ aside, before @ aside)))
        rolls.append(roll)
        before = unit(aside - (aside @ after) * after)
    bends = [OldBend(angle, roll, then) for angle, roll, then in zip(angles, rolls, straights[1:], strict=True)]
    return straights[0], bends, first


def old_pipes(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """Each chain as a run of the design, to be taken by who wants it copied."""
    for name, all_of_it in named(tags, names).items():
        mine = [tag for tag in all_of_it if tag.diameter_mm is None or tag.diameter_mm[1] < SURE_ROUND_MM]
        cuffs = [tag for tag in mine if is_cuff(tag.number)]
        if len(mine) < 2 or not cuffs or (len(cuffs) == len(mine) and in_line(cuffs)):
            continue
        clr = float(design.settings.clr_mm[0]) if design.settings.clr_mm else 0.0
        try:
            chain = chain_of(mine)
            first, bends, aside = bends_of(chain, clr or 1.5 * chain.od_mm)
        except InputError:
            continue
        turns = ", ".join(
            f"{bend.angle_deg:.1f}°" + (f" rolled {bend.roll_deg:.0f}°" if k else "") for k, bend in enumerate(bends)
        )
        mm = max([tag.plus_minus_mm for tag in mine] + [chain.miss_mm])
        number = mine[0].number

        def keep(
            design: Design,
            chain: Chain = chain,
            first: float = first,
            bends: list[OldBend] = bends,
            aside: Vector = aside,
            number: int = number,
            clr: float = clr or 1.5 * chain.od_mm,
            name: str = name,
        ) -> Design:
            return with_run(design, f"old-{number}", name, chain, first, bends, aside, clr)

        yield Proposal(
            f"old-{number}",
            f"old pipe {name} as a run: {turns or 'straight'}",
            chain.corners.mean(axis=0),
            mm,
            keep,
            chain.corners,
            chain.od_mm,
            usual=False,
        )


def with_run(
    design: Design,
    run_id: str,
    name: str,
    chain: Chain,
    first_mm: float,
    bends: Sequence[OldBend],
    aside: Vector,
    clr_mm: float,
) -> Design:
    """The design with the old pipe as a run from a flange where it begins."""
    od = Length(round(chain.od_mm, 1))
    tube = Tube(od_mm=od, wall_mm=WALL_MM)
    copied = copy_pipe(first_mm, bends, clr_mm, tube)
    way = unit(chain.corners[1] - chain.corners[0])
    up = aside if np.linalg.norm(aside) > PARALLEL else np.array([0.0, 0.0, 1.0])
    item: Item = start_flange(float(od), f"start of {name}"[:80])
    placed = Placed(point=point(chain.corners[0]), axis=tuple(map(float, way)), reference=tuple(map(float, up)))
    start = Part(id=f"{run_id}-start", name=item.name, item=item, placed=placed)
    run = Run(id=run_id, name=name[:80], start=f"{start.id}.out", tube=tube, pieces=copied.pieces)
    parts = (*(p for p in design.parts if p.id != start.id), start)
    return design.replace(parts=parts, runs=(*(r for r in design.runs if r.id != run_id), run))
