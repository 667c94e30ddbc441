"""A piece of pipe as a mock-up: its true outside, a socket ahead, a spigot behind, its line as a groove."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..cutting import CutPiece
from ..errors import InputError
from ..laying import NO_RIGID, Surface
from ..records import Bend, Straight
from ..space import Vector, chain, pose
from .swept import closed_round, named

SIDES = 72
STEP_DEG = 3.0
LINE_MM = 0.8  # how deep and about half how wide the clock line is


@dataclass(frozen=True)
class Play:
    """How printed pieces plug together. Lengths mm: wall, how far a spigot goes in, and how much looser it is."""

    wall_mm: float = 2.4
    plug_mm: float = 15.0
    loose_mm: float = 0.4


def mock_up(cut: CutPiece, play: Play) -> Surface:
    """A straight or a bend with the legs it keeps. Raises InputError for other pieces and for pipe too thin to plug.

    The socket is the bore itself: the spigot of the piece ahead is smaller by wall and play, and its own bore is drawn
    in to keep its wall.
    """
    piece, r = cut.laid.piece, float(cut.tube.od_mm) / 2
    if isinstance(piece, Bend):
        marks = cut.marks
        before, after = (marks.keep_before_mm, marks.keep_after_mm) if marks else (0.0, 0.0)
        frames, at = _frames(before, piece, after)
    elif isinstance(piece, Straight):
        frames, at = _frames(cut.length_mm, None, 0.0)
    else:
        raise InputError(f"piece {cut.number} is a {cut.kind}: straights and bends are printed")
    bore = r - play.wall_mm
    plug = bore - play.loose_mm / 2
    if plug - play.wall_mm < 4.0:
        raise InputError(f"a tube of {2 * r:g} mm is too thin to plug with walls of {play.wall_mm:g} mm")
    spigot = _pushed(frames[-1], play.plug_mm)
    neck = min(2 * play.wall_mm, at[-1] / 2) if at[-1] > 0 else 0.0
    inside = [i for i, s in enumerate(at) if s <= at[-1] - neck - 1e-9]
    rings = [_ring(frame, r, groove=True) for frame in frames]
    rings += [_ring(frames[-1], plug), _ring(spigot, plug), _ring(spigot, plug - play.wall_mm)]
    rings += [_ring(frames[-1], plug - play.wall_mm)]
    rings += [_ring(frames[i], bore) for i in reversed(inside)]
    return named(f"piece {cut.number}", closed_round(np.array(rings)))


def _frames(before: float, bend: Bend | None, after: float) -> tuple[Vector, list[float]]:
    """Frames (n, 3, 4) along a piece and how far along each lies."""
    steps: list[tuple[float, float, float, float]] = []
    steps += [(chain.LEG, before / 4, 0.0, 0.0)] * 4 if before > 0.05 else []
    if bend is not None:
        n = max(4, math.ceil(bend.angle_deg / STEP_DEG))
        steps += [(chain.BEND, bend.angle_deg / n, float(bend.clr_mm), bend.roll_deg)] * n
    steps += [(chain.LEG, after / 4, 0.0, 0.0)] * 4 if after > 0.05 else []
    start = pose(np.zeros(3), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))
    frames = np.asarray(chain.lay_frames(start.matrix(), np.array(steps), NO_RIGID))
    long = [s[1] if s[0] == chain.LEG else math.radians(s[1]) * s[2] for s in steps]
    return frames, [0.0, *np.cumsum(long).tolist()]


def _pushed(frame: Vector, mm: float) -> Vector:
    out = frame.copy()
    out[:, 3] += mm * frame[:, 0]
    return out


def _ring(frame: Vector, radius: float, *, groove: bool = False) -> Vector:
    """A circle (SIDES, 3) about a frame's flow; with a groove at its reference."""
    phi = np.linspace(0.0, 2 * np.pi, SIDES, endpoint=False)
    reach = np.full(SIDES, radius)
    if groove:
        reach[0] -= LINE_MM
    out = np.cos(phi)[:, None] * frame[:, 1] + np.sin(phi)[:, None] * frame[:, 2]
    return np.asarray(frame[:, 3] + reach[:, None] * out)
