"""Edits of the route: values of a piece, corners, pieces put in and taken out, the tube, locks, history."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from flask import g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import carry as edit_carry
from ...core.editing import (
    describe_change,
    drag_corner,
    otherwise,
    set_locked,
    set_piece,
    set_tube,
)
from ...core.editing import insert as insert_piece
from ...core.editing import take_out as edit_take_out
from ...core.errors import EditError, InputError
from ...core.records import Bend, Design, InLine, Mitre, Piece, Run, SegmentedBend, Straight, Tube
from ...core.space import Pose, roll_for_clock, wrapped
from ...core.units import (
    Length,
    parse_angle,
    parse_clock,
    parse_length,
    parse_number,
)
from ...store.database import Connection
from ..drawing.pointing import drag_mm
from ..layout.parts_panel import WAYS
from ..page.at_hand import AtHand
from ..page.edits import FormState, Unchanged, keep_design, run_edit, step_history
from ..page.figures import number, typing_unit
from ..page.reader import Reader
from ..page.window import ROUTE_TALL_PX, extent_of, window_from_request
from .bench import render_bench, room, then_of

STEP = {"angle_deg": 1.0, "roll_deg": 5.0, "length_mm": 1.0}
STEP_INCHES_MM = 25.4 / 16
Change = Callable[[Connection, AtHand, FormState], tuple[Design, str]]


def edit_design(job_id: int, change: Change) -> ResponseReturnValue:
    """Run one edit of the design: `change` gives the new design and its reason, or raises."""
    said = FormState(piece=request.form.get("piece"))

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(connection, here, said)
        keep_design(connection, here, design, why)

    return run_edit(
        job_id, said, keep, render_bench, lambda: url_for("route.show", job_id=job_id, piece=said.piece, then=then_of())
    )


def run_of(design: Design) -> Run:
    run = design.run(request.form.get("run", "")) or (design.runs[0] if design.runs else None)
    if run is None:
        raise EditError("there is no run yet: place the start and the finish on the Layout step")
    return run


@room.post("/jobs/<int:job_id>/route/set")
def set_value(job_id: int) -> ResponseReturnValue:
    """Set one value of a piece: typed, or stepped by a number of steps."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run = run_of(here.design)
        at = next((i for i, p in enumerate(run.pieces) if p.id == request.form.get("piece")), None)
        if at is None:
            raise EditError("that piece is no longer in this run")
        name, piece = request.form.get("field", ""), run.pieces[at]
        if not request.form.get("step") and request.form.get("value", "").strip() == request.form.get("shown", "\0"):
            raise Unchanged
        values = _read_value(piece, name, lambda: _inlet(here, run, piece.id))
        design = set_piece(here.design, run.id, piece.id, values, then_of())
        return design, f"piece {at + 1}: {describe_change(piece, values, g.unit)}"

    return edit_design(job_id, change)


def _inlet(here: AtHand, run: Run, piece_id: str) -> Pose:
    laid = next(r for r in here.system.runs if r.run.id == run.id)
    return next(p.inlet for p in laid.pieces if p.piece.id == piece_id)


def _read_value(p: Piece, name: str, inlet: Callable[[], Pose]) -> dict[str, float]:
    """The new value of a field, from what was typed or from steps; only a clock asks how the gas comes in. Raises
    InputError.
    """
    text = request.form.get("value", "")
    stepped = request.form.get("step")
    steps_wanted = number(stepped, 0.0)
    if name == "length_mm" and isinstance(p, Straight):
        step = STEP["length_mm"] if g.unit == "mm" else STEP_INCHES_MM
        if stepped:
            return {"length_mm": Length(max(0.0, p.length_mm + steps_wanted * step))}
        return {"length_mm": parse_length(text, typing_unit(), least=0.0, most=6000.0)}
    if name == "angle_deg" and isinstance(p, Bend):
        if stepped:
            return {"angle_deg": min(180.0, max(1.0, p.angle_deg + steps_wanted * STEP["angle_deg"]))}
        return {"angle_deg": parse_angle(text, "turn", 0.1, 180.0)}
    if name == "roll_deg" and not isinstance(p, Straight):
        if stepped:
            return {"roll_deg": wrapped(p.roll_deg + steps_wanted * STEP["roll_deg"])}
        if isinstance(p, InLine) and ":" not in text:  # by how much it is rolled, for who thinks so
            return {"roll_deg": wrapped(parse_angle(text, "roll", -360.0, 360.0))}
        return {"roll_deg": wrapped(roll_for_clock(inlet(), parse_clock(text)))}
    if isinstance(p, SegmentedBend | Mitre):
        return _slice_value(p, name, text, steps_wanted if stepped else None)
    if name == "clr_mm" and isinstance(p, Bend):
        return {"clr_mm": parse_length(text, typing_unit(), least=5.0, most=2000.0)}
    raise InputError("that piece has no such value")


