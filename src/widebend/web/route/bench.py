"""The route: strips, line-up, findings, close it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.editing import (
    CARRY,
    HOLD,
    corners,
)
from ...core.laying import LaidPiece, LaidRun
from ...core.records import Bend, Design, InLine, Mitre, Piece, SegmentedBend, Straight
from ...core.review import Review, closes
from ...core.routing import Proposal, Proposals
from ...core.space import clock_deg
from ...core.units import (
    Length,
    as_typed,
    format_angle,
    format_clock,
    format_clock_exactly,
    format_length,
)
from ...core.wording import clock_words, in_state, piece_words, say_making, state_word
from ..drawing.gas_lines import heat_lines, pressure_lines
from ..drawing.lines_ribbon import Lines
from ..drawing.marks import station_to_px
from ..drawing.shadows import position_shadows
from ..drawing.slice import draw_slice
from ..drawing.strip import Ghost
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.breaths import breath_or_none
from ..page.edits import FormState
from ..page.figures import is_htmx, number, typing_unit
from ..page.window import ROUTE_TALL_PX, extent_of, window_from_request
from .finding_rows import finding_rows
from .place import place_of
from .ways import asked_words

room = Blueprint("route", __name__)

SET_DEG = 0.01  # an angle this near to one of the set is of it


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
    then = then_of(closed=_meets(design, laid))
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


def then_of(*, closed: bool = False) -> str:
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


@room.get("/jobs/<int:job_id>/route/slice")
def show_slice(job_id: int) -> str:
    """The slice at the cursor."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    cursor = number(request.args.get("cursor"), 2000.0)
    return render_template("page/_slice.html", slice=draw_slice(here.found, cursor, sight=g.sight))
