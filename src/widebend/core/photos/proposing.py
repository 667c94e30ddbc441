"""What placed tags become in a survey: hang points, marks, rails, boxes, pipes; each proposed by itself, with its
doubt.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from ..records import Box, Cylinder, HangPoint, MarkPoint, OldPart, Rails, Survey, Thing
from ..records.base import Point
from ..space import Vector
from ..units import Length
from .solving import FoundTag, Solved
from .spots import Spot
from .tags import CUFF_MM, is_left, job_of

T = TypeVar("T", HangPoint, MarkPoint, OldPart, Thing)
HOW = "by photo"
LEAST_BOX_MM = 8.0  # corners nearer than this along an axis say nothing of the box's size there
BOX_MM = 100.0  # what a box is given where its corners say nothing
RAIL_APART_MM = 100.0
SURE_ROUND_MM = 3.0  # a pipe whose diameter is less sure was seen from one side only, and is not proposed


@dataclass(frozen=True)
class Proposal:
    """Something for the survey: its key, what it is in words, where its place is (3,) [mm], how far that may be off
    [mm], and the survey with it in.
    """

    key: str
    words: str
    at: Vector
    plus_minus_mm: float
    put_in: Callable[[Survey], Survey]


def proposals(solved: Solved, names: Mapping[int, str]) -> list[Proposal]:
    """Everything that the placed tags can become; tags of one name belong to one thing. None while nothing says
    where the whole lies.
    """
    if solved.lacking:
        return []
    by_job: dict[str, list[FoundTag]] = {}
    for tag in solved.tags:
        job = job_of(tag.number)
        if job:
            by_job.setdefault(job.job, []).append(tag)
    found = [*_hang_points(by_job.get("bolt", []), names), *_old_parts(by_job.get("flange disc", []), names)]
    found += [*_boxes(by_job.get("corner", []), names), *_pipes(by_job.get("cuff", []), names)]
    found += _rails(by_job.get("rail", []))
    for marked in ("corner", "edge", "face", "low point"):
        found += _marks(by_job.get(marked, []), names)
    return found


def called(number: int, names: Mapping[int, str]) -> str:
    """What a tag is called: as the person says, else by its job and number."""
    job = job_of(number)
    return names.get(number) or f"{job.job if job else 'tag'} {number}"


def _point(at: Vector) -> Point:
    x, y, z = (Length(round(float(v), 1)) for v in at)
    return x, y, z


def _doubt(mm: float) -> Length:
    return Length(round(max(mm, 0.1), 1))


def _hang_points(tags: Sequence[FoundTag], names: Mapping[int, str]) -> Iterator[Proposal]:
    for tag in tags:
        point = HangPoint(
            id=f"tag-{tag.number}", name=called(tag.number, names), point=_point(tag.place), kind="spare bolt hole",
            plus_minus_mm=_doubt(tag.plus_minus_mm), how_measured=HOW,
        )  # fmt: skip
        yield Proposal(point.id, f"hang point {point.name}", tag.place, tag.plus_minus_mm,
                       lambda survey, new=point: survey.model_copy(update={  # type: ignore[misc]
                           "hang_points": _with(survey.hang_points, new)}))  # fmt: skip


def _old_parts(tags: Sequence[FoundTag], names: Mapping[int, str]) -> Iterator[Proposal]:
    for tag in tags:
        part = OldPart(id=f"tag-{tag.number}", name=called(tag.number, names), kind="flange", point=_point(tag.place),
                       plus_minus_mm=_doubt(tag.plus_minus_mm), how_measured=HOW)  # fmt: skip
        yield Proposal(part.id, f"flange {part.name}", tag.place, tag.plus_minus_mm,
                       lambda survey, new=part: survey.model_copy(update={  # type: ignore[misc]
                           "old_parts": _with(survey.old_parts, new)}))  # fmt: skip


def _marks(tags: Sequence[FoundTag], names: Mapping[int, str]) -> Iterator[Proposal]:
    for tag in tags:
        mark = MarkPoint(id=f"tag-{tag.number}", name=called(tag.number, names), point=_point(tag.place),
                         plus_minus_mm=_doubt(tag.plus_minus_mm), how_measured=HOW)  # fmt: skip
        yield Proposal(f"mark-{tag.number}", f"mark {mark.name}", tag.place, tag.plus_minus_mm,
                       lambda survey, new=mark: survey.model_copy(update={  # type: ignore[misc]
                           "marks": _with(survey.marks, new)}))  # fmt: skip


def spot_proposal(name: str, there: Spot) -> Proposal:
    """A spot that was pointed at as a mark."""
    key = "spot-" + re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:30]
    mark = MarkPoint(id=key, name=name, point=_point(there.place), plus_minus_mm=_doubt(there.plus_minus_mm),
                     how_measured="pointed at in photos")  # fmt: skip
    return Proposal(key, f"mark {name}", there.place, there.plus_minus_mm,
                    lambda survey: survey.model_copy(update={"marks": _with(survey.marks, mark)}))  # fmt: skip


def _named(tags: Sequence[FoundTag], names: Mapping[int, str]) -> dict[str, list[FoundTag]]:
    """Tags that the person gave one name."""
    groups: dict[str, list[FoundTag]] = {}
    for tag in tags:
        if names.get(tag.number):
            groups.setdefault(names[tag.number], []).append(tag)
    return groups


def _boxes(tags: Sequence[FoundTag], names: Mapping[int, str]) -> Iterator[Proposal]:
    """Two or more corners of one name span a box along the vehicle's axes; upward it is given a usual height where its
    corners say none.
    """
    for name, corners in _named(tags, names).items():
        places = np.array([tag.place for tag in corners])
        low, high = places.min(axis=0), places.max(axis=0)
        if len(corners) < 2 or (high - low < LEAST_BOX_MM)[:2].any():
            continue
        guessed = high[2] - low[2] < LEAST_BOX_MM
        if guessed:
            high[2] = low[2] + BOX_MM
        doubt = max(tag.plus_minus_mm for tag in corners)
        shape = Box(center=_point((low + high) / 2), size=_point(high - low))
        yield _thing(f"box-{corners[0].number}", name, shape, (low + high) / 2, doubt,
                     " (its height is a guess)" if guessed else "")  # fmt: skip


def _pipes(tags: Sequence[FoundTag], names: Mapping[int, str]) -> Iterator[Proposal]:
    """Two cuffs of one name are one straight pipe or shaft from the one to the other; one by itself a short one.
    What was seen too little to say how thick it is becomes nothing.
    """
    tags = [tag for tag in tags if tag.diameter_mm and tag.diameter_mm[1] < SURE_ROUND_MM]
    groups = _named(tags, names)
    alone = [tag for tag in tags if len(groups.get(names.get(tag.number, ""), [])) != 2]
    pairs = [(name, cuffs) for name, cuffs in groups.items() if len(cuffs) == 2]
    for name, cuffs in [*pairs, *((called(tag.number, names), [tag]) for tag in alone)]:
        diameter = float(np.mean([tag.diameter_mm[0] for tag in cuffs if tag.diameter_mm]))
        along = cuffs[0].turn[:, 2]
        ends = [tag.middle for tag in cuffs] if len(cuffs) == 2 else [
            cuffs[0].middle - 2 * CUFF_MM * along, cuffs[0].middle + 2 * CUFF_MM * along]  # fmt: skip
        shape = Cylinder(a=_point(ends[0]), b=_point(ends[1]), radius=Length(round(diameter / 2, 2)))
        yield _thing(f"cuff-{cuffs[0].number}", name, shape, (ends[0] + ends[1]) / 2,
                     max(tag.plus_minus_mm for tag in cuffs), f", {diameter:.1f} mm outside")  # fmt: skip


def _thing(key: str, name: str, shape: Box | Cylinder, at: Vector, doubt: float, more: str) -> Proposal:
    thing = Thing(id=key, name=name, shape=shape, plus_minus_mm=_doubt(doubt), how_measured=HOW)
    return Proposal(key, f"{shape.type} {name}{more}", at, doubt,
                    lambda survey: survey.model_copy(update={"things": _with(survey.things, thing)}))  # fmt: skip


def _rails(tags: Sequence[FoundTag]) -> Iterator[Proposal]:
    left, right = ([tag for tag in tags if is_left(tag.number) == side] for side in (True, False))
    if not left or not right:
        return
    ys = [float(np.mean([tag.place[1] for tag in side])) for side in (left, right)]
    xs = sorted(float(tag.place[0]) for tag in tags)
    if ys[0] >= ys[1] or xs[-1] - xs[0] < RAIL_APART_MM:
        return
    front, rear = (float(np.mean([t.place[2] for t in tags if abs(float(t.place[0]) - x) < RAIL_APART_MM]))
                   for x in (xs[0], xs[-1]))  # fmt: skip
    rails = Rails(
        left_y_mm=Length(round(ys[0], 1)), right_y_mm=Length(round(ys[1], 1)), front_at_mm=Length(round(xs[0])),
        rear_at_mm=Length(round(xs[-1])), front_height_mm=Length(round(front, 1)),
        rear_height_mm=Length(round(rear, 1)),
    )  # fmt: skip
    middle = np.mean([tag.place for tag in tags], axis=0)
    yield Proposal("rails", f"rails {ys[0]:.0f} and {ys[1]:.0f} mm off the middle", middle,
                   max(tag.plus_minus_mm for tag in tags),
                   lambda survey: survey.model_copy(update={"rails": rails}))  # fmt: skip


def _with(there: tuple[T, ...], new: T) -> tuple[T, ...]:
    """With one put in, in place of what a photo put in under the same id."""
    return tuple([one for one in there if one.id != new.id] + [new])
