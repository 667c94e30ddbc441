"""The fit log of a design: what is on the vehicle, as it was found from all that was measured there.

A fitted piece is kept as it was drawn; the run's own piece stands as it was found, so that whatever looks at the design
sees the pipe that is there. From the start a *front* of pieces is fitted, from the finish perhaps a *tail*; between
them is what is *open*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import EditError
from ..laying import aim_pose, fitted_of, lay_pieces, planned_pieces, run_start
from ..records import Bend, Design, FitKind, Measured, Mitre, Offset, Piece, Rules, Run, SegmentedBend, Straight, Survey
from ..space import Vector, pose, pose_from_matrix
from ..survey import stands
from ..units import Length
from .built import Chain, built, chain_of, standing
from .closing_joint import held_finish, with_gap
from .finding import Found, Odd, find, predicted
from .reading import Kind, Reading, read
from .spread import Spreads, spreads_of

LITTLE_MM, LITTLE_DEG = 1e-6, 1e-7


def spreads_by(rules: Rules) -> Spreads:
    """The shop's spreads of what is done at the bench."""
    return Spreads(
        float(rules.cut_spread_mm),
        rules.saw_spread_deg,
        rules.bend_spread_deg,
        rules.radius_spread,
        float(rules.clock_spread_mm),
        rules.tack_spread_deg,
        rules.weld_spread_deg,
    )


@dataclass(frozen=True)
class AsBuilt:
    """A run with what is fitted of it: its plan, how many pieces are on from the start (`front`), from which piece on
    the tail is (as many as there are where none is), the readings with whose they are (piece id, which of its
    measures), and what they say together.
    """

    run: Run
    plan: Chain
    spreads: Vector
    front: int
    tail: int
    readings: tuple[Reading, ...]
    owners: tuple[tuple[str, int], ...]
    found: Found

    @property
    def planned(self) -> Vector:
        """Every frame as it was drawn (n + 1, 3, 4)."""
        return built(self.plan, np.zeros_like(self.spreads))

    def expected(self, reading: Reading, *, planned: bool = False) -> float:
        """Return the expected reading, as it was drawn or as all of them together say [mm or deg]."""
        errors = np.zeros_like(self.spreads) if planned else self.found.errors
        return float(predicted(self.plan, errors, [reading])[0][0])

    @property
    def odd(self) -> dict[tuple[str, int], Odd]:
        """Measures that are not believed, by piece id and which of its measures; what holds a tail is no measure."""
        return {self.owners[one.at]: one for one in self.found.odd if one.at < len(self.owners)}

    def off(self, piece: int) -> tuple[Vector, float]:
        """How far a piece's end was found off its plan (3,) [mm], and its flow [deg]."""
        step = self.plan.step_of(piece)
        planned, real = self.planned[step + 1], self.found.frames[step + 1]
        return real[:, 3] - planned[:, 3], float(np.degrees(np.arccos(np.clip(real[:, 0] @ planned[:, 0], -1, 1))))


def extent(design: Design, run: Run) -> tuple[int, int]:
    """How many pieces are fitted from the start, and from which piece on the tail is."""
    fitted = fitted_of(design, run.id)
    on = [piece.id in fitted for piece in run.pieces]
    front = next((k for k, one in enumerate(on) if not one), len(on))
    tail = next((len(on) - k for k, one in enumerate(reversed(on)) if not one), 0)
    return front, max(front, tail)


