"""The route: strips, line-up, findings, close it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from flask import Blueprint, g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import (
    CARRY,
    HOLD,
    corners,
    describe_change,
    drag_corner,
    otherwise,
    set_locked,
    set_piece,
    set_tube,
)
from ...core.editing import carry as edit_carry
from ...core.editing import insert as insert_piece
from ...core.editing import take_out as edit_take_out
from ...core.errors import EditError, InputError
from ...core.laying import LaidPiece, LaidRun
from ...core.records import Bend, Design, InLine, Mitre, Piece, Run, SegmentedBend, Straight, Tube
from ...core.review import Review, closes, review
from ...core.routing import Proposal, Proposals, propose, remedies, taken, with_change
from ...core.space import Pose, clock_deg, roll_for_clock, wrapped
from ...core.units import (
    Length,
    as_typed,
    format_angle,
    format_clock,
    format_clock_exactly,
    format_length,
    parse_angle,
    parse_clock,
    parse_length,
    parse_number,
)
from ...core.wording import clock_words, in_state, piece_words, say_making, state_word
from ...store.database import Connection
from ...store.revisions import Later, StaleEdit, since
from ..drawing.gas_lines import heat_lines, pressure_lines
from ..drawing.lines_ribbon import Lines
from ..drawing.marks import station_to_px
from ..drawing.pointing import drag_mm
from ..drawing.shadows import position_shadows
from ..drawing.slice import draw_slice
from ..drawing.strip import Ghost
from ..drawing.strips import draw_strips
from ..layout.parts_panel import WAYS
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.breaths import breath_or_none
from ..page.edits import FormState, Unchanged, base_revision, keep_design, run_edit, step_history
from ..page.figures import is_htmx, number, typing_unit
from ..page.reader import Reader
from ..page.window import ROUTE_TALL_PX, extent_of, window_from_request
from .finding_rows import finding_rows
from .place import place_of
from .ways import asked_words, ways_before

room = Blueprint("route", __name__)

SET_DEG = 0.01  # an angle this near to one of the set is of it
STEP = {"angle_deg": 1.0, "roll_deg": 5.0, "length_mm": 1.0}
STEP_INCHES_MM = 25.4 / 16


# --- showing -------------------------------------------------------------------------------------------------------


@room.get("/jobs/<int:job_id>/route")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render_bench(here, FormState())


def render_bench(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    template = "route/_bench.html" if is_htmx() else "route/page.html"
    return render_template(template, **_context(here, said)), code


def _context(here: AtHand, said: FormState) -> dict[str, Any]:
    design, found = here.design, here.found
    run = design.run(request.values.get("run", "")) or (design.runs[0] if design.runs else None)
    laid = next((r for r in found.system.runs if run and r.run.id == run.id), None)
    pieces = laid.pieces if laid else ()
    chosen = _chosen(pieces, said.piece or request.values.get("piece"))
    window = window_from_request(extent_of(found.system, design.survey), ROUTE_TALL_PX)
    ghosts = _ghosts(said)
    carried = {p.part for r in design.runs for p in r.pieces if isinstance(p, InLine)}
    index = chosen.index if chosen else None
    shown = int(number(request.values.get("finding"), -1))
    shadows = position_shadows(found, found.findings[shown]) if 0 <= shown < len(found.findings) else []
    picture = draw_strips(
        design,
        found,
        window,
        run.id if run else None,
        index,
        ghosts,
        sight=g.sight,
        shadows=shadows,
        with_corners=True,
        lines=_gas_lines(here),
    )
    cursor = number(request.values.get("cursor"), float(chosen.middle[0]) if chosen else (window.low + window.high) / 2)
    if chosen is not None and request.values.get("moved") != "cursor":
        cursor = float(chosen.middle[0])
    cursor = min(max(cursor, window.low), window.high)
    then = _then(closed=_meets(design, laid))
    shown_now = {
        "run": run.id if run else None,
        "piece": chosen.piece.id if chosen else None,
        "then": then,
        "from_mm": f"{window.low:.1f}",
        "to_mm": f"{window.high:.1f}",
    }
    return {
        "here": here,
        "step": "route",
        "run": run,
        "laid": laid,
        "tiles": [_tile(p, found, run.id if run else "", design) for p in pieces],
        "chosen": chosen,
        "to_carry": [(p.id, p.name or p.item.kind) for p in design.parts if p.placed is None and p.id not in carried],
        "corner": _corner_words(laid, chosen) if laid and chosen else "",
        "editor": _editor(chosen) if chosen else None,
        "picture": picture,
        "cursor": cursor,
        "cursor_px": station_to_px(window, cursor),
        "slice": draw_slice(found, cursor, sight=g.sight),
        "said": said,
        "findings": finding_rows(found, design),
        "then": then,
        "revision": here.number,
        "place": place_of(here.job.id, said, shown_now),
        "proposal_rows": _proposal_rows(said.proposals, design) if said.proposals else None,
        "drawn": proposal_row(0, said.proposals.drawn, design) if said.proposals and said.proposals.drawn else None,
        "asked": asked_words(said, run, design) if run and said.wish else None,
        "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
        "survey_rev": here.survey_revision.number,
    }


def _gas_lines(here: AtHand) -> list[Lines]:
    """Pressure and heat along the pipe at full power, where this device was told to show them."""
    breath = breath_or_none(here, "full") if g.sight.gas else None
    return [] if breath is None else [pressure_lines(breath, g.unit), heat_lines(breath, g.unit)]


def _corner_words(laid: LaidRun, chosen: LaidPiece) -> str:
    """Where the chosen piece's corner is; empty for one without."""
    at = next((c.point for c in corners(laid) if c.piece == chosen.index), None)
    if at is None:
        return ""
    x, y, z = (format_length(v, g.unit, 0, suffix=False) for v in at)
    return f"{x} back, {y} right, {z} up"


