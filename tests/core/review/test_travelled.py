"""Gaps over whole travels against dense sampling in time and space: plain numpy of the test's own, no kernels."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import pytest

from widebend.core.hardware import shelf
from widebend.core.laying import system_of
from widebend.core.records import (
    AxleTravel,
    Bend,
    Box,
    Capsule,
    Cylinder,
    Design,
    Group,
    GroupState,
    LowLine,
    Part,
    Pivot,
    Placed,
    Rock,
    Rules,
    Run,
    Settings,
    Sphere,
    Steer,
    Straight,
    Survey,
    Thing,
    Tube,
    Turn,
)
from widebend.core.review import review
from widebend.core.units import Length

RADIUS = 25.4
FEW = 0.45  # what a gap may be overstated by
WORTH_SAYING = 80.0  # a gap over this may be left unsaid


def _turned(axis: np.ndarray, rad: float) -> np.ndarray:
    k = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.eye(3) + math.sin(rad) * k + (1 - math.cos(rad)) * k @ k


def _system(rng: np.random.Generator, moves: str) -> Design:
    """A few straights and bends behind a flange that stays with the body, or rocks with the engine."""
    point = np.array([1500.0, 0.0, 300.0])
    pieces = [Straight(id="a", length_mm=Length(rng.uniform(100, 300)))]
    for k in range(2):
        pieces.append(
            Bend(
                id=f"b{k}",
                angle_deg=float(rng.uniform(10, 80)),
                clr_mm=Length(76.2),
                roll_deg=float(rng.uniform(0, 360)),
            )
        )
        pieces.append(Straight(id=f"l{k}", length_mm=Length(rng.uniform(60, 300))))
    start = Part(
        id="s",
        item=shelf.start_flange(2 * RADIUS),
        moves=moves,
        placed=Placed(point=tuple(Length(v) for v in point), axis=(1, 0, 0)),
    )
    run = Run(id="r1", start="s.out", tube=Tube(od_mm=Length(2 * RADIUS), wall_mm=Length(1.5)), pieces=tuple(pieces))
    rules = Rules(hot_rise_k=0.0, hanger_swing_mm=Length(0.0))
    return Design(
        parts=(start,),
        runs=(run,),
        settings=Settings(clr_mm=(Length(76.2),), rules=rules),
        survey=Survey(low_line=LowLine(d=Length(-5000))),
    )


def _centres(design: Design) -> list[tuple[np.ndarray, np.ndarray]]:
    """Places of the centre line a millimetre apart, by piece, with the flow."""
    (run,) = system_of(design).runs
    out = []
    for piece in run.pieces:
        n = max(2, int(piece.length_mm))
        if isinstance(piece.piece, Straight):
            at = np.linspace(0, piece.length_mm, n)
            out.append((piece.inlet.point + at[:, None] * piece.inlet.flow, np.tile(piece.inlet.flow, (n, 1))))
            continue
        side, clr = piece.inlet.side(piece.piece.roll_deg), float(piece.piece.clr_mm)
        t = np.linspace(0, math.radians(piece.piece.angle_deg), n)[:, None]
        here = piece.inlet.point + clr * (np.sin(t) * piece.inlet.flow + (1 - np.cos(t)) * side)
        out.append((here, np.cos(t) * piece.inlet.flow + np.sin(t) * side))
    return out


def _skin(centres: np.ndarray, flow: np.ndarray) -> np.ndarray:
    """Points of the skin, all round."""
    first = np.cross(flow, np.where(np.abs(flow[:, :1]) < 0.9, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    first /= np.linalg.norm(first, axis=1)[:, None]
    second = np.cross(flow, first)
    t = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    return (
        centres[:, None] + RADIUS * (np.cos(t)[:, None] * first[:, None] + np.sin(t)[:, None] * second[:, None])
    ).reshape(-1, 3)


def _outside(shape: object, points: np.ndarray) -> np.ndarray:
    """Distance of points to a solid, 0 inside."""
    if isinstance(shape, Box):
        off = np.abs(points - np.asarray(shape.center, float)) - np.asarray(shape.size, float) / 2
        return np.linalg.norm(np.maximum(off, 0), axis=1)
    if isinstance(shape, Sphere):
        return np.maximum(0, np.linalg.norm(points - np.asarray(shape.center, float), axis=1) - float(shape.radius))
    a, b = np.asarray(shape.a, float), np.asarray(shape.b, float)
    way = (b - a) / np.linalg.norm(b - a)
    along = (points - a) @ way
    aside = np.linalg.norm(points - a - along[:, None] * way, axis=1)
    if isinstance(shape, Cylinder):
        return np.hypot(
            np.maximum(0, np.maximum(-along, along - np.linalg.norm(b - a))), np.maximum(0, aside - float(shape.radius))
        )
    near = a + np.clip(along, 0, np.linalg.norm(b - a))[:, None] * way
    return np.maximum(0, np.linalg.norm(points - near, axis=1) - float(shape.radius))


def _shape(rng: np.random.Generator, middle: np.ndarray) -> object:
    kind, p = int(rng.integers(4)), tuple(Length(v) for v in middle)
    if kind == 0:
        return Box(center=p, size=tuple(Length(v) for v in rng.uniform(20, 200, 3)))
    if kind == 1:
        return Sphere(center=p, radius=Length(rng.uniform(8, 60)))
    way = rng.normal(size=3)
    end = tuple(Length(v) for v in middle + way / np.linalg.norm(way) * rng.uniform(60, 500))
    return (Capsule if kind == 2 else Cylinder)(a=p, b=end, radius=Length(rng.uniform(6, 50)))


def _travel(rng: np.random.Generator, middle: np.ndarray):  # type: ignore[no-untyped-def]
    """A group that moves somehow, and where it puts points at u in -1..1: by the test's own arithmetic."""
    kind = int(rng.integers(6))
    down, up = float(rng.uniform(60, 220)), float(rng.uniform(30, 120))
    if kind == 0:
        group = Group(id="g", motion=AxleTravel(droop_mm=Length(down), bump_mm=Length(up)))
        return group, lambda u, p: p + np.array([0, 0, u * (up if u > 0 else down)])
    if kind == 1:
        hub = middle + rng.uniform(-60, 60, 3)
        about = hub + np.array([-rng.uniform(420, 600), 0.0, rng.uniform(-60, 120)])
        pivot = Pivot(about=tuple(Length(v) for v in about), axis=(0, 1, 0), hub=tuple(Length(v) for v in hub))
        group = Group(id="g", motion=AxleTravel(droop_mm=Length(down), bump_mm=Length(up), pivot=pivot))
        arm = hub - about

        def swung(u: float, p: np.ndarray) -> np.ndarray:
            long, rise = math.hypot(arm[0], arm[2]), u * (up if u > 0 else down)
            was, now = math.asin(arm[2] / long), math.asin((arm[2] + rise) / long)
            return about + (p - about) @ _turned(np.array([0.0, 1, 0]), was - now).T

        return group, swung
    about, axis = middle + rng.normal(scale=200, size=3), rng.normal(size=3)
    axis /= np.linalg.norm(axis)
    place, way = tuple(Length(v) for v in about), tuple(float(v) for v in axis)
    if kind == 2:
        deg = float(rng.uniform(2, 25))
        group = Group(id="g", motion=Rock(about=place, axis=way, deg=deg))
        return group, lambda u, p: about + (p - about) @ _turned(axis, math.radians(u * deg)).T
    if kind == 3:
        deg = float(rng.uniform(10, 70))
        group = Group(id="g", motion=Steer(about=place, axis=way, turn_deg=deg))
        return group, lambda u, p: about + (p - about) @ _turned(axis, math.radians(u * deg)).T
    if kind == 4:
        group = Group(id="g", motion=Steer(side_mm=Length(150)))
        return group, lambda u, p: p + np.array([0, u * 150.0, 0])
    shift, deg = rng.uniform(-150, 150, 3), float(rng.uniform(5, 40))
    there = GroupState(name="there", shift=tuple(Length(v) for v in shift))
    turned = GroupState(name="turned", turn=Turn(about=place, axis=way, deg=deg))

    def listed(u: float, p: np.ndarray) -> np.ndarray:
        return p - u * shift if u < 0 else about + (p - about) @ _turned(axis, math.radians(u * deg)).T

    return Group(id="g", states=(there, GroupState(name="rest"), turned)), listed


