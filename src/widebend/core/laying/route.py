"""Lays a design in the vehicle: where every port, piece and run end is.

A laid piece knows its pose at inlet and outlet; everything drawn, checked or cut is read from here.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ..records import Bend, Design, InLine, Mitre, Part, Piece, Port, Run, SegmentedBend, Straight, Tap, Tube
from ..space import Pose, Vector, chain, clock_deg, cross, pose, pose_from_matrix, unit

NO_RIGID = np.zeros((0, 3, 4))


@dataclass(frozen=True)
class LaidPiece:
    """One piece in place. `index` counts from 0 in the run."""

    piece: Piece
    index: int
    inlet: Pose
    outlet: Pose
    tube: Tube

    @property
    def length_mm(self) -> float:
        """Centre-line length."""
        piece = self.piece
        if isinstance(piece, Straight):
            return float(piece.length_mm)
        if isinstance(piece, Bend):
            return piece.clr_mm * math.radians(piece.angle_deg)
        if isinstance(piece, SegmentedBend):
            return pie_slice_length(piece) * piece.slices
        return float(np.linalg.norm(self.outlet.point - self.inlet.point))

    @property
    def clock(self) -> float | None:
        """The side a turning piece turns toward [deg from 12] on the vehicle; None for a straight."""
        if isinstance(self.piece, Bend | Mitre | SegmentedBend):
            return clock_deg(self.inlet.flow, self.inlet.side(self.piece.roll_deg))
        return None

    @property
    def middle(self) -> Vector:
        return along_piece(self, 0.5)[0]


@dataclass(frozen=True)
class LaidRun:
    """A run in place: its pieces, its end, and what it still misses of its aim."""

    run: Run
    start: Pose
    pieces: tuple[LaidPiece, ...]
    aim: Pose | None

    @property
    def end(self) -> Pose:
        return self.pieces[-1].outlet if self.pieces else self.start

    @property
    def miss_mm(self) -> float:
        return float(np.linalg.norm(self.aim.point - self.end.point)) if self.aim else 0.0

    @property
    def miss_deg(self) -> float:
        return angle_between(self.aim.flow, self.end.flow) if self.aim else 0.0


def angle_between(a: Vector, b: Vector) -> float:
    """Angle between two unit directions [deg], exact for small angles too."""
    return math.degrees(math.atan2(float(np.linalg.norm(cross(a, b))), float(a @ b)))


def pie_slice_length(piece: SegmentedBend) -> float:
    """Centre-line length of one whole wedge [mm]: 2 CLR tan(turn / 2), the wedge circumscribing the arc.

    What stands beside a bend of whole wedges is cut square and meets a wedge's slanted face: the turn there is half of
    one wedge's (docs/sources.md, "Slices"). So its ends stand off the bend's centre by CLR / cos(turn / 2).
    """
    return 2.0 * piece.clr_mm * math.tan(math.radians(piece.turn_each_deg) / 2.0)


def part_frames(part: Part) -> dict[str, Pose]:
    """Every port of a placed part in the vehicle, flow outward. Empty for a part that is not placed."""
    return {port.id: port_pose(part, part.placed.pose(), port) for port in part.item.ports} if part.placed else {}


def port_pose(part: Part, at: Pose, port: Port) -> Pose:
    """A port of `part` standing at pose `at` (its X along the flow, its Z the reference): flow outward."""
    basis = part_axes(at)
    return pose(
        at.point + basis @ np.array(port.point, dtype=float),
        basis @ unit(port.axis),
        basis @ np.asarray(port.reference, dtype=float),
    )


def part_axes(at: Pose) -> Vector:
    """The axes of a part standing at a pose as columns (3, 3): X along the flow, Z the reference."""
    return np.column_stack([at.flow, cross(at.reference, at.flow), at.reference])


def in_line_pose(part: Part, piece: InLine, inlet: Pose) -> Pose:
    """The pose of an in-line part reached at `inlet`."""
    enter = _port(part, piece.enter)
    at_origin = port_pose(part, pose((0, 0, 0), (1, 0, 0), (0, 0, 1)), enter).backwards
    rolled = inlet.rolled(piece.roll_deg)
    turn = np.column_stack([rolled.flow, rolled.reference, rolled.across]) @ at_origin.matrix()[:, :3].T
    return pose(rolled.point - turn @ at_origin.point, turn @ [1.0, 0, 0], turn @ [0.0, 0, 1])


def _port(part: Part, port_id: str) -> Port:
    port = part.port(port_id)
    if port is None:
        raise LookupError(f"part {part.id} has no port {port_id}")
    return port


def _through(part: Part, piece: InLine) -> Vector:
    """The rigid step through an in-line part: the outlet frame in the inlet frame's coordinates, shape (3, 4)."""
    origin = pose((0, 0, 0), (1, 0, 0), (0, 0, 1))
    enter = port_pose(part, origin, _port(part, piece.enter)).backwards.matrix()
    leave = port_pose(part, origin, _port(part, piece.leave)).matrix()
    axes = enter[:, :3].T
    return np.column_stack([axes @ leave[:, :3], axes @ (leave[:, 3] - enter[:, 3])])