def _meets(design: Design, laid: LaidRun | None) -> bool:
    return laid is not None and laid.aim is not None and closes(design, laid)


def _then(*, closed: bool = False) -> str:
    """Return the choice for the rest of the run: as chosen; unasked, an end that meets its aim is held."""
    asked = request.values.get("then")
    if asked in (HOLD, CARRY):
        return asked
    return HOLD if closed else CARRY


def _chosen(pieces: tuple[LaidPiece, ...], wanted: str | None) -> LaidPiece | None:
    return next((p for p in pieces if p.piece.id == wanted), pieces[0] if pieces else None)


def _ghosts(said: FormState) -> tuple[Ghost, ...]:
    if said.proposals is None:
        return ()
    ghosts = [Ghost(i + 1, p.laid, i == said.ghost) for i, p in enumerate(said.proposals.found)]
    if said.proposals.miss and not ghosts:
        ghosts = [Ghost(0, said.proposals.miss.laid, True, misses=True)]
    return tuple(sorted(ghosts, key=lambda ghost: ghost.chosen))


@dataclass(frozen=True)
class Tile:
    """One piece in the line-up."""

    id: str
    number: int
    kind: str
    figure: str
    clock: str
    state: str
    locked: bool
    angle: float
    words: str


def _tile(piece: LaidPiece, found: Review, run_id: str, design: Design) -> Tile:
    p = piece.piece
    here = found.of_piece(run_id, piece.index)
    if isinstance(p, Straight):
        figure = format_length(p.length_mm, g.unit, 0 if g.unit == "mm" else 1, suffix=False)
    elif isinstance(p, Bend):
        figure = format_angle(p.angle_deg)
    elif isinstance(p, SegmentedBend):
        figure = f"{p.slices} × {format_angle(p.turn_each_deg)}"
    elif isinstance(p, Mitre):
        figure = f"cut {format_angle(p.turn_deg)}"
    else:
        part = design.part(getattr(p, "part", ""))
        figure = (part.name or part.item.kind) if part else "part"
    clock = format_clock(piece.clock) if piece.clock is not None else ""
    spoken = f"piece {piece.index + 1}, {piece_words(p, g.unit)}"
    spoken += f", toward {clock_words(piece)}" if clock else ""
    state = state_word(here)
    return Tile(
        p.id,
        piece.index + 1,
        p.kind,
        figure,
        clock,
        state,
        p.locked,
        _turn(p),
        f"{spoken}, {state}" if state else spoken,
    )


