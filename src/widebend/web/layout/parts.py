"""The shelf on the Layout step: hardware set down, moved, turned, locked, joined up, mirrored."""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

import numpy as np
from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import (
    add_part,
    as_high_as,
    joined,
    levelled,
    locked_part,
    made_of,
    mirror_part,
    mirror_run,
    moved_part,
    moved_with,
    on_port,
    placed_at,
    put_at,
    snapped_part,
    squared,
    turned_part,
    without_part,
    without_run,
)
from ...core.errors import EditError
from ...core.hardware import SHELF, Kind, Values, item_of
from ...core.laying import outlet_at
from ...core.records import Design, MovesWith, Placed, Surface, Tube
from ...core.space import flow_of
from ...core.survey import AXES, snapped_place
from ...core.units import Length, format_angle, format_length
from ...facts import Metal
from ...store.database import Connection
from ..drawing.pointing import place_mm
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import number, tape_step, typing_unit
from ..page.reader import Reader
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request
from .page import render
from .parts_panel import TURNS, WAYS

AT_PORT_PX, SNAP_PX = 16.0, 8.0  # so near a port is at it; so near an edge is on it
POINTED = ("h-p", "l-s", "l-m")  # whose place is pointed at: something off the shelf, the start, the finish

room = Blueprint("parts", __name__, url_prefix="/jobs/<int:job_id>/layout/parts")

Change = Callable[[Design, FormState], tuple[Design, str]]


def _edit(job_id: int, change: Change, said: FormState | None = None) -> ResponseReturnValue:
    said = said or FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(here.design, said)
        said.note = said.note or f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    return run_edit(job_id, said, keep, render, lambda: url_for("layout.show", job_id=job_id, part=said.piece or None))


def _part_id() -> str:
    return request.form.get("part", "")


def _named(design: Design) -> str:
    part = design.part(_part_id())
    return (part.name or part.item.kind) if part else "the part"


@room.post("/add")
def add(job_id: int) -> ResponseReturnValue:
    """Take hardware off the shelf and set it down: at a place, onto a port, or leave it for a run to carry."""

    def change(design: Design, said: FormState) -> tuple[Design, str]:
        kind = SHELF.get(request.form.get("kind", ""))
        if kind is None:
            raise EditError("choose what to take off the shelf", "kind")
        reader = Reader(request.form, typing_unit())
        name = reader.words("part_name") or kind.name
        item = item_of(kind.key, name, read_measures(reader, kind))
        where = request.form.get("where", "place")
        placed: Placed | None = None
        if where == "port":
            placed = on_port(design, item, request.form.get("onto", ""))
        elif where == "place":
            placed = _place(reader)
        reader.finish()
        changed, said.piece = add_part(design, item, name, placed)
        return changed, f"set down the {name}"

    return _edit(job_id, change)


@room.get("/pointed")
def pointed(job_id: int) -> ResponseReturnValue:
    """Return the place pointed at in a strip: the open port it is at, else its figures, snapped to what is near."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    around = extent_of(here.system, here.design.survey)
    window, view = window_from_request(around, LAYOUT_TALL_PX), request.args.get("view", "below")
    if view not in AXES:
        raise EditError("point at the strip from below or the one from the left")
    x, y, top, height, middle = (number(request.args.get(key), 0.0) for key in ("x", "y", "top", "height", "middle"))
    place, per_px = place_mm(window, view, (x, y), top, height, middle), window.span / window.width_px
    fields = request.args.get("fields", POINTED[0])
    onto = outlet_at(here.design, here.system, place, AXES[view], AT_PORT_PX * per_px)
    if onto and fields == POINTED[0]:
        return {"onto": onto}
    at = snapped_place(here.design.survey, view, place, SNAP_PX * per_px, tape_step(g.unit))
    if fields not in POINTED:
        raise EditError("there is nothing of that name to point at")
    return {
        "fields": {
            f"{fields}_{'xyz'[axis]}": format_length(float(mm), g.unit, suffix=False)
            for axis, mm in zip(AXES[view], at, strict=True)
        }
    }


def read_measures(reader: Reader, kind: Kind) -> Values:
    """The kind's measures as typed; an empty field takes the usual value. Raises Faults."""
    values: dict[str, float] = {}
    for measure in kind.measures:
        field = f"{kind.key}-{measure.key}"
        if not reader.given(field):
            values[measure.key] = measure.usual
        elif measure.kind == "angle":
            values[measure.key] = reader.angle(field, measure.words, 0.0, 180.0)
        elif measure.kind == "count":
            values[measure.key] = reader.number(field, 1.0, 2000.0)
        else:
            least = -1000.0 if measure.kind == "offset" else 0.0
            values[measure.key] = float(reader.length(field, least, 3000.0))
    for key in ("od", "long", "wide", "high", "thick", "tip_od", "ring", "body", "od_out"):
        field = f"{kind.key}-{key}"
        if field not in reader.errors and key in values and values[key] <= 0:
            reader.errors[field] = "more than nothing"
    reader.finish()
    return values


def measures_as_shown(kind: Kind) -> dict[str, str]:
    """A kind's usual measures as a form shows them."""
    return {m.key: measure_as_shown(m.kind, m.usual) for m in kind.measures}


def measure_as_shown(kind: str, value: float) -> str:
    return f"{value:g}" if kind in ("angle", "count") else format_length(value, g.unit, 2, suffix=False)


def _place(reader: Reader) -> Placed | None:
    """A place and direction as typed; what is left empty is level, along the vehicle."""
    x, y, z = reader.point("p_x", "p_y", "p_z")
    heading, slope = reader.angle("p_heading", "heading"), reader.angle("p_slope", "slope", -90.0, 90.0)
    if reader.errors:
        return None
    return placed_at((x, y, z), flow_of(heading, slope))


