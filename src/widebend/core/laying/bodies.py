"""The bodies of a laid system as rows of the clearance kernel."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ...facts import JOINTS
from ..geometry import arc_row, heel_row, open_ends, rows_of, straight_row
from ..records import Bend, Design, InLine, Mitre, Part, Port, SegmentedBend, Straight
from ..space import Pose, Vector, cross, pose, unit
from .route import LaidPiece, LaidRun, in_line_pose, lay_run, port_pose, slice_poses

MEETS_MM, MEETS_DEG = 2.0, 2.0  # two ports this near and this square to each other are joined
ROD_MM = 20.0  # rods that fill a body lie no further apart


@dataclass(frozen=True)
class Segments:
    """The tube of one run as kernel segments (n, 14), and which piece index each belongs to (n,)."""

    rows: Vector
    piece: Vector

    @property
    def starts(self) -> Vector:
        """Where each begins (n, 3)."""
        return self.rows[:, 3:6]

    @property
    def lengths_mm(self) -> Vector:
        return self.rows[:, 1]

    @property
    def radii_mm(self) -> Vector:
        return self.rows[:, 2]


@dataclass(frozen=True)
class PartBody:
    """One body of a placed or carried part, as a swept rod."""

    part: Part
    segment: Vector
    half_u: float
    half_v: float
    u: Vector
    v: Vector

    @property
    def start(self) -> Vector:
        return self.segment[3:6]

    @property
    def flow(self) -> Vector:
        return self.segment[6:9]

    @property
    def length_mm(self) -> float:
        return float(self.segment[1])

    @property
    def radius_mm(self) -> float:
        """The rod's radius, by which its rectangle's corners are rounded."""
        return float(self.segment[2])

    @property
    def end(self) -> Vector:
        return self.start + self.flow * self.length_mm

    @cached_property
    def middle(self) -> Vector:
        return self.start + self.flow * self.length_mm / 2

    @property
    def bulk(self) -> float:
        """A quarter of the box round it [mm3]: to tell large from small, and to weigh middles by."""
        return self.length_mm * (self.half_u + self.radius_mm) * (self.half_v + self.radius_mm)

    @cached_property
    def corners(self) -> Vector:
        """The corners of the box round it, (8, 3)."""
        u, v = (self.half_u + self.radius_mm) * self.u, (self.half_v + self.radius_mm) * self.v
        round_ = np.array([-u - v, v - u, u - v, u + v])
        return np.concatenate([self.start + round_, self.end + round_])


@dataclass(frozen=True)
class PlacedPort:
    """A port in the vehicle; its pose looks outward."""

    part: Part
    port: Port
    pose: Pose

    @property
    def name(self) -> str:
        return f"{self.part.id}.{self.port.id}"


@dataclass(frozen=True)
class System:
    """Everything of a design that can touch something: laid runs, their tubes and the bodies of parts."""

    runs: tuple[LaidRun, ...]
    tubes: tuple[Segments, ...]
    parts: tuple[tuple[Part, Pose], ...]
    bodies: tuple[PartBody, ...]

    @cached_property
    def ports(self) -> tuple[PlacedPort, ...]:
        """Every port of every part that has a place, placed or carried."""
        return tuple(PlacedPort(p, port, port_pose(p, at, port)) for p, at in self.parts for port in p.item.ports)

    @cached_property
    def faces(self) -> tuple[tuple[PlacedPort, PlacedPort], ...]:
        """Ports of two parts that stand on each other, looking opposite ways."""
        if len(self.ports) < 2:
            return ()
        at, way = (np.array([getattr(q.pose, name) for q in self.ports]) for name in ("point", "flow"))
        near = np.linalg.norm(at[:, None] - at[None], axis=2) < MEETS_MM
        facing = way @ way.T < -math.cos(math.radians(MEETS_DEG))
        pairs = np.argwhere(np.triu(near & facing, 1))
        found = ((self.ports[i], self.ports[j]) for i, j in pairs)
        return tuple((a, b) for a, b in found if a.part.id != b.part.id)


def system_of(design: Design) -> System:
    """Lay a whole design and collect its bodies. Runs and parts without a place are left out."""
    laid = tuple(run for run in (lay_run(design, r) for r in design.runs) if run)
    placed: list[tuple[Part, Pose]] = [(p, p.placed.pose()) for p in design.parts if p.placed]
    for run in laid:
        for piece in run.pieces:
            if isinstance(piece.piece, InLine):
                part = design.part(piece.piece.part)
                if part:
                    placed.append((part, in_line_pose(part, piece.piece, piece.inlet)))
    bodies = [body for part, at in placed for body in part_bodies(part, at)]
    return System(laid, tuple(tube_segments(run) for run in laid), tuple(placed), tuple(bodies))


def part_bodies(part: Part, at: Pose) -> list[PartBody]:
    """The bodies of a part standing at a pose."""
    basis = np.column_stack([at.flow, cross(at.reference, at.flow), at.reference])
    out = []
    for body in part.item.bodies:
        corner = min(float(body.corner_mm), body.width_mm / 2, body.height_mm / 2)
        start = at.point + basis @ np.asarray(body.start, dtype=float)
        along = at if body.axis is None else _turned(at, basis @ unit(body.axis))
        row = straight_row(start, along.flow, float(body.length_mm), corner, open_ends=3)
        sizes = body.width_mm / 2 - corner, body.height_mm / 2 - corner
        out.append(PartBody(part, row, *sizes, along.across, along.reference))
    return out


def _turned(at: Pose, flow: Vector) -> Pose:
    """The part's frame with its X along another direction; its Z kept as nearly as that goes."""
    near = at.reference if abs(float(flow @ at.reference)) < 0.98 else at.flow
    return pose(at.point, flow, near)