def as_built(design: Design, run_id: str) -> AsBuilt | None:
    """A run as it was found; None where it has no start or no pieces."""
    run = design.run(run_id)
    start = run_start(design, run) if run else None
    if run is None or start is None or not run.pieces:
        return None
    plan = chain_of(design, start, planned_pieces(design, run), run.tube)
    spreads = spreads_of(plan, spreads_by(design.settings.rules))
    front, tail = extent(design, run)
    readings, owners = _readings(design, run, front, tail)
    held: list[Reading] = []
    if front < tail < len(run.pieces):
        aim = aim_pose(design, run.aim) if run.aim else None
        if aim is None:
            raise EditError("what is tacked from the finish forward needs a port that the run ends at")
        held = held_finish(len(run.pieces) - 1, aim.matrix())
        plan = replace(plan, line_to_line=False)  # what hangs on the finish is set by that, not by the line ahead
        spreads = with_gap(plan, spreads, front, tail)
    found = find(plan, spreads, [*readings, *held])
    return AsBuilt(run, plan, spreads, front, tail, tuple(readings), tuple(owners), found)


def _readings(design: Design, run: Run, front: int, tail: int) -> tuple[list[Reading], list[tuple[str, int]]]:
    """All measures as readings, with whose they are; a gap counts while just one piece is out ahead of the tail."""
    readings, owners, fitted = [], [], fitted_of(design, run.id)
    for k, piece in enumerate(run.pieces):
        for which, one in enumerate(fitted[piece.id].measured if piece.id in fitted else ()):
            if one.kind == "gap" and not (k == tail == front + 1):
                continue
            readings.append(reading_of(one, k, design.survey, in_tail=k >= tail))
            owners.append((piece.id, which))
    return readings, owners


def reading_of(one: Measured, piece: int, survey: Survey, *, in_tail: bool = False) -> Reading:
    """A measure of the fit log as a reading; a ± is two deviations. What is in the tail is measured at its front end,
    and the gap ahead of it belongs to the piece that is out.
    """
    if one.kind == "gap":
        return Reading(piece - 1, "gap", one.value, one.plus_minus / 2, (one.clock_deg, one.clock_deg, 0.0))
    kind: Kind = one.kind
    to = tuple(float(v) for v in one.to) if one.to else (0.0, 0.0, 0.0)
    if one.kind in ("left rail", "right rail") and survey.rails:
        to = (0.0, float(survey.rails.left_y_mm if one.kind == "left rail" else survey.rails.right_y_mm), 0.0)
    return Reading(piece, kind, one.value, one.plus_minus / 2, (to[0], to[1], to[2]), inlet=in_tail)


def as_it_rides(now: AsBuilt, survey: Survey, piece_id: str, kind: FitKind) -> float:
    """Return the correction of a height or an angle that is read while the vehicle stands otherwise than it rides."""
    standing_now = stands(survey)
    index = next((k for k, p in enumerate(now.run.pieces) if p.id == piece_id), None)
    if not standing_now.moved or kind not in ("height", "up", "angle finder") or index is None:
        return 0.0
    step = now.plan.step_of(index)
    frame, od = now.found.frames[step + 1], float(now.plan.od_mm[step])
    as_it_stands = standing_now.pose_now(pose_from_matrix(frame)).matrix()
    reading = Reading(index, kind, 0.0, 1.0)
    return read(reading, frame, od, frame) - read(reading, as_it_stands, od, frame)


def without_tail(design: Design, run_id: str) -> Design:
    """The design as if nothing of a run hung on its finish yet: what is to be expected of the rest as it is built from
    the start.
    """
    run = design.run(run_id)
    if run is None:
        return design
    _, tail = extent(design, run)
    off = {piece.id for piece in run.pieces[tail:]}
    kept = tuple(one for one in design.fitted if one.run != run_id or one.piece not in off)
    bare = design.replace(fitted=kept)
    return _with_pieces(bare, run, [*run.pieces[:tail], *planned_pieces(design, run)[tail:]])


def as_found(design: Design) -> Design:
    """The design with every fitted piece as it was found, and what comes behind it standing where that leaves it."""
    for _ in range(2):  # a run that starts on another is laid from where that one was found
        for run in design.runs:
            if fitted_of(design, run.id) and (now := as_built(design, run.id)):
                design = _with_pieces(design, run, _found_pieces(design, now))
    return design