def _turn(piece: Piece) -> float:
    """How far a piece turns [deg]."""
    return float(getattr(piece, "angle_deg", 0.0) if isinstance(piece, Bend) else getattr(piece, "turn_deg", 0.0))


def _editor(piece: LaidPiece) -> list[dict[str, Any]]:
    """The chosen piece's values: name, label, shown text."""
    p = piece.piece
    if isinstance(p, Straight):
        return [{"field": "length_mm", "label": "length", "value": _shown(p.length_mm), "hint": ""}]
    if isinstance(p, Bend):
        return [
            {"field": "angle_deg", "label": "turn", "value": format_angle(p.angle_deg, 2), "hint": ""},
            {
                "field": "roll_deg",
                "label": "clock",
                "value": format_clock_exactly(piece.clock or 0.0),
                "hint": clock_words(piece),
            },
        ]
    clock = {
        "field": "roll_deg",
        "label": "clock",
        "value": format_clock_exactly(piece.clock or 0.0),
        "hint": clock_words(piece),
    }
    if isinstance(p, SegmentedBend):
        return [
            {"field": "slices", "label": "slices", "value": str(p.slices), "hint": ""},
            {"field": "turn_each_deg", "label": "each turns", "value": format_angle(p.turn_each_deg, 2), "hint": ""},
            {"field": "clr_mm", "label": "radius", "value": _shown(p.clr_mm), "hint": ""},
            clock,
        ]
    if isinstance(p, Mitre):
        return [{"field": "turn_deg", "label": "turn", "value": format_angle(p.turn_deg, 2), "hint": ""}, clock]
    if isinstance(p, InLine):
        top = format_clock_exactly(clock_deg(piece.inlet.flow, piece.inlet.side(p.roll_deg)))
        return [
            {
                "field": "roll_deg",
                "label": "its top at",
                "value": top,
                "hint": "clock, seen against the gas; as it lies on the shelf, its top is up",
            }
        ]
    return []


def _shown(length: Length | float) -> str:
    return as_typed(length, typing_unit()) or format_length(length, g.unit, 2, suffix=False)


def _proposal_rows(proposals: Proposals, design: Design) -> list[dict[str, Any]]:
    return [proposal_row(i + 1, p, design) for i, p in enumerate(proposals.found)]


def proposal_row(number: int, p: Proposal, design: Design) -> dict[str, Any]:
    """One way as the page shows it."""
    angles = [float(a) for a in p.answer.angles_deg]
    odd = [a for a in angles if all(abs(a - s) > SET_DEG for s in design.settings.angles_deg)]
    return {
        "loop": p.answer.goes_round,
        "slight": [format_angle(a) for a in p.mitres_deg],
        "number": number,
        "bends": p.bends,
        "angles": [format_angle(a) for a in angles],
        "turn": format_angle(sum(angles)),
        "odd": format_angle(odd[0]) if len(odd) == 1 and len(angles) > 1 else "",
        "length": p.answer.length_mm,
        "from_set": bool(angles) and not odd,
        "radii": sorted({float(r) for r in p.answer.radii_mm}),
        "straight": p.straight_mm,
        "loss": p.loss_mm,
        "goes": p.goes,
        "sides": p.sides,
        "pieces": len(p.pieces),
        "buried": p.buried,
        "joints": p.made.joints if p.made else None,
        "slices": sum(isinstance(piece, SegmentedBend) for piece in p.pieces),
        "price": p.price,
        "weld": p.made.weld_mm if p.made else None,
        "mass": p.mass_kg,
        "margin": p.worst_margin_mm,
        "near": p.worst_thing,
        "state": in_state(p.worst_state),
        "keeps_gaps": p.keeps_gaps,
        "cannot": [say_making(f, g.unit) for f in p.cannot],
    }


# --- editing --------------------------------------------------------------------------------------------------------


Change = Callable[[Connection, AtHand, FormState], tuple[Design, str]]


