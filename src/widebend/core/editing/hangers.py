"""Hangers set, slid along their pipe, changed, taken away."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import EditError, InputError
from ..hanger_search import in_school
from ..hanging import hang, held_places
from ..laying import LaidPiece, along_piece, lay_run, part_axes, system_of
from ..records import BracketKind, Design, Hanger, Hold, InLine, Rubber
from ..space import Vector
from ..units import Length, format_length

NEAREST = 25  # places looked at along each piece for where two runs pass each other
MOST_ACROSS_MM = 400.0  # common practice, no source


def hang_on_pipe(
    design: Design, run_id: str, piece_id: str, along_mm: float, hang_point: str | None, **more: Any
) -> tuple[Design, str]:
    """A hanger on a piece, from a hang point of the survey where one is named; its id. Raises EditError."""
    run = design.run(run_id)
    laid = lay_run(design, run) if run else None
    piece = next((p for p in laid.pieces if p.piece.id == piece_id), None) if laid else None
    if piece is None or isinstance(piece.piece, InLine):
        raise EditError("choose a piece of pipe that is laid, or hang the part itself", "place")
    if not 0 <= along_mm <= piece.length_mm + 1e-6:
        raise EditError(f"that piece is {format_length(piece.length_mm)} long", "along")
    return _put(design, hang_point, run=run_id, piece=piece_id, along_mm=Length(along_mm), **more)


def hang_on_part(design: Design, part_id: str, hang_point: str | None, **more: Any) -> tuple[Design, str]:
    """A hanger on a part, over the middle of its bodies; its id. Raises EditError."""
    system = system_of(design)
    found = next(((p, at) for p, at in system.parts if p.id == part_id), None)
    if found is None:
        raise EditError("that part has no place yet", "place")
    _, at = found
    bodies = [b for b in system.bodies if b.part.id == part_id]
    points = np.concatenate([b.corners for b in bodies]) if bodies else np.array([at.point])
    top = np.append((points.min(axis=0)[:2] + points.max(axis=0)[:2]) / 2, points[:, 2].max())
    local = part_axes(at).T @ (top - at.point)
    x, y, z = (Length(round(float(c), 3)) for c in local)
    return _put(design, hang_point, part=part_id, at=(x, y, z), **more)


def as_we_hang(design: Design, hanger_id: str) -> Design:
    """The design with a hanger hung as the shop does: on a bobbin, solid, on two rubbers, its rod pulled or aslant."""
    hanger = _hanger(design, hanger_id)
    try:
        carried = hang(design, system_of(design), modes=0).carried
    except InputError:  # held by nothing yet: what it carries is not known
        carried = ()
    load = next((one.load_n for one in carried if one.hanger.id == hanger_id), 0.0)
    settings = design.settings
    (schooled,) = next(in_school((hanger,), (load,), settings.hang_school, float(settings.rules.rod_pull_mm)))
    hangers = tuple(schooled if h.id == hanger_id else h for h in design.hangers)
    return design.replace(hangers=hangers).validated()


def _put(design: Design, hang_point: str | None, **where: Any) -> tuple[Design, str]:
    if hang_point and all(h.id != hang_point for h in design.survey.hang_points):
        raise EditError("there is no such hang point on the vehicle", "hang_point")
    taken = {h.id for h in design.hangers}
    hanger_id = next(f"hanger-{n}" for n in range(1, 1000) if f"hanger-{n}" not in taken)
    hanger = Hanger(id=hanger_id, hang_point=hang_point or None, **where)
    return design.replace(hangers=(*design.hangers, hanger)).validated(), hanger_id


def changed_hanger(
    design: Design,
    hanger_id: str,
    *,
    way: str,
    rubber: Rubber | None,
    rubbers: int,
    hang_point: str | None,
    pin_mm: tuple[Length, Length, Length],
    rod_mm: Length,
    rod_left: bool,
    hook_ahead: bool,
    pre_mm: tuple[Length, Length, Length],
    slope_deg: float,
    hold: Hold,
    bracket: BracketKind,
    also_run: str | None,
) -> Design:
    """A hanger that hangs otherwise; `also_run` hangs on it too, where it passes nearest. Raises EditError."""
    hanger = _hanger(design, hanger_id)
    if hang_point and all(h.id != hang_point for h in design.survey.hang_points):
        raise EditError("there is no such hang point on the vehicle", "hang_point")
    values = {
        "way": way,
        "rubber": rubber,
        "rubbers": rubbers,
        "hang_point": hang_point or None,
        "pin_mm": pin_mm,
        "rod_mm": rod_mm,
        "rod_left": rod_left,
        "hook_ahead": hook_ahead,
        "pre_mm": pre_mm,
        "slope_deg": slope_deg,
        "hold": hold,
        "bracket": bracket,
    }
    return _with(design, _across(design, hanger.replace(**values), also_run))


def _across(design: Design, hanger: Hanger, also_run: str | None) -> Hanger:
    """A hanger that holds another run too, by a bar across to where that is nearest; or no other. Raises EditError."""
    if not also_run:
        return hanger.replace(also_run=None, also_piece=None, also_along_mm=Length(0.0))
    if hanger.part or also_run == hanger.run:
        raise EditError(
            "a bar goes across from one run to another: hang it on pipe, and choose another run", "also_run"
        )
    system = system_of(design)
    held = held_places(hanger.replace(also_run=None, also_piece=None), system)
    other = next((r for r in system.runs if r.run.id == also_run), None)
    pipes = [p for p in other.pieces if not isinstance(p.piece, InLine) and p.length_mm > 1.0] if other else []
    if not held or not pipes:
        raise EditError("that run is not laid", "also_run")
    place = held[0][1]
    off, piece, share = min(
        (
            (float(np.linalg.norm(at - place)), p, s)
            for p in pipes
            for s in np.linspace(0.0, 1.0, NEAREST)
            for at in [along_piece(p, float(s))[0]]
        ),
        key=lambda one: one[0],
    )
    if off > MOST_ACROSS_MM:
        far, most = format_length(off, digits=0), format_length(MOST_ACROSS_MM, digits=0)
        raise EditError(f"that run is {far} away; a bar across {most} or less is stiff enough", "also_run")
    along = Length(round(float(share) * piece.length_mm, 1))
    return hanger.replace(also_run=also_run, also_piece=piece.piece.id, also_along_mm=along)


def slid_hanger(design: Design, hanger_id: str, by: Vector) -> Design:
    """A hanger moved along what it holds by as much of a move (3,) [mm] as goes that way: from piece to piece of its
    run, past parts in line; on a part along its own axis. Raises EditError.
    """
    hanger = _hanger(design, hanger_id)
    if hanger.part:
        at = next((at for p, at in system_of(design).parts if p.id == hanger.part), None)
        if at is None:
            raise EditError("that part has no place yet")
        x, y, z = hanger.at
        return _with(design, hanger.replace(at=(Length(round(float(x) + float(by @ at.flow), 3)), y, z)))
    run = design.run(hanger.run or "")
    laid = lay_run(design, run) if run else None
    here = next((p for p in laid.pieces if p.piece.id == hanger.piece), None) if laid else None
    if laid is None or here is None:
        raise EditError("the pipe it holds is not laid")
    way = here.outlet.point - here.inlet.point
    step = float(by @ way) / (float(np.linalg.norm(way)) or 1.0)
    piece, along = _along(laid.pieces, here, float(hanger.along_mm) + step)
    moved = hanger.replace(piece=piece.piece.id, along_mm=Length(round(along, 3)))
    return _with(design, _across(design, moved, hanger.also_run))


def _along(pieces: tuple[LaidPiece, ...], here: LaidPiece, along: float) -> tuple[LaidPiece, float]:
    """The piece of pipe, and how far along it, that is so far along from the start of another."""
    k = here.index
    last = (here, min(max(along, 0.0), here.length_mm))
    while along < 0 and k > 0:
        k -= 1
        along += pieces[k].length_mm
    while along > pieces[k].length_mm and k + 1 < len(pieces):
        along -= pieces[k].length_mm
        k += 1
    if isinstance(pieces[k].piece, InLine):
        return last
    return pieces[k], min(max(along, 0.0), pieces[k].length_mm)


def without_hanger(design: Design, hanger_id: str) -> Design:
    """The design without a hanger. Raises EditError."""
    gone = _hanger(design, hanger_id)
    return design.replace(hangers=tuple(h for h in design.hangers if h.id != gone.id)).validated()


def _hanger(design: Design, hanger_id: str) -> Hanger:
    found = next((h for h in design.hangers if h.id == hanger_id), None)
    if found is None:
        raise EditError("that hanger is no longer here")
    return found


def _with(design: Design, hanger: Hanger) -> Design:
    hangers = tuple(hanger if h.id == hanger.id else h for h in design.hangers)
    return design.replace(hangers=hangers).validated()
