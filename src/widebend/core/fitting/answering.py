"""Answers for the pieces that are not on yet: each answer as a whole design, to be checked like any other."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ...facts import JOINTS
from ..errors import EditError
from ..laying import aim_pose, fitted_of
from ..records import Bend, Design, InLine, Offset, Piece, Rules, Run, Straight
from ..space import Vector
from ..units import Length
from .built import Chain, built
from .closing_joint import between
from .correcting import Correction, Gives, corrections, rest_of
from .log import AsBuilt, as_built, as_found

CUT_LAST = (0.2, 0.1)  # what is left of the closing joint [mm, deg]: common practice, no source


@dataclass(frozen=True)
class Answer:
    """One way to go on: the correction, the design with it, and, where a slip takes it up, the overlap that stays
    [mm].
    """

    correction: Correction
    design: Design
    overlap_mm: float | None


def answers(design: Design, run_id: str, made: frozenset[str] = frozenset()) -> list[Answer]:
    """Ways to go on from what is fitted so that the run ends where it should, the least change first; pieces that are
    `made` (by id) are used as they are where that can be, and only get shorter. Raises EditError.
    """
    now = as_built(design, run_id)
    if now is None:
        raise EditError("the run has no start or no pipe yet")
    rest, target, closing = open_part(design, now)
    rest = replace(rest, made=frozenset(k for k, piece in enumerate(now.run.pieces) if piece.id in made))
    rules = design.settings.rules
    gives = _gives(design, now, float(rules.least_slip_mm))
    shortest = min(float(design.settings.shortest_straight_mm), float(rules.least_ring_mm))
    every = corrections(rest, target, shortest, gives, closing=closing, fits=_fits(rules, closing=closing))
    return [Answer(one, _with(design, now, one), min(_overlaps(now.run, one).values(), default=None)) for one in every]


def _fits(rules: Rules, *, closing: bool) -> tuple[float, float]:
    """Return the tolerance of a joint [mm, deg]; the closing one is cut to what was measured, for nothing behind it
    gives.
    """
    return CUT_LAST if closing else (float(rules.fit_mm), rules.fit_deg)


def open_part(design: Design, now: AsBuilt) -> tuple[Chain, Vector, bool]:
    """Return the open pieces as a chain, the frame it should end in, and whether a tail is on behind it."""
    if now.tail < len(now.run.pieces):
        return *between(now.found, now.front, now.tail), True
    first = now.plan.first_of(now.front)
    rest = rest_of(now.plan, now.found.frames[first], first)
    return rest, target_of(design, now), False


def target_of(design: Design, now: AsBuilt) -> Vector:
    """The frame (3, 4) that a run should end in: its aim, or where it was drawn to end."""
    aim = aim_pose(design, now.run.aim) if now.run.aim else None
    if aim is not None:
        return aim.matrix()
    drawn = next((one.finish for one in fitted_of(design, now.run.id).values() if one.finish), None)
    return drawn.pose().matrix() if drawn else built(now.plan, np.zeros_like(now.spreads))[-1]


def _gives(design: Design, now: AsBuilt, least_slip_mm: float) -> Gives:
    """Return the play in the joints of the open pieces."""
    run, rules = now.run, design.settings.rules
    flexes: dict[int, float] = {}
    for k, piece in enumerate(run.pieces[: now.tail]):
        part = design.part(piece.part) if isinstance(piece, InLine) else None
        if k >= now.front and part is not None and part.item.kind == "flex":
            flexes[k] = rules.flex_deg
    behind = {piece.id: k + 1 for k, piece in enumerate(run.pieces)} | {"start": 0}
    turning = {behind[joint.after] for joint in run.joints if JOINTS[joint.kind].turns}
    return Gives(
        _slips(run, now.front, least_slip_mm), flexes, frozenset(k for k in turning if now.front <= k < now.tail)
    )


def _slips(run: Run, front: int, least_mm: float) -> dict[int, float]:
    """Straights beside slip joints that are not made yet, with how far each may come out of its joint [mm]."""
    out: dict[int, float] = {}
    index = {piece.id: k for k, piece in enumerate(run.pieces)} | {"start": -1}
    for joint in run.joints:
        if joint.kind != "slip":
            continue
        beside = (index[joint.after], index[joint.after] + 1)
        leg = next((k for k in beside if front <= k < len(run.pieces) and isinstance(run.pieces[k], Straight)), None)
        if leg is not None:
            out[leg] = max(0.0, float(joint.overlap_mm) - least_mm)
    return out


def _overlaps(run: Run, one: Correction) -> dict[str, float]:
    """The overlap that stays of each slip joint that takes something up [mm], by what it follows."""
    out: dict[str, float] = {}
    for change in (c for c in one.changes if c.what == "overlap"):
        beside = {run.pieces[k].id if k >= 0 else "start" for k in (change.piece - 1, change.piece)}
        joint = next((j for j in run.joints if j.kind == "slip" and j.after in beside), None)
        if joint is not None:
            out[joint.after] = float(joint.overlap_mm) - (change.now - change.was)
    return out


def _with(design: Design, now: AsBuilt, one: Correction) -> Design:
    """The design with what is open changed as an answer has it."""
    run, pieces = now.run, list(now.run.pieces)
    for k in range(now.front, now.tail):
        step = one.rest.piece.index(k)
        pieces[k] = _changed(pieces[k], one.rest.steps[step], one.rest.trims[step], whole=one.rest.whole(step))
    left = _overlaps(run, one)
    joints = tuple(
        j.replace(overlap_mm=Length(left[j.after])) if j.kind == "slip" and j.after in left else j for j in run.joints
    )
    fitted = design.fitted
    if now.tail < len(pieces):  # the tail's face belongs to a piece that is on: its plan says how it is trimmed
        turn = _turn(one.rest.trims[-1])
        fitted = tuple(
            f.replace(planned=f.planned.replace(offset=turn))
            if (f.run, f.piece) == (run.id, pieces[now.tail].id)
            else f
            for f in fitted
        )
    changed = run.replace(pieces=tuple(pieces), joints=joints)
    runs = tuple(changed if r.id == run.id else r for r in design.runs)
    return as_found(design.replace(runs=runs, fitted=fitted)).validated()


def _changed(piece: Piece, step: Vector, trim: Vector, *, whole: bool) -> Piece:
    update: dict[str, object] = {"offset": _turn(trim)}
    if whole and isinstance(piece, Straight):
        update["length_mm"] = Length(float(step[1]))
    if whole and isinstance(piece, Bend):
        update |= {"angle_deg": float(step[1]), "roll_deg": float(step[3])}
    return piece.replace(**update)


def _turn(trim: Vector) -> Offset | None:
    return Offset(turn_deg=(float(trim[0]), float(trim[1]), float(trim[2]))) if np.abs(trim).max() > 1e-7 else None
