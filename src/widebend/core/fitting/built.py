"""A run as it was built: its chain with what each operation went off, and how each of those moves all that follows.

An error is a rigid motion of everything behind it, so what it does to any later frame is exact to first order and
cheap: a *twist* (6,), a small turn about the origin and a shift, [radians, mm] for one of its unit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..laying import chain_steps
from ..records import Design, Piece, Tube
from ..space import Pose, Vector, chain, cross

# by column: a straight's length [mm] or a bend's angle [deg], its radius [mm], its clock [deg] (of a straight, and of
# all that is set line to line, how far it turned what is behind it round its own way), and what the joint ahead of it
# pulled, about the reference and across it [deg]
ERRORS = ("size", "radius", "clock", "pull", "pull across")
RAD = np.pi / 180.0


@dataclass(frozen=True)
class Chain:
    """A run's plan as steps: where it starts (3, 4), its steps (n, 4), rigid parts (k, 3, 4), which piece each step is
    of (n,), the tube's outside at each [mm] (n,), how far the joint ahead of each is tilted on purpose by a trimmed
    face or turned in a joint that turns: as `Offset.turn_deg` [deg] (n, 3), and the pieces that are cut already. Where
    joints are set `line_to_line`, a clock that is off turns all that is behind; where each is set to the vehicle, the
    next puts it right again.
    """

    start: Vector
    steps: Vector
    rigid: Vector
    piece: tuple[int, ...]
    od_mm: Vector
    trims: Vector
    made: frozenset[int] = frozenset()
    line_to_line: bool = True

    @property
    def turns_on(self) -> Vector:
        """The steps (n,) whose clock turns all that is behind."""
        return np.asarray((self.steps[:, 0] == chain.LEG) | self.line_to_line)

    def step_of(self, piece: int) -> int:
        """The last step of a piece, counted from 0."""
        return len(self.piece) - 1 - self.piece[::-1].index(piece)

    def first_of(self, piece: int) -> int:
        """The first step of a piece; of one behind the last, one past the last step."""
        return self.piece.index(piece) if piece in self.piece else len(self.piece)

    def whole(self, step: int) -> bool:
        """Whether a step is all there is of its piece, and not a slice of a bend."""
        return self.piece.count(self.piece[step]) == 1


def chain_of(design: Design, start: Pose, pieces: Sequence[Piece], tube: Tube) -> Chain:
    """Planned pieces, laid from a start, as a chain; how far a face is trimmed askew is kept beside the steps."""
    plain = [piece.replace(offset=None) for piece in pieces]
    steps, rigid, spans = chain_steps(plain, design)
    piece = tuple(k for k, (first, past) in enumerate(spans) for _ in range(past - first))
    od = np.array([float((pieces[k].tube or tube).od_mm) for k in piece])
    trims = np.zeros((len(piece), 3))
    for one, (first, past) in zip(pieces, spans, strict=True):
        if one.offset and past > first:
            trims[first] = one.offset.turn_deg
    line = design.settings.clocked == "line to line"
    return Chain(start.matrix(), steps, rigid, piece, od, trims, line_to_line=line)


def built(plan: Chain, errors: Vector) -> Vector:
    """Every frame of the run as built (n + 1, 3, 4), `errors` (n, 5) in their units; exact."""
    return _every_frame(plan, _real_steps(plan, errors), errors)[::2]


def _real_steps(plan: Chain, errors: Vector) -> Vector:
    """The steps with their errors put in (n, 4)."""
    kind = plan.steps[:, 0]
    real = plan.steps.copy()
    real[:, 1] += np.where(kind == chain.RIGID, 0.0, errors[:, 0])
    real[:, 2] += np.where(kind == chain.BEND, errors[:, 1], 0.0)
    real[:, 3] += np.where(plan.turns_on, 0.0, errors[:, 2])
    return real


def _every_frame(plan: Chain, real: Vector, errors: Vector) -> Vector:
    """The end of each step and how the next one's inlet stands on it (2 n + 1, 3, 4)."""
    turned = np.where(plan.turns_on, errors[:, 2], 0.0)
    trims = plan.trims + np.pad(errors[:, 3:], ((0, 0), (0, 1)))
    steps, rigid = with_tilts(replace(plan, steps=real, trims=trims), turned)
    return np.asarray(chain.lay_frames(np.ascontiguousarray(plan.start), steps, rigid))


