"""Tags of things with a shape: boxes by their corners, pipes and shafts by cuffs, windows by the edges round them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from ..errors import InputError
from ..geometry import rotation_from_rpy
from ..photos import CUFF_MM, FoundTag
from ..records import Box, Capsule, Cylinder, Design, Thing, Window
from ..space import Vector, unit
from ..survey import bounds
from ..units import Length
from .proposal import HOW, Beside, Names, Proposal, beside, called, doubt, named, point, put, surveyed, under_name

LEAST_BOX_MM = 8.0  # corners nearer than this along an axis say nothing of the box's size there
BOX_MM = 100.0  # what a box is given where its corners say nothing
LEVEL_DEG = 1.5  # a box that is turned less than this stands square
SURE_ROUND_MM = 3.0  # a pipe whose diameter is less sure was seen from one side only, and is not proposed
STRAIGHT_DEG = 3.0  # cuffs whose axes differ more sit on different straights
ROUND = 4  # places round a pipe that its drawing goes through
EDGES, WIDEST_MM, THICK_DEG = 3, 2000.0, 30.0  # edges that close a window, how wide one can be, how flat they lie
Shape = Box | Cylinder | Capsule


def boxes(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """Two or more corners of one name span a box that stands as their papers' edges lie; upward it has the height that
    is known where its corners say none, else a usual one.
    """
    for name, corners in named(tags, names).items():
        turn = _standing(corners)
        places = np.array([tag.place for tag in corners]) @ turn
        low, high = places.min(axis=0), places.max(axis=0)
        if len(corners) < 2 or (high - low < LEAST_BOX_MM)[:2].any():
            continue
        key, words = f"box-{corners[0].number}", ""
        there = under_name(design.survey.things, name, key)
        if high[2] - low[2] < LEAST_BOX_MM:
            around = bounds(there.shape) if there else None
            words = " (its height as it was)" if around else " (its height is a guess)"
            high[2] = around[1][2] if around and around[1][2] > low[2] + LEAST_BOX_MM else low[2] + BOX_MM
        yaw = float(np.degrees(np.arctan2(turn[1, 0], turn[0, 0])))
        shape = Box(center=point(turn @ (low + high) / 2), size=point(high - low), rpy_deg=(0.0, 0.0, round(yaw, 2)))
        yield _thing(key, name, shape, corners, words, there)


def _standing(corners: Sequence[FoundTag]) -> Vector:
    """How a box's sides lie (3, 3): about the upright, as the papers' edges do; square where they nearly are."""
    ways = np.array([tag.turn[:2, k] for tag in corners for k in range(3) if abs(tag.turn[2, k]) < 0.5])
    # four sides lie a quarter turn apart: four times the angle is the same for all
    quarter = np.exp(4j * np.arctan2(ways[:, 1], ways[:, 0])).sum()
    yaw = float(np.angle(quarter)) / 4
    return rotation_from_rpy((0.0, 0.0, float(np.degrees(yaw)) if abs(np.degrees(yaw)) > LEVEL_DEG else 0.0))


def pipes(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """Cuffs of one name and one axis are one straight pipe or shaft from the first to the last; one by itself a short
    one. What was seen too little to say how thick it is becomes nothing.
    """
    tags = [tag for tag in tags if tag.diameter_mm and tag.diameter_mm[1] < SURE_ROUND_MM]
    groups = named(tags, names)
    alone = [(called(tag.number, names), [tag]) for tag in tags if not names.get(tag.number)]
    for name, cuffs in [*groups.items(), *alone]:
        if not in_line(cuffs):
            continue  # an old pipe with turns in it
        along = _way(cuffs)
        middles = np.array([tag.middle for tag in cuffs])
        middle = middles.mean(axis=0)
        steps = (middles - middle) @ along
        ends = [middle + (steps.min() - 2 * CUFF_MM) * along, middle + (steps.max() + 2 * CUFF_MM) * along]
        diameter = outside_mm(cuffs)
        key = f"cuff-{cuffs[0].number}"
        there = under_name(design.survey.things, name, key)
        kind: type[Cylinder | Capsule] = Cylinder
        if there and isinstance(there.shape, Cylinder | Capsule):  # as long as it was, on the axis that is seen
            was = np.array([there.shape.a, there.shape.b], dtype=float)
            ends = [middle + ((end - middle) @ along) * along for end in was]
            kind = type(there.shape)
        shape = kind(a=point(ends[0]), b=point(ends[1]), radius=Length(round(diameter / 2, 2)))
        yield _thing(key, name, shape, cuffs, f", {diameter:.1f} mm outside", there)


def in_line(cuffs: Sequence[FoundTag]) -> bool:
    """Whether cuffs sit on one straight."""
    ways = np.array([tag.turn[:, 2] for tag in cuffs])
    apart = np.degrees(np.arccos(np.clip(np.abs(ways @ ways.T).min(), 0.0, 1.0)))
    return bool(apart < STRAIGHT_DEG)


def outside_mm(cuffs: Sequence[FoundTag]) -> float:
    """How wide a pipe is outside by its cuffs [mm], each as sure as it is."""
    wide = np.array([tag.diameter_mm for tag in cuffs if tag.diameter_mm])
    return float(np.average(wide[:, 0], weights=1.0 / wide[:, 1] ** 2))


def _way(cuffs: Sequence[FoundTag]) -> Vector:
    """The axis of cuffs on one straight: from the first to the last where they are apart, else their own."""
    first = cuffs[0].turn[:, 2]
    if len(cuffs) < 2:
        return first
    return unit(cuffs[-1].middle - cuffs[0].middle)


def windows(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """Edges of one name that close round an opening are a window: each with its lower border along it."""
    for name, edges in named(tags, names).items():
        if len(edges) < EDGES or not (opening := _opening(edges)):
            continue
        middle, axis, up, outline = opening
        key = f"window-{edges[0].number}"
        there = under_name(design.survey.windows, name, key)
        mm = max(tag.plus_minus_mm for tag in edges)
        seen = {
            "center": point(middle),
            "axis": _direction(axis),
            "reference": _direction(up),
            "plus_minus_mm": doubt(mm),
            "outline": tuple((Length(round(a, 1)), Length(round(b, 1))) for a, b in outline),
        }
        new = Window.model_validate({**(there.model_dump() if there else {"id": key, "name": name}), **seen})

        def keep(design: Design, new: Window = new) -> Design:
            return surveyed(design, windows=put(design.survey.windows, new))

        across = np.cross(up, axis)
        line = middle + np.array([*outline, outline[0]]) @ np.array([across, up])
        off = float(np.linalg.norm(np.array(there.center, dtype=float) - middle)) if there else 0.0
        yield Proposal(
            key,
            f"window {name}, {len(edges)} edges",
            middle,
            mm,
            keep,
            line,
            beside=beside(off, mm, float(there.plus_minus_mm)) if there else None,
            of=tuple(tag.number for tag in edges),
        )


def _direction(way: Vector) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 6) for v in way)
    return x, y, z


def _opening(edges: Sequence[FoundTag]) -> tuple[Vector, Vector, Vector, list[tuple[float, float]]] | None:
    """Its middle, the way through it rearward, up in its plane and its outline there; None where it does not close or
    its edges do not lie in one plane.
    """
    faces = np.array([tag.turn[:, 2] for tag in edges])
    mean = unit(faces.sum(axis=0)) if np.linalg.norm(faces.sum(axis=0)) > 0.5 else faces[0]
    if np.degrees(np.arccos(np.clip((faces @ mean).min(), -1.0, 1.0))) > THICK_DEG:
        return None
    axis = mean if mean[0] >= 0 else -mean
    up = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.8 else np.array([1.0, 0.0, 0.0])
    up = unit(up - (up @ axis) * axis)
    flat, origin = np.array([np.cross(up, axis), up]), np.mean([tag.place for tag in edges], axis=0)
    area = shapely.box(-WIDEST_MM, -WIDEST_MM, WIDEST_MM, WIDEST_MM)
    for tag in edges:
        at, inward = flat @ (tag.place - origin), -(flat @ tag.turn[:, 1])
        inward = inward / np.linalg.norm(inward)
        along = np.array([-inward[1], inward[0]])
        far = 4 * WIDEST_MM
        area = area.intersection(
            shapely.Polygon(
                [at - far * along, at + far * along, at + far * (along + inward), at + far * (inward - along)]
            )
        )
    if area.is_empty or area.area < 1.0 or max(map(abs, area.bounds)) > 0.99 * WIDEST_MM:
        return None
    middle = np.array(area.centroid.coords[0])
    outline = [(float(a - middle[0]), float(b - middle[1])) for a, b in area.exterior.coords[:-1]]
    return origin + middle @ flat, axis, up, outline


def _thing(key: str, name: str, shape: Shape, tags: Sequence[FoundTag], more: str, there: Thing | None) -> Proposal:
    mm = max(tag.plus_minus_mm for tag in tags)
    try:
        new = (there or Thing(id=key, name=name, shape=shape)).replace(
            shape=shape, plus_minus_mm=doubt(mm), how_measured=HOW
        )
    except ValueError as exc:
        raise InputError(f"{name}: {exc}") from exc

    def keep(design: Design) -> Design:
        return surveyed(design, things=put(design.survey.things, new))

    line = _drawn(shape)
    return Proposal(
        key,
        f"{shape.type} {name}{more}",
        line.mean(axis=0),
        mm,
        keep,
        line,
        beside=_beside(there, shape, mm),
        of=tuple(tag.number for tag in tags),
    )


def _beside(there: Thing | None, shape: Shape, mm: float) -> Beside | None:
    """The most that a side of the box around a thing is off."""
    was, now = bounds(there.shape) if there else None, bounds(shape)
    if there is None or was is None or now is None:
        return None
    off = float(max(np.abs(was[0] - now[0]).max(), np.abs(was[1] - now[1]).max()))
    return beside(off, mm, float(there.plus_minus_mm))


def _drawn(shape: Shape) -> Vector:
    """A shape as one stroke (n, 3): a box round its edges, a pipe round both its ends."""
    if not isinstance(shape, Box):
        ends, turn = np.array([shape.a, shape.b], dtype=float), np.linspace(0.0, 2 * np.pi, ROUND + 1)
        along = unit(ends[1] - ends[0])
        up = unit(np.cross(along, [0.0, 1.0, 0.0] if abs(along[1]) < 0.9 else [1.0, 0.0, 0.0]))
        ring = float(shape.radius) * (np.cos(turn)[:, None] * up + np.sin(turn)[:, None] * np.cross(along, up))
        rows = [pair for k in range(ROUND) for pair in ((0, k), (1, k), (1, k + 1), (0, k + 1))]
        return np.array([ends[end] + ring[k] for end, k in rows])
    stroke = [
        (-1, -1, -1),
        (1, -1, -1),
        (1, 1, -1),
        (-1, 1, -1),
        (-1, -1, -1),
        (-1, -1, 1),
        (1, -1, 1),
        (1, -1, -1),
        (1, -1, 1),
        (1, 1, 1),
        (1, 1, -1),
        (1, 1, 1),
        (-1, 1, 1),
        (-1, 1, -1),
        (-1, 1, 1),
        (-1, -1, 1),
    ]
    half = np.array(shape.size, dtype=float) / 2
    turn = rotation_from_rpy(shape.rpy_deg)
    return np.asarray(np.array(shape.center, dtype=float) + (np.array(stroke) * half) @ turn.T)