def _with_pieces(design: Design, run: Run, pieces: Sequence[Piece]) -> Design:
    changed = run.replace(pieces=tuple(pieces))
    return design.replace(runs=tuple(changed if r.id == run.id else r for r in design.runs))


def _found_pieces(design: Design, now: AsBuilt) -> list[Piece]:
    """Every fitted piece as found: what its own record can say of itself there, the rest in its offset."""
    plan, found = now.plan, now.found
    at, out = plan.start, []
    for k, piece in enumerate(planned_pieces(design, now.run)):
        first, last = plan.first_of(k), plan.step_of(k)
        made = piece
        if k < now.front or k >= now.tail:
            errors = found.errors[first]
            bare = _as_made(piece.replace(offset=None), errors, whole=plan.whole(first))
            if plan.whole(first):
                inlet = standing(plan, found.errors, found.frames, first)
            else:  # slices are drawn as planned, and end where they were found to
                inlet = _before(found.frames[last + 1], _through(design, now.run, bare))
            made = bare.replace(offset=_offset(at, inlet), locked=True)
        out.append(made)
        at = _placed(at, _through(design, now.run, made))
    return out


def _through(design: Design, run: Run, piece: Piece) -> Vector:
    """A piece as one rigid step (3, 4)."""
    origin = pose((0, 0, 0), (1, 0, 0), (0, 0, 1))
    outlet = lay_pieces(origin, [piece], design, run.tube)[0].outlet.matrix()
    axes = origin.matrix()[:, :3].T
    return np.column_stack([axes @ outlet[:, :3], axes @ outlet[:, 3]])


def _as_made(piece: Piece, errors: Vector, *, whole: bool) -> Piece:
    """A piece with what its own operations went off; slices as they were drawn."""
    size, radius, clock = (float(v) for v in errors[:3])
    if not whole or isinstance(piece, SegmentedBend):
        return piece
    if isinstance(piece, Straight):
        return piece.replace(length_mm=Length(max(0.0, float(piece.length_mm) + size)))
    if isinstance(piece, Bend):
        return piece.replace(
            angle_deg=piece.angle_deg + size,
            roll_deg=piece.roll_deg + clock,
            clr_mm=Length(float(piece.clr_mm) + radius),
        )
    if isinstance(piece, Mitre):
        return piece.replace(turn_deg=piece.turn_deg + size, roll_deg=piece.roll_deg + clock)
    return piece.replace(roll_deg=piece.roll_deg + clock)


def _placed(frame: Vector, local: Vector) -> Vector:
    """A rigid step (3, 4) made from a frame."""
    out = frame[:, :3] @ local
    out[:, 3] += frame[:, 3]
    return np.asarray(out)


def _before(frame: Vector, local: Vector) -> Vector:
    """The frame that a rigid step was made from to come to this one."""
    axes = frame[:, :3] @ local[:, :3].T
    return np.column_stack([axes, frame[:, 3] - axes @ local[:, 3]])


def _offset(at: Vector, inlet: Vector) -> Offset | None:
    """How one frame stands against another, as a record says it; None where it does not."""
    local = at[:, :3].T @ inlet[:, :3]
    shift = at[:, :3].T @ (inlet[:, 3] - at[:, 3])
    # about the reference, the new across, the new flow (`laying.turned_frame`)
    turn = np.degrees(
        [
            np.arctan2(local[2, 0], local[0, 0]),
            np.arcsin(np.clip(-local[1, 0], -1.0, 1.0)),
            np.arctan2(local[1, 2], local[1, 1]),
        ]
    )
    if np.abs(shift).max() < LITTLE_MM and np.abs(turn).max() < LITTLE_DEG:
        return None
    back, up, across = (Length(v) for v in shift)
    return Offset(shift_mm=(back, up, across), turn_deg=(float(turn[0]), float(turn[1]), float(turn[2])))