def _edit(job_id: int, change: Change) -> ResponseReturnValue:
    """Run one edit of the design: `change` gives the new design and its reason, or raises."""
    said = FormState(piece=request.form.get("piece"))

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(connection, here, said)
        keep_design(connection, here, design, why)

    return run_edit(
        job_id, said, keep, render_bench, lambda: url_for("route.show", job_id=job_id, piece=said.piece, then=_then())
    )


def _run_of(design: Design) -> Run:
    run = design.run(request.form.get("run", "")) or (design.runs[0] if design.runs else None)
    if run is None:
        raise EditError("there is no run yet: place the start and the finish on the Layout step")
    return run


@room.post("/jobs/<int:job_id>/route/set")
def set_value(job_id: int) -> ResponseReturnValue:
    """Set one value of a piece: typed, or stepped by a number of steps."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run = _run_of(here.design)
        at = next((i for i, p in enumerate(run.pieces) if p.id == request.form.get("piece")), None)
        if at is None:
            raise EditError("that piece is no longer in this run")
        name, piece = request.form.get("field", ""), run.pieces[at]
        if not request.form.get("step") and request.form.get("value", "").strip() == request.form.get("shown", "\0"):
            raise Unchanged
        values = _read_value(piece, name, lambda: _inlet(here, run, piece.id))
        design = set_piece(here.design, run.id, piece.id, values, _then())
        return design, f"piece {at + 1}: {describe_change(piece, values, g.unit)}"

    return _edit(job_id, change)


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
        run, piece = _run_of(here.design), request.form.get("handle", "")
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

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/insert")
def insert(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, kind = _run_of(here.design), request.form.get("kind", "")
        after = request.form.get("piece") or None
        design, new_id = insert_piece(here.design, run.id, after, kind, _then())
        said.piece = new_id
        return design, f"put in {'slices' if kind == 'pie' else 'a straight' if kind == 'leg' else f'a {kind}'}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/carry")
def carry(job_id: int) -> ResponseReturnValue:
    """Put hardware off the shelf into the line."""

    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, part = _run_of(here.design), request.form.get("part", "")
        design, said.piece = edit_carry(here.design, run.id, request.form.get("piece") or None, part, _then())
        carried = here.design.part(part)
        return design, f"put in the {carried.name or carried.item.kind if carried else 'part'}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/tube")
def tube(job_id: int) -> ResponseReturnValue:
    """Another tube from the chosen piece on."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run = _run_of(here.design)
        reader = Reader(request.form, typing_unit())
        od, wall = reader.length("od", 10.0, 300.0), reader.length("wall", 0.4, 10.0)
        reader.finish()
        own = Tube.model_validate(run.tube.model_dump() | {"od_mm": od, "wall_mm": wall})
        return set_tube(here.design, run.id, request.form.get("piece", ""), own), "another tube from there on"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/take-out")
def take_out(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run, piece = _run_of(here.design), request.form.get("piece", "")
        at = next((i for i, p in enumerate(run.pieces) if p.id == piece), 0)
        design = edit_take_out(here.design, run.id, piece, _then())
        left = design.run(run.id)
        said.piece = left.pieces[max(0, at - 1)].id if left and left.pieces else None
        return design, f"took out piece {at + 1}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/otherwise")
def make_otherwise(job_id: int) -> ResponseReturnValue:
    """A bend made of slices, or slices made one bend."""

    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        run, piece = _run_of(here.design), request.form.get("piece", "")
        at = next((i for i, p in enumerate(run.pieces) if p.id == piece), 0)
        design, words = otherwise(here.design, run.id, piece)
        return design, f"piece {at + 1} is {words}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/lock")
def lock(job_id: int) -> ResponseReturnValue:
    def change(_connection: Connection, here: AtHand, _said: FormState) -> tuple[Design, str]:
        locked = request.form.get("locked") == "yes"
        design = set_locked(here.design, _run_of(here.design).id, request.form.get("piece", ""), locked)
        return design, "locked a piece" if locked else "unlocked a piece"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/route/history")
def history(job_id: int) -> ResponseReturnValue:
    """Undo or redo."""
    said = FormState(piece=request.form.get("piece"))

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.design_id, request.form.get("which", "undo"))

    return run_edit(job_id, said, move, render_bench, lambda: url_for("route.show", job_id=job_id))