def with_tilts(plan: Chain, turned: Vector | None = None) -> tuple[Vector, Vector]:
    """A chain's steps, each with how its face is tilted, and then how it is turned round its own way (n,) [deg], as a
    rigid step ahead of it: (2 n, 4), and the rigid steps.
    """
    n = len(plan.steps)
    steps = np.zeros((2 * n, 4))
    steps[::2, 0], steps[::2, 1] = chain.RIGID, len(plan.rigid) + np.arange(n)
    steps[1::2] = plan.steps
    clocked = (0.0 if turned is None else turned) - plan.trims[:, 2]
    return steps, np.concatenate([plan.rigid, tilts(plan.trims[:, :2], clocked)])


def tilts(turn_deg: Vector, turned: Vector) -> Vector:
    """Faces turned about the reference, then about the new across (n, 2), then clocked about the new flow, clockwise
    seen against it (n,) [deg], as rigid steps (n, 3, 4).
    """
    (cr, ca), (sr, sa) = np.cos(turn_deg.T * RAD), np.sin(turn_deg.T * RAD)
    out = np.zeros((len(turn_deg), 3, 4))
    out[:, 0, 0], out[:, 0, 1], out[:, 0, 2] = cr * ca, cr * sa, -sr
    out[:, 1, 0], out[:, 1, 1] = -sa, ca
    out[:, 2, 0], out[:, 2, 1], out[:, 2, 2] = sr * ca, sr * sa, cr
    c, s = np.cos(turned * RAD)[:, None], np.sin(turned * RAD)[:, None]
    reference, across = out[:, :, 1].copy(), out[:, :, 2].copy()
    out[:, :, 1], out[:, :, 2] = c * reference + s * across, c * across - s * reference
    return out


def standing(plan: Chain, errors: Vector, frames: Vector, step: int) -> Vector:
    """The frame (3, 4) of a step's own inlet: how its face stands on the end ahead of it."""
    trim = plan.trims[step]
    tilt = tilts((trim[:2] + errors[step, 3:])[None], -trim[2:])[0]
    out: Vector = frames[step][:, :3] @ tilt
    out[:, 3] += frames[step][:, 3]
    return out


def twists(plan: Chain, errors: Vector) -> Vector:
    """Return the effect of one unit of each error on all frames behind its step, as twists (n, 5, 6)."""
    real = _real_steps(plan, errors)
    frames = _every_frame(plan, real, errors)
    out, turns_on = np.zeros((len(real), len(ERRORS), 6)), plan.turns_on
    for k, step in enumerate(real):
        ahead, before, after = frames[2 * k], frames[2 * k + 1], frames[2 * k + 2]
        flow, point, roll = before[:, 0], before[:, 3], step[3] * RAD
        side = np.cos(roll) * before[:, 1] + np.sin(roll) * before[:, 2]
        if step[0] == chain.LEG:
            out[k, 0, 3:] = flow
        elif step[0] != chain.RIGID:
            centre = point + step[2] * side if step[0] == chain.BEND else after[:, 3]
            out[k, 0] = _about(cross(flow, side), centre)
        if step[0] == chain.BEND:
            angle = step[1] * RAD
            out[k, 1, 3:] = np.sin(angle) * flow + (1 - np.cos(angle)) * side
        out[k, 2] = _about(-flow, point)
        if not turns_on[k]:
            out[k, 2] -= _about(-after[:, 0], after[:, 3])
        out[k, 3] = _about(ahead[:, 1], point)
        turned = ((errors[k, 2] if turns_on[k] else 0.0) - plan.trims[k, 2]) * RAD
        out[k, 4] = _about(np.cos(turned) * before[:, 2] + np.sin(turned) * before[:, 1], point)
    return out


def joint_turns(plan: Chain) -> Vector:
    """Return the effect of a turn of one degree in the joint ahead of each step on all behind, as twists (n, 6)."""
    inlets = _every_frame(plan, plan.steps, np.zeros((len(plan.steps), len(ERRORS))))[1::2]
    return np.array([_about(one[:, 0], one[:, 3]) for one in inlets]).reshape(-1, 6)


def at_point(moves: Vector, point: Vector) -> Vector:
    """How a point is shifted by twists (6, m): (3, m)."""
    return np.asarray(np.cross(moves[:3].T, point).T + moves[3:])


def _about(axis: Vector, point: Vector) -> Vector:
    """A turn of one degree about an axis through a point."""
    turn = axis * RAD
    return np.concatenate([turn, -cross(turn, point)])