def turned_frame(turn_deg: Sequence[float]) -> Vector:
    """A frame's axes turned about its reference, its new across and its new flow [deg], in the axes of the frame that
    is turned: (3, 3), columns flow, reference, across.
    """
    (cr, ca, cf), (sr, sa, sf) = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    about_reference = np.array([[cr, 0.0, -sr], [0.0, 1.0, 0.0], [sr, 0.0, cr]])
    about_across = np.array([[ca, sa, 0.0], [-sa, ca, 0.0], [0.0, 0.0, 1.0]])
    about_flow = np.array([[1.0, 0.0, 0.0], [0.0, cf, sf], [0.0, -sf, cf]])
    return np.asarray(about_reference @ about_across @ about_flow)


def chain_steps(pieces: Iterable[Piece], design: Design) -> tuple[Vector, Vector, list[tuple[int, int]]]:
    """Pieces as kernel steps: (steps (n, 4), rigid (k, 3, 4), of each piece its first own step and one past its last);
    a piece that stands off true has one step more ahead of its own.
    """
    steps: list[tuple[float, float, float, float]] = []
    rigid: list[Vector] = []
    spans: list[tuple[int, int]] = []
    for piece in pieces:
        if piece.offset:
            steps.append((chain.RIGID, float(len(rigid)), 0.0, 0.0))
            rigid.append(np.column_stack([turned_frame(piece.offset.turn_deg), piece.offset.shift_mm]))
        before = len(steps)
        if isinstance(piece, Straight):
            steps.append((chain.LEG, float(piece.length_mm), 0.0, 0.0))
        elif isinstance(piece, Bend):
            steps.append((chain.BEND, piece.angle_deg, float(piece.clr_mm), piece.roll_deg))
        elif isinstance(piece, Mitre):
            steps.append((chain.MITRE, piece.turn_deg, 0.0, piece.roll_deg))
        elif isinstance(piece, SegmentedBend):
            steps.extend(_pie_steps(piece))
        else:
            part = design.part(piece.part)
            assert part is not None  # the record's own validation guarantees it
            steps.append((chain.RIGID, float(len(rigid)), 0.0, piece.roll_deg))
            rigid.append(_through(part, piece))
        spans.append((before, len(steps)))
    return (
        np.array(steps, dtype=float).reshape(-1, 4),
        np.array(rigid, dtype=float).reshape(-1, 3, 4) if rigid else NO_RIGID,
        spans,
    )


def _pie_steps(piece: SegmentedBend) -> list[tuple[float, float, float, float]]:
    """Each whole slice turns half at the face it is entered by and half at the face it is left by."""
    long, half = pie_slice_length(piece), piece.turn_each_deg / 2.0
    out: list[tuple[float, float, float, float]] = []
    for i in range(piece.slices):
        roll = piece.roll_deg + i * piece.roll_each_deg
        face = (chain.MITRE, half, 0.0, roll)
        out += [face, (chain.LEG, long, 0.0, 0.0), face]
    return out


def lay_pieces(start: Pose, pieces: Sequence[Piece], design: Design, tube: Tube) -> tuple[LaidPiece, ...]:
    """Pieces laid one after the other from `start`."""
    if not pieces:
        return ()
    steps, rigid, spans = chain_steps(pieces, design)
    frames = chain.lay_frames(start.matrix(), steps, rigid)
    laid = []
    for index, (piece, (first, past)) in enumerate(zip(pieces, spans, strict=True)):
        inlet, outlet = pose_from_matrix(frames[first]), pose_from_matrix(frames[past])
        laid.append(LaidPiece(piece, index, inlet, outlet, piece.tube or tube))
    return tuple(laid)


def lay_run(design: Design, run: Run) -> LaidRun | None:
    """A run in place; None when what it starts from is not placed yet."""
    start = run_start(design, run)
    if start is None:
        return None
    aim = aim_pose(design, run.aim) if run.aim else None
    return LaidRun(run, start, lay_pieces(start, run.pieces, design, run.tube), aim)


def run_start(design: Design, run: Run) -> Pose | None:
    """Where a run starts: a port's outward pose, or the side of another run."""
    if isinstance(run.start, Tap):
        return _tap_pose(design, run.start)
    port = placed_port(design, run.start)
    return port


def _tap_pose(design: Design, tap: Tap) -> Pose | None:
    other = design.run(tap.run)
    laid = lay_run(design, other) if other else None
    piece = next((p for p in laid.pieces if p.piece.id == tap.piece), None) if laid else None
    if piece is None:
        return None
    point, flow, reference = along_piece(piece, min(1.0, float(tap.along_mm) / max(piece.length_mm, 1e-9)))
    here = Pose(point, flow, reference)
    side = here.side(tap.roll_deg)
    angle = math.radians(tap.angle_deg)
    return pose(point + side * (piece.tube.od_mm / 2), math.cos(angle) * flow + math.sin(angle) * side)