def _slice_value(p: SegmentedBend | Mitre, name: str, text: str, stepped: float | None) -> dict[str, float]:
    """The new value of a field of slices or of a mitre. Raises InputError."""
    if name == "slices" and isinstance(p, SegmentedBend):
        count = p.slices + stepped if stepped is not None else parse_number(text, "slices", 1, 60)
        return {"slices": int(min(60, max(1, round(count))))}
    if name == "clr_mm" and isinstance(p, SegmentedBend):
        if stepped is not None:
            return {"clr_mm": Length(max(5.0, p.clr_mm + stepped * (1.0 if g.unit == "mm" else STEP_INCHES_MM)))}
        return {"clr_mm": parse_length(text, typing_unit(), least=5.0, most=2000.0)}
    if name == ("turn_each_deg" if isinstance(p, SegmentedBend) else "turn_deg"):
        most = 45.0 if isinstance(p, SegmentedBend) else 90.0
        if stepped is not None:
            return {name: min(most, max(1.0, getattr(p, name) + stepped * STEP["angle_deg"]))}
        return {name: parse_angle(text, "turn", 0.1, most)}
    raise InputError("that piece has no such value")


@room.post("/jobs/<int:job_id>/route/corner")
def corner(job_id: int) -> ResponseReturnValue:
    """Move a corner: dragged by this many pixels of a strip, or nudged."""

    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, piece = run_of(here.design), request.form.get("handle", "")
        said.piece = piece
        if request.form.get("way"):
            axis, sign = WAYS.get(request.form["way"], (0, 0))
            by = np.zeros(3)
            by[axis] = sign * parse_length(request.form.get("by", ""), typing_unit(), least=0.0, most=500.0)
        else:
            window = window_from_request(extent_of(here.system, here.design.survey), ROUTE_TALL_PX)
            dx, dy = number(request.form.get("dx"), 0.0), number(request.form.get("dy"), 0.0)
            by = np.round(drag_mm(window, request.form.get("view", "below"), dx, dy))
        at = next((i + 1 for i, p in enumerate(run.pieces) if p.id == piece), 0)
        return drag_corner(here.design, run.id, piece, by), f"moved the corner of piece {at}"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/insert")
def insert(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, kind = run_of(here.design), request.form.get("kind", "")
        after = request.form.get("piece") or None
        design, new_id = insert_piece(here.design, run.id, after, kind, then_of())
        said.piece = new_id
        return design, f"put in {'slices' if kind == 'pie' else 'a straight' if kind == 'leg' else f'a {kind}'}"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/carry")
def carry(job_id: int) -> ResponseReturnValue:
    """Put hardware off the shelf into the line."""

    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, part = run_of(here.design), request.form.get("part", "")
        design, said.piece = edit_carry(here.design, run.id, request.form.get("piece") or None, part, then_of())
        carried = here.design.part(part)
        return design, f"put in the {carried.name or carried.item.kind if carried else 'part'}"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/tube")
def tube(job_id: int) -> ResponseReturnValue:
    """Another tube from the chosen piece on."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run = run_of(here.design)
        reader = Reader(request.form, typing_unit())
        od, wall = reader.length("od", 10.0, 300.0), reader.length("wall", 0.4, 10.0)
        reader.finish()
        own = Tube.model_validate(run.tube.model_dump() | {"od_mm": od, "wall_mm": wall})
        return set_tube(here.design, run.id, request.form.get("piece", ""), own), "another tube from there on"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/take-out")
def take_out(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, piece = run_of(here.design), request.form.get("piece", "")
        at = next((i for i, p in enumerate(run.pieces) if p.id == piece), 0)
        design = edit_take_out(here.design, run.id, piece, then_of())
        left = design.run(run.id)
        said.piece = left.pieces[max(0, at - 1)].id if left and left.pieces else None
        return design, f"took out piece {at + 1}"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/otherwise")
def make_otherwise(job_id: int) -> ResponseReturnValue:
    """A bend made of slices, or slices made one bend."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run, piece = run_of(here.design), request.form.get("piece", "")
        at = next((i for i, p in enumerate(run.pieces) if p.id == piece), 0)
        design, words = otherwise(here.design, run.id, piece)
        return design, f"piece {at + 1} is {words}"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/lock")
def lock(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        locked = request.form.get("locked") == "yes"
        design = set_locked(here.design, run_of(here.design).id, request.form.get("piece", ""), locked)
        return design, "locked a piece" if locked else "unlocked a piece"

    return edit_design(job_id, change)


@room.post("/jobs/<int:job_id>/route/history")
def history(job_id: int) -> ResponseReturnValue:
    """Undo or redo."""
    said = FormState(piece=request.form.get("piece"))

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.design_id, request.form.get("which", "undo"))

    return run_edit(job_id, said, move, render_bench, lambda: url_for("route.show", job_id=job_id))