# --- close it, remedies --------------------------------------------------------------------------------


def _proposed(design: Design, run_id: str, keep: int | None) -> Proposals:
    return solved(design, ("closed", run_id, keep), lambda: propose(design, run_id, keep))


def _keep_count(run: Run) -> int | None:
    """How many pieces stay: all, or those before the chosen one."""
    keep = request.values.get("keep", "all")
    if keep == "all":
        return None
    index = next((i for i, p in enumerate(run.pieces) if p.id == keep), None)
    return 0 if keep == "none" else index


@room.get("/jobs/<int:job_id>/route/close")
def close(job_id: int) -> ResponseReturnValue:
    """The answers that close the run, ghosted in the strips."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    said = FormState(piece=request.args.get("piece"), keep=request.args.get("keep", "all"))
    try:
        run = here.design.run(request.args.get("run", "")) or first_run(here.design)
        said.proposals = _proposed(here.design, run.id, _keep_count(run))
        said.ghost = int(number(request.args.get("ghost"), 0))
    except EditError as exc:
        said.errors = {"close": str(exc)}
        return render_bench(here, said, 422)
    return render_bench(here, said)


def first_run(design: Design) -> Run:
    if not design.runs:
        raise EditError("there is no run yet: place the start and the finish on the Layout step")
    return design.runs[0]


@room.post("/jobs/<int:job_id>/route/answer")
def take_answer(job_id: int) -> ResponseReturnValue:
    """Take one of the answers, or apply a change that was solved."""

    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run = _run_of(here.design)
        if base_revision() != here.number:
            # answers are solved for one revision: on a newer one the numbers would mean something else
            raise StaleEdit(base_revision(), _later(_connection, here))
        found = ways_before(_connection, here, run)
        proposals = found or _proposed(here.design, run.id, _keep_count(run))
        if "change" in request.form:
            chosen = int(number(request.form["change"], -1))
            if not 0 <= chosen < len(proposals.changes):
                raise EditError("that change is no longer offered: look for it again")
            then = "find a way again" if found else "close it"
            said.note = f"Done: {proposals.changes[chosen].words}. Now {then}."
            return with_change(here.design, run.id, proposals.changes[chosen]), proposals.changes[chosen].words
        index = int(number(request.form.get("answer"), -1))
        design = taken(here.design, run.id, proposals, index)
        bends = proposals.found[index].bends
        return design, f"closed with {bends} bend{'s' if bends != 1 else ''}"

    return _edit(job_id, change)


def _later(connection: Connection, here: AtHand) -> list[Any]:
    newest = here.design_revision
    return since(connection, here.job.design_id, base_revision()) or [
        Later(newest.number, newest.why, "", "", newest.made_at)
    ]


def _remedied(design: Design, unit: str) -> dict[int, Any]:
    return solved(design, ("remedied", unit), lambda: remedies(design, review(design), unit))


@room.get("/jobs/<int:job_id>/route/remedies")
def show_remedies(job_id: int) -> str:
    """Remedies for the worst three findings: they need solving, so they follow the edit."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    found = _remedied(here.design, g.unit)
    return render_template(
        "route/_remedies.html",
        here=here,
        remedies=found,
        revision=here.number,
        rows=finding_rows(here.found, here.design),
    )


@room.post("/jobs/<int:job_id>/route/remedy")
def take_remedy(job_id: int) -> ResponseReturnValue:
    def change(connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        if base_revision() != here.number:
            raise StaleEdit(base_revision(), _later(connection, here))
        remedy = _remedied(here.design, g.unit).get(int(number(request.form.get("remedy"), -1)))
        if remedy is None:
            raise EditError("that remedy is no longer offered")
        said.note = f"Done: {remedy.words}."
        return remedy.design, remedy.why

    return _edit(job_id, change)


@room.get("/jobs/<int:job_id>/route/slice")
def show_slice(job_id: int) -> str:
    """The slice at the cursor."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    cursor = number(request.args.get("cursor"), 2000.0)
    return render_template("page/_slice.html", slice=draw_slice(here.found, cursor, sight=g.sight))