def compared(seed: int) -> Iterator[tuple[int, float, float]]:
    """Each piece of one random system, our least gap of it to the thing, and that of the samples [mm]. The thing
    travels past a pipe that stays; in half of the systems the pipe rocks past the thing.
    """
    rng = np.random.default_rng(seed)
    design = _system(rng, "body" if seed % 2 else "engine")
    middles = np.concatenate([at for at, _ in _centres(design)])
    middle = middles[rng.integers(len(middles))] + rng.normal(scale=130, size=3)
    thing_shape = _shape(rng, middle)
    group, moved = _travel(rng, middle)
    group = group if seed % 2 else group.replace(id="engine")
    thing = Thing(id="t", name="thing", shape=thing_shape, moves_with="g" if seed % 2 else "body")
    design = design.replace(survey=Survey(things=(thing,), groups=(group,), low_line=LowLine(d=Length(-5000))))
    found = review(design)
    named = {
        piece: min(
            (g.gap_mm for g in found.gaps if g.piece == piece and g.obstacle.thing.id == "t"), default=WORTH_SAYING
        )
        for piece in range(5)
    }
    for piece, (at, flow) in enumerate(_centres(design)):
        # the thing is moved past the points, or the points past the thing: back by the same motion, to either's frame
        skin = _skin(at, flow)
        least = math.inf
        for u in np.linspace(-1, 1, 161):
            points = _undone(moved, u, skin) if seed % 2 else moved(u, skin)
            least = min(least, float(_outside(thing_shape, points).min()))
        # a piece that only falls away toward the open end hands the question on to the one behind it
        yield piece, min(named[piece], named.get(piece + 1, WORTH_SAYING)), least


@pytest.mark.parametrize("seed", [*range(60), 460])  # 460: what is trimmed to an open end only on part of the way
def test_no_gap_is_overstated_anywhere_on_a_travel(seed: int) -> None:
    for piece, ours, least in compared(seed):
        assert ours <= least + FEW + 0.1 or (ours == WORTH_SAYING and least > WORTH_SAYING), (piece, ours, least)


def _undone(moved, u: float, points: np.ndarray) -> np.ndarray:  # type: ignore[no-untyped-def]
    """Points seen from what moved: each motion is rigid, so its inverse is found from where it puts four points."""
    frame = moved(u, np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]]))
    turn = (frame[1:] - frame[0]).T
    return (points - frame[0]) @ turn