def placed_port(design: Design, name: str) -> Pose | None:
    """The outward pose of a port in the vehicle, placed or carried by a run; None while neither."""
    found = design.find_port(name)
    if found is None:
        return None
    part, port = found
    if part.placed:
        return port_pose(part, part.placed.pose(), port)
    for run in design.runs:
        carried = next((p for p in run.pieces if isinstance(p, InLine) and p.part == part.id), None)
        if carried is None or (isinstance(run.start, str) and run.start.startswith(f"{part.id}.")):
            continue
        laid = lay_run(design, run)
        spot = next((p for p in laid.pieces if p.piece is carried), None) if laid else None
        return port_pose(part, in_line_pose(part, carried, spot.inlet), port) if spot else None
    return None


def aim_pose(design: Design, name: str) -> Pose | None:
    """The pose a run must end in to meet a port: flow into it."""
    port = placed_port(design, name)
    return port.backwards if port else None


def along_piece(piece: LaidPiece, fraction: float) -> tuple[Vector, Vector, Vector]:
    """Point, flow and reference on the centre line at `fraction` (0..1) of a piece."""
    p = piece.piece
    if isinstance(p, Bend):
        step = np.array([[chain.BEND, max(p.angle_deg * fraction, 1e-12), float(p.clr_mm), p.roll_deg]])
    elif isinstance(p, Straight):
        step = np.array([[chain.LEG, p.length_mm * fraction, 0.0, 0.0]])
    elif isinstance(p, SegmentedBend):
        return _along_slices(piece, p, fraction)
    else:
        point = piece.inlet.point + fraction * (piece.outlet.point - piece.inlet.point)
        near = piece.inlet if fraction < 0.5 else piece.outlet
        return point, near.flow, near.reference
    frame = pose_from_matrix(chain.lay_frames(piece.inlet.matrix(), step, NO_RIGID)[-1])
    return frame.point, frame.flow, frame.reference


def _along_slices(piece: LaidPiece, pie: SegmentedBend, fraction: float) -> tuple[Vector, Vector, Vector]:
    """On the slice that is there, whose axis is straight."""
    k = min(int(fraction * pie.slices), pie.slices - 1)
    within = (fraction * pie.slices - k) * pie_slice_length(pie)
    steps = np.array([*_pie_steps(pie)[: 3 * k + 1], (chain.LEG, within, 0.0, 0.0)])
    frame = pose_from_matrix(chain.lay_frames(piece.inlet.matrix(), steps, NO_RIGID)[-1])
    return frame.point, frame.flow, frame.reference


def slice_poses(piece: LaidPiece, pie: SegmentedBend) -> list[tuple[Pose, Pose]]:
    """Each slice's axis at its two faces."""
    frames = chain.lay_frames(piece.inlet.matrix(), np.array(_pie_steps(pie)), NO_RIGID)
    return [(pose_from_matrix(frames[3 * i + 1]), pose_from_matrix(frames[3 * i + 2])) for i in range(pie.slices)]


def centre_line(piece: LaidPiece, step_deg: float = 3.0) -> Vector:
    """Points along a piece for drawing, shape (n, 3): ends for a straight, one every few degrees for an arc."""
    p = piece.piece
    if isinstance(p, Bend):
        n = max(2, math.ceil(p.angle_deg / step_deg) + 1)
        t = np.radians(np.linspace(0.0, p.angle_deg, n))[:, None]
        side = piece.inlet.side(p.roll_deg)
        return piece.inlet.point + p.clr_mm * (np.sin(t) * piece.inlet.flow + (1 - np.cos(t)) * side)
    if isinstance(p, SegmentedBend):
        return np.array([piece.inlet.point, *(leaves.point for _, leaves in slice_poses(piece, p))])
    return np.array([piece.inlet.point, piece.outlet.point])


def spaced(piece: LaidPiece, spacing_mm: float) -> Vector:
    """Points on a piece's centre line no further apart than `spacing_mm`, both ends included: shape (n, 3)."""
    n = max(2, math.ceil(piece.length_mm / spacing_mm) + 1)
    p = piece.piece
    if isinstance(p, Bend):
        return centre_line(piece, p.angle_deg / (n - 1))
    if isinstance(p, SegmentedBend):
        corners, each = centre_line(piece), max(1, math.ceil((n - 1) / p.slices))
        share = np.linspace(0.0, 1.0, each + 1)[1:, None]
        return np.concatenate([corners[:1], *(a + share * (b - a) for a, b in itertools.pairwise(corners))])
    share = np.linspace(0.0, 1.0, n)[:, None]
    return piece.inlet.point + share * (piece.outlet.point - piece.inlet.point)