def _piece_rows(piece: LaidPiece) -> list[Vector]:
    radius = piece.tube.od_mm / 2
    p = piece.piece
    if isinstance(p, Straight):
        return [straight_row(piece.inlet.point, piece.inlet.flow, float(p.length_mm), radius)] if p.length_mm else []
    if isinstance(p, Bend):
        at = piece.inlet
        return [arc_row(at.point, at.flow, at.side(p.roll_deg), piece.length_mm, radius, float(p.clr_mm))]
    if isinstance(p, SegmentedBend):
        return _pie_rows(piece, p)
    return _mitre_rows(piece, p) if isinstance(p, Mitre) else []


def _mitre_rows(piece: LaidPiece, mitre: Mitre) -> list[Vector]:
    """A joint cut at an angle has no length: what stands out of it are the heels of the two straights it joins."""
    into, out = piece.inlet, piece.outlet
    cut, away = mitre.turn_deg / 2, mitre.roll_deg + 180.0
    radius = piece.tube.od_mm / 2
    return [
        heel_row(into.point, into.flow, into.side(away), radius, cut),
        straight_row(into.point, into.flow, 0.0, radius),
        heel_row(out.point, -out.flow, out.side(away), radius, cut),
    ]


def _pie_rows(piece: LaidPiece, pie: SegmentedBend) -> list[Vector]:
    """Whole slices, each a straight cut half a turn off square at both faces."""
    radius, cut = piece.tube.od_mm / 2, pie.turn_each_deg / 2
    rows = []
    for i, (enters, leaves) in enumerate(slice_poses(piece, pie)):
        away = pie.roll_deg + i * pie.roll_each_deg + 180.0
        length = float(np.linalg.norm(leaves.point - enters.point))
        rows += [
            heel_row(enters.point, -enters.flow, enters.side(away), radius, cut),
            straight_row(enters.point, enters.flow, length, radius),
            heel_row(leaves.point, leaves.flow, leaves.side(away), radius, cut),
        ]
    return rows


def tube_segments(run: LaidRun) -> Segments:
    """A run's tube. In-line parts bring their own bodies and leave a gap here: the pipe ends flat on either side."""
    rows: list[Vector] = []
    owner: list[int] = []
    for in_line, stretch in itertools.groupby(run.pieces, key=lambda p: isinstance(p.piece, InLine)):
        here = [] if in_line else [(row, piece.index) for piece in stretch for row in _piece_rows(piece)]
        open_ends([row for row, _ in here])
        rows += [row for row, _ in here]
        owner += [index for _, index in here]
    return Segments(rows_of(rows), np.array(owner, dtype=int))


def joint_segments(run: LaidRun) -> Segments:
    """The bodies that stand proud at a run's joints: clamps and flanges are thicker than their pipe."""
    rows: list[Vector] = []
    owner: list[int] = []
    by_id = {p.piece.id: p for p in run.pieces}
    for joint in run.run.joints:
        facts = JOINTS[joint.kind]
        piece = by_id.get(joint.after)
        if not facts.stands_off_mm or (piece is None and joint.after != "start"):
            continue
        at = piece.outlet if piece else run.start
        tube = piece.tube if piece else run.run.tube
        long = facts.long_mm or float(joint.overlap_mm) or tube.od_mm / 2
        rows.append(straight_row(at.point - at.flow * long / 2, at.flow, long, tube.od_mm / 2 + facts.stands_off_mm, 3))
        owner.append(piece.index if piece else 0)
    return Segments(rows_of(rows), np.array(owner, dtype=int))


def body_rods(body: PartBody) -> Vector:
    """Rods of a part's rounding, side by side, that together fill its body: kernel segments (n, 14)."""
    rounding = body.radius_mm
    return rows_of(
        [
            straight_row(body.start + x * body.u + y * body.v, body.flow, body.length_mm, rounding, 3)
            for x in _side_by_side(body.half_u, rounding)
            for y in _side_by_side(body.half_v, rounding)
        ]
    )


def _side_by_side(half: float, rounding: float) -> Vector:
    count = max(2, math.ceil(2 * half / max(rounding, ROD_MM)) + 1)
    return np.zeros(1) if half < 1e-9 else np.linspace(-half, half, count)


def body_reach(body: PartBody) -> tuple[Vector, float]:
    """A ball around a part's body."""
    across = math.hypot(body.half_u, body.half_v) + body.radius_mm
    return body.middle, float(math.hypot(body.length_mm / 2, across))
