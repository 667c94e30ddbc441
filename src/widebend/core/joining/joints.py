"""Every joint of a laid system, as it is welded or bolted: where it is, what meets what, how much is welded round
it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...facts import JointKind
from ..cutting import CutList, CutPiece, seams, slanted_circumference
from ..laying import LaidRun, Obstacle, System, fitted_of
from ..records import Design, SegmentedBend
from ..review import Around, Side, meetings, packed, which_sides
from ..space import Pose, Vector, pose

ROUND = 12
SAME_MM = 1.0
SIDES_REACHED = 8  # from fewer sides a joint is welded on the bench: common practice, no source


@dataclass(frozen=True, eq=False)  # compared by identity: a place is an array
class WeldJoint:
    """A joint: its number in its run (from 1), the pieces ahead and behind (from 0; none: the start, the finish), its
    kind and place with the flow, the tube's outside and bore [mm], both sides' metals and walls, how much is welded
    [mm], from which of twelve sides by the clock on the vehicle no torch reaches it, and whether it is tacked or
    welded already. `alike` joints are as this one, one behind the other: between the slices of a bend. What is no joint
    of a run (a boss, a rod, a part on a part) has a `name`, and `of` what it is.
    """

    run: str
    number: int
    ahead: int | None
    behind: int | None
    kind: JointKind
    at: Pose
    od_mm: float
    inside_mm: float
    sides: tuple[Side, Side]
    weld_mm: float
    shut: tuple[bool, ...]
    state: str
    alike: int = 1
    name: str = ""
    of: str = ""
    goes_round: bool = True  # a rod or a seam lengthwise has no clocks

    @property
    def key(self) -> str:
        """Return the key of a joint while its run is not changed."""
        return self.of or f"{self.run}-{self.number}"

    @property
    def welds(self) -> bool:
        """Whether anything is welded there: the joint itself, or the halves that are bolted or clamped together."""
        return self.weld_mm > 0

    @property
    def comes_apart(self) -> bool:
        """Whether it is bolted, clamped or pushed together."""
        return self.kind != "butt"

    @property
    def on_bench(self) -> bool:
        """Whether it is better welded on the bench, tacked on the vehicle: no torch gets round it there."""
        return sum(self.shut) > ROUND - SIDES_REACHED


def joints_of(
    design: Design, system: System, lists: Sequence[CutList], near: Sequence[Obstacle], room_mm: float
) -> list[WeldJoint]:
    """Every joint of every run, in order from its start; `lists` are the runs' cut lists, `near` what stands near, a
    torch takes so much room.
    """
    around = packed(near)
    laid_runs = [run for run in system.runs if run.pieces]
    return [
        joint
        for run, cuts in zip(laid_runs, lists, strict=True)
        for joint in _of_run(design, run, cuts.pieces, around, room_mm)
    ]


def _of_run(design: Design, run: LaidRun, cuts: Sequence[CutPiece], around: Around, room_mm: float) -> list[WeldJoint]:
    metal = [cut for cut in cuts if cut.kind != "mitre"]
    said: dict[str, JointKind] = {j.after: j.kind for j in run.run.joints}
    welds = iter(seams(run, cuts, [said.get(p.piece.id, "butt") for p in run.pieces], design))
    met = list(meetings(design, run))
    on = fitted_of(design, run.run.id)
    out: list[WeldJoint] = []
    for ahead, behind in zip([None, *metal], [*metal, None], strict=True):
        cut = behind or ahead
        if ahead is not None and isinstance(ahead.laid.piece, SegmentedBend):
            for _ in range(ahead.laid.piece.slices - 1):
                next(welds)
            out.append(_slices(run, ahead, len(out) + 1))
        if cut is None or (behind is None and not run.run.aim):
            continue
        seam = next(welds)
        last, first = max(ahead.pieces) if ahead else -1, min(behind.pieces) if behind else len(run.pieces)
        at, tube = _place(run, ahead, behind), cut.tube
        meeting = next((m for m in met if np.linalg.norm(m.at - at.point) < SAME_MM), None)
        own = Side("pipe", tube.material, float(tube.wall_mm), "bare")
        od, piece = float(tube.od_mm), behind.laid.piece.id if behind else ""
        out.append(
            WeldJoint(
                run.run.id,
                len(out) + 1,
                last if ahead else None,
                first if behind else None,
                seam.kind,
                at,
                od,
                od - 2 * float(tube.wall_mm),
                meeting.sides if meeting else (own, own),
                seam.weld_mm,
                _shut(at, od, room_mm, around),
                on[piece].state if piece in on else "",
            )
        )
    return out


def _slices(run: LaidRun, cut: CutPiece, number: int) -> WeldJoint:
    """The seams between the slices of a bend, as one line."""
    pie, od = cut.laid.piece, float(cut.tube.od_mm)
    assert isinstance(pie, SegmentedBend)
    own = Side("slice", cut.tube.material, float(cut.tube.wall_mm), "bare")
    at = pose(cut.laid.middle, cut.laid.inlet.flow)
    return WeldJoint(
        run.run.id,
        number,
        cut.laid.index,
        cut.laid.index,
        "butt",
        at,
        od,
        od - 2 * float(cut.tube.wall_mm),
        (own, own),
        slanted_circumference(od, pie.turn_each_deg / 2),
        (False,) * ROUND,
        "",
        max(1, pie.slices - 1),
    )


def _place(run: LaidRun, ahead: CutPiece | None, behind: CutPiece | None) -> Pose:
    """Where two pieces of metal meet: a bend keeps some of the straights beside it."""
    if behind is None:
        return pose(run.end.point, run.end.flow)
    if ahead is None:
        return pose(run.start.point, run.start.flow)
    point: Vector = behind.laid.inlet.point
    flow = behind.laid.inlet.flow
    if behind.marks:
        point = point - behind.marks.keep_before_mm * flow
    elif ahead.marks:
        point, flow = ahead.laid.outlet.point, ahead.laid.outlet.flow
        point = point + ahead.marks.keep_after_mm * flow
    return pose(point, flow)


def _shut(at: Pose, od_mm: float, room_mm: float, around: Around) -> tuple[bool, ...]:
    if not around.obstacles or room_mm <= 0:
        return (False,) * ROUND
    return which_sides(at, od_mm / 2, room_mm, around)[0]