@room.post("/place")
def place(job_id: int) -> ResponseReturnValue:
    """Put the chosen part where it is typed."""
    said = FormState(piece=_part_id())

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        placed = _place(reader)
        reader.finish()
        assert placed is not None  # finish has said what is wrong
        return put_at(design, _part_id(), placed), f"placed {_named(design)}"

    return _edit(job_id, change, said)


@room.post("/nudge")
def nudge(job_id: int) -> ResponseReturnValue:
    """Move or turn the chosen part a step."""
    said = FormState(piece=_part_id())

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        way, name = request.form.get("way", ""), _named(design)
        by = min(max(number(request.form.get("by"), 5.0), 0.1), 500.0)
        if way in TURNS:
            axis, sign = TURNS[way]
            deg = sign * min(by, 90.0)
            return turned_part(design, _part_id(), **{axis: deg}), f"{way} {name} {format_angle(abs(deg))}"
        axis_index, sign = WAYS.get(way, (0, 0))
        shift = np.zeros(3)
        shift[axis_index] = sign * by
        return moved_part(design, _part_id(), shift), f"moved {name} {format_length(by, g.unit)} {way}"

    return _edit(job_id, change, said)


@room.post("/stand")
def stand(job_id: int) -> ResponseReturnValue:
    """Level, square to the rail, as high as another, locked or free."""
    said = FormState(piece=_part_id())

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        how, part_id, name = request.form.get("how", ""), _part_id(), _named(design)
        if how == "level":
            return levelled(design, part_id), f"{name} is level"
        if how == "square":
            return squared(design, part_id), f"{name} is square to the rail"
        if how == "high":
            return as_high_as(design, part_id, request.form.get("other", "")), f"{name} is as high as the other"
        if how == "snap":
            snapped, words = snapped_part(design, part_id, request.form.get("to", ""))
            return snapped, f"{name} is {words}"
        locked = how == "lock"
        return locked_part(design, part_id, locked=locked), f"{name} is {'locked' if locked else 'free again'}"

    return _edit(job_id, change, said)


@room.post("/made")
def made(job_id: int) -> ResponseReturnValue:
    """Set the chosen part's material: metal, wall and surface where it is welded, mass."""
    said = FormState(piece=_part_id())

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        metal = reader.choice("metal", ("", *get_args(Metal)), "") or None
        surface = reader.choice("surface", get_args(Surface), "bare")
        wall = float(reader.length("wall", 0.3, 30.0)) if reader.given("wall") else None
        mass = reader.number("mass", 0.0, 200.0) if reader.given("mass") else None
        reader.finish()
        changed = made_of(
            design,
            _part_id(),
            metal=metal,  # type: ignore[arg-type]
            surface=surface,  # type: ignore[arg-type]
            wall_mm=wall,
            mass_kg=mass,
            kept=request.form.get("kept") == "yes",
        )
        return changed, f"wrote down what the {_named(design)} is made of"

    return _edit(job_id, change, said)


@room.post("/moves")
def moves(job_id: int) -> ResponseReturnValue:
    """Set the mover of the chosen part."""
    said = FormState(piece=_part_id())

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        now = reader.choice("moves_with", get_args(MovesWith), "worked out")
        reader.finish()
        return moved_with(design, _part_id(), now), f"said what the {_named(design)} moves with"  # type: ignore[arg-type]

    return _edit(job_id, change, said)


@room.post("/take-out")
def take_out(job_id: int) -> ResponseReturnValue:
    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        if request.form.get("run"):
            run = design.run(request.form["run"])
            name = (run.name or run.id) if run else "the run"
            return without_run(design, request.form["run"]), f"took out {name}"
        return without_part(design, _part_id()), f"took out the {_named(design)}"

    return _edit(job_id, change)


@room.post("/join")
def join(job_id: int) -> ResponseReturnValue:
    """A new run from an outlet to an inlet, to be closed on the Route step."""

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        usual = design.runs[0].tube if design.runs else Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
        port = design.find_port(request.form.get("from", "")) or design.find_port(request.form.get("to", ""))
        own = port[1].od_mm if port else usual.od_mm
        od = reader.length("run_od", 10.0, 300.0) if reader.given("run_od") else own
        reader.finish()
        tube = usual.replace(od_mm=od)
        changed, _run = joined(design, request.form.get("from", ""), request.form.get("to", ""), tube)
        return changed, "joined two ports: close the run on the Route step"

    return _edit(job_id, change)


@room.post("/mirror")
def mirror(job_id: int) -> ResponseReturnValue:
    """The other side: a part's or a run's twin about the centre line, or a line of one's own."""

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        line = float(reader.length("line", -1500.0, 1500.0)) if reader.given("line") else 0.0
        reader.finish()
        if request.form.get("run"):
            return mirror_run(design, request.form["run"], line), "mirrored the run: it follows the other side"
        return mirror_part(design, _part_id(), line), f"mirrored the {_named(design)}"

    return _edit(job_id, change)


@room.post("/link")
def link(job_id: int) -> ResponseReturnValue:
    """Let a mirrored run follow its other side, or let it differ."""

    def change(design: Design, _said: FormState) -> tuple[Design, str]:
        run = design.run(request.form.get("run", ""))
        if run is None or run.twin_of is None:
            raise EditError("that run is nobody's mirror image")
        linked = not run.twin_linked
        runs = tuple(r.replace(twin_linked=linked) if r.id == run.id else r for r in design.runs)
        words = "follows the other side from its next change" if linked else "may differ from the other side now"
        return design.replace(runs=runs), f"{run.name or run.id} {words}"

    return _edit(job_id, change)
