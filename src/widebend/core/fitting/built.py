"""A run as it was built: its chain with what each operation went off, and how each of those moves all that follows.

An error is a rigid motion of everything behind it, so what it does to any later frame is exact to first order and
cheap: a *twist* (6,), a small turn about the origin and a shift, [radians, mm] for one of its unit.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..geometry import rotation_about
from ..laying import LaidRun, chain_steps
from ..records import Design
from ..space import Vector, chain

# by column: a straight's length [mm] or a bend's angle [deg], its radius [mm], its clock [deg], and what the joint
# ahead of it pulled, about the reference and across it [deg]
ERRORS = ("size", "radius", "clock", "pull", "pull across")
RAD = np.pi / 180.0


@dataclass(frozen=True)
class Chain:
    """A run's plan as steps: where it starts (3, 4), its steps (n, 4), rigid parts (k, 3, 4), which piece each step is
    of (n,), the tube's outside at each [mm] (n,), and how far the joint ahead of each is tilted on purpose by a trimmed
    face, about the reference and across it [deg] (n, 2).
    """

    start: Vector
    steps: Vector
    rigid: Vector
    piece: tuple[int, ...]
    od_mm: Vector
    trims: Vector

    def step_of(self, piece: int) -> int:
        """The last step of a piece, counted from 0."""
        return max(k for k, of in enumerate(self.piece) if of == piece)


def chain_of(design: Design, run: LaidRun) -> Chain:
    """A laid run as a chain."""
    pieces = [laid.piece for laid in run.pieces]
    steps, rigid, counts = chain_steps(pieces, design)
    piece = tuple(k for k, count in enumerate(counts) for _ in range(count))
    od = np.array([float(run.pieces[k].tube.od_mm) for k in piece])
    return Chain(run.start.matrix(), steps, rigid, piece, od, np.zeros((len(piece), 2)))


def built(plan: Chain, errors: Vector) -> Vector:
    """Every frame of the run as built (n + 1, 3, 4), `errors` (n, 5) in their units; exact."""
    frames, frame = [plan.start], plan.start
    for step, error, trim in zip(plan.steps, errors, plan.trims, strict=True):
        frame = _turned(frame, 1, error[3] + trim[0])
        frame = _turned(frame, 2, error[4] + trim[1])
        real = step.copy()
        real[1] += error[0] if step[0] != chain.RIGID else 0.0
        real[2] += error[1] if step[0] == chain.BEND else 0.0
        real[3] += error[2]
        frame = chain.step_frame(frame, real, plan.rigid)
        frames.append(frame)
    return np.array(frames)


def _turned(frame: Vector, column: int, deg: float) -> Vector:
    """A frame turned about one of its own axes, where it stands."""
    out = frame.copy()
    out[:, :3] = rotation_about(frame[:, column], deg) @ frame[:, :3]
    return out


def twists(plan: Chain, frames: Vector) -> Vector:
    """What one unit of each error does to all frames behind its step, as twists (n, 5, 6)."""
    out = np.zeros((len(plan.steps), len(ERRORS), 6))
    for k, step in enumerate(plan.steps):
        before, point = frames[k], frames[k][:, 3]
        flow = before[:, 0]
        roll = step[3] * RAD
        side = np.cos(roll) * before[:, 1] + np.sin(roll) * before[:, 2]
        if step[0] == chain.LEG:
            out[k, 0, 3:] = flow
        elif step[0] != chain.RIGID:
            centre = point + step[2] * side if step[0] == chain.BEND else frames[k + 1][:, 3]
            out[k, 0] = _about(np.cross(flow, side), centre)
        if step[0] == chain.BEND:
            angle = step[1] * RAD
            out[k, 1, 3:] = np.sin(angle) * flow + (1 - np.cos(angle)) * side
        if step[0] != chain.LEG:
            out[k, 2] = _about(-flow, point) - (_about(-frames[k + 1][:, 0], frames[k + 1][:, 3]))
        out[k, 3], out[k, 4] = _about(before[:, 1], point), _about(before[:, 2], point)
    return out


def _about(axis: Vector, point: Vector) -> Vector:
    """A turn of one degree about an axis through a point."""
    turn = axis * RAD
    return np.concatenate([turn, -np.cross(turn, point)])
