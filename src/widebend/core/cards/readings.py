"""The few readings that tell most of whether a card fits the next vehicle: where it starts, and of the nearest things
the coordinate across the gap.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..records import Design, Part
from ..review import Review, distances
from ..space import Vector
from ..survey import moved
from ..units import Length

Axis = Literal["back", "right", "up"]
AXES: tuple[Axis, ...] = ("back", "right", "up")
MOST_READINGS = 8
START_PLAY_MM = 5.0  # pipe gives so much in a joint before it is re-cut: common practice, no source
STEP_MM = 1.0


@dataclass(frozen=True)
class Reading:
    """A coordinate of a thing's face (or of where a run starts) as the card has it [mm]. Off by more than `play_mm` in
    the `sense` (+1, -1; 0 either way) the card does not fit there.
    """

    key: str
    thing: str
    part: str
    words: str
    axis: Axis
    value_mm: float
    play_mm: float
    sense: int


def chosen_readings(design: Design, found: Review) -> list[Reading]:
    """Five to eight readings, what would tell most first: the start across and up, then the tightest things."""
    starts = list(_starts(design))
    return [*starts, *list(_things(found))[: MOST_READINGS - len(starts)]]


def _starts(design: Design) -> Iterator[Reading]:
    """Where the first run starts: back and up."""
    start = next((run.start for run in design.runs if isinstance(run.start, str)), None)
    part = design.part(start.partition(".")[0]) if start else None
    if part is None or part.placed is None:
        return
    name = part.name or part.item.kind
    for axis in ("back", "up"):
        value = float(part.placed.point[AXES.index(axis)])  # type: ignore[arg-type]
        yield Reading(f"start-{axis}", "", part.id, f"{name}, its face", axis, value, START_PLAY_MM, 0)  # type: ignore[arg-type]


def _things(found: Review) -> Iterator[Reading]:
    """One reading a thing, the least margin first: along the axis that points most from the pipe to it."""
    seen: set[str] = set()
    for gap in sorted(found.gaps, key=lambda g: g.margin_mm):
        thing = gap.obstacle.thing
        if thing.id in seen or gap.obstacle.is_low_line:
            continue
        seen.add(thing.id)
        way = _toward(gap.at, gap.obstacle)
        if way is None:
            continue
        direction, distance = way
        k = int(np.argmax(np.abs(direction)))
        face = gap.at + direction * distance
        play = max(0.0, gap.margin_mm) / max(0.3, abs(float(direction[k])))
        yield Reading(
            f"thing-{thing.id}", thing.id, "", thing.name, AXES[k], float(face[k]), play, -1 if direction[k] > 0 else 1
        )


def _toward(at: Vector, obstacle: object) -> tuple[Vector, float] | None:
    """The direction from a place to the nearest of a thing (3,), and how far [mm]; None where that is not known."""
    steps = np.vstack([np.zeros(3), STEP_MM * np.eye(3), -STEP_MM * np.eye(3)])
    d = distances(at + steps, obstacle)  # type: ignore[arg-type]
    slope = (d[1:4] - d[4:7]) / (2 * STEP_MM)
    long = float(np.linalg.norm(slope))
    return (-slope / long, float(d[0])) if long > 1e-6 and np.isfinite(d[0]) else None


def misfits(readings: Sequence[Reading], taken: Mapping[str, float]) -> list[tuple[Reading, float]]:
    """Readings that are off by more than their play, with how far; what was not taken is as the card has it."""
    found = []
    for one in readings:
        off = taken.get(one.key, one.value_mm) - one.value_mm
        wrong = abs(off) > one.play_mm if one.sense == 0 else off * one.sense > one.play_mm
        if wrong:
            found.append((one, off))
    return found


def fitted_to(design: Design, readings: Sequence[Reading], taken: Mapping[str, float]) -> Design:
    """The card's design on the next vehicle: every thing and start moved by what its reading is off."""
    things, parts = {t.id: t for t in design.survey.things}, {p.id: p for p in design.parts}
    for one in readings:
        off = taken.get(one.key, one.value_mm) - one.value_mm
        if abs(off) < 1e-9:
            continue
        by = np.zeros(3)
        by[AXES.index(one.axis)] = off
        if one.thing in things:
            thing = things[one.thing]
            things[one.thing] = thing.replace(shape=moved(thing.shape, by))
        elif one.part in parts:
            parts[one.part] = _moved_part(parts[one.part], by)
    survey = design.survey.replace(things=tuple(things.values()))
    return design.replace(survey=survey, parts=tuple(parts.values())).validated()


def _moved_part(part: Part, by: Vector) -> Part:
    if part.placed is None:
        return part
    x, y, z = (Length(round(float(a + b), 3)) for a, b in zip(part.placed.point, by, strict=True))
    return part.replace(placed=part.placed.replace(point=(x, y, z)))
