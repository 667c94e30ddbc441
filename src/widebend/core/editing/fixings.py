"""Fixings on or between pieces of a run: joints, sensor bosses, branches; and taken off again."""

from __future__ import annotations

from ...facts import JointKind
from ..errors import EditError
from ..laying import LaidPiece, lay_run
from ..records import Attachment, Design, Joint, Run, Tap, Tube
from ..space import roll_for_clock, wrapped
from ..units import Length, format_length
from .placing import joined_at

WATCHES = ("", "ahead of the cat", "behind the cat", "wideband")


def add_boss(
    design: Design,
    run_id: str,
    piece_id: str,
    along_mm: float,
    clock_deg: float,
    *,
    name: str = "",
    watches: str = "",
    stands_mm: float = 0.0,
) -> Design:
    """A sensor boss on a piece, looking toward a clock direction at its inlet. Raises EditError."""
    piece = _place(design, run_id, piece_id, along_mm)
    boss = Attachment(
        id=_free("boss", {a.id for a in design.attachments}),
        kind="boss",
        name=name,
        run=run_id,
        piece=piece_id,
        along_mm=Length(along_mm),
        roll_deg=_roll(piece, clock_deg),
        stands_mm=Length(stands_mm),
        watches=watches,
    )  # type: ignore[arg-type]
    return design.replace(attachments=(*design.attachments, boss)).validated()


def add_branch(
    design: Design,
    run_id: str,
    piece_id: str,
    along_mm: float,
    clock_deg: float,
    angle_deg: float,
    od_mm: float,
    *,
    aim: str | None = None,
    name: str = "",
) -> tuple[Design, str]:
    """A run that leaves the side of another: a wastegate or cutout branch. Its id. Raises EditError."""
    piece = _place(design, run_id, piece_id, along_mm)
    if od_mm > piece.tube.od_mm + 1e-9:
        raise EditError(f"a branch is no wider than its pipe of {format_length(piece.tube.od_mm)}", "od")
    if not 10 <= angle_deg <= 90:
        raise EditError("a branch leaves at 10° to 90° to the flow; about 45° is usual", "angle")
    tap = Tap(
        run=run_id, piece=piece_id, along_mm=Length(along_mm), roll_deg=_roll(piece, clock_deg), angle_deg=angle_deg
    )
    tube = Tube(od_mm=Length(od_mm), wall_mm=piece.tube.wall_mm, material=piece.tube.material)
    new = Run(id=_free("branch", {r.id for r in design.runs}), name=name or "branch", start=tap, tube=tube)
    if aim:
        joined_at(design, aim)
        new = new.replace(aim=aim)
    return design.replace(runs=(*design.runs, new)).validated(), new.id


def set_joint(design: Design, run_id: str, after: str, kind: JointKind, overlap_mm: float = 0.0) -> Design:
    """How two pieces meet; "butt" takes a joint away. `after` is a piece id or "start". Raises EditError."""
    run = design.run(run_id)
    if run is None or (after != "start" and all(p.id != after for p in run.pieces)):
        raise EditError("that place is no longer in this run", "after")
    if kind == "slip" and overlap_mm <= 0:
        raise EditError("a slip joint has an overlap: about the tube's radius or more", "overlap")
    joints = tuple(j for j in run.joints if j.after != after)
    if kind != "butt":
        joints += (Joint(after=after, kind=kind, overlap_mm=Length(overlap_mm if kind == "slip" else 0.0)),)
    runs = tuple(r.replace(joints=joints) if r.id == run_id else r for r in design.runs)
    return design.replace(runs=runs).validated()


def without_fixing(design: Design, fixing_id: str) -> Design:
    """The design without a boss or a hanger. Raises EditError."""
    attachments = tuple(a for a in design.attachments if a.id != fixing_id)
    hangers = tuple(h for h in design.hangers if h.id != fixing_id)
    if len(attachments) + len(hangers) == len(design.attachments) + len(design.hangers):
        raise EditError("that is no longer here")
    return design.replace(attachments=attachments, hangers=hangers)


def _place(design: Design, run_id: str, piece_id: str, along_mm: float) -> LaidPiece:
    run = design.run(run_id)
    laid = lay_run(design, run) if run else None
    piece = next((p for p in laid.pieces if p.piece.id == piece_id), None) if laid else None
    if piece is None:
        raise EditError("choose a piece of a run that is laid", "piece")
    if not 0 <= along_mm <= piece.length_mm + 1e-6:
        raise EditError(f"that piece is {format_length(piece.length_mm)} long", "along")
    return piece


def _roll(piece: LaidPiece, clock_deg: float) -> float:
    return wrapped(roll_for_clock(piece.inlet, clock_deg))


def _free(kind: str, taken: set[str]) -> str:
    return next(f"{kind}-{n}" for n in range(1, 1000) if f"{kind}-{n}" not in taken)
