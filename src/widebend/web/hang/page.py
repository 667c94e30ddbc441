"""The Hang step: the strips with every hanger and its load, and the one in hand beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, get_args

import numpy as np
from flask import Blueprint, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.hanger_search import HangAnswer, HangProposal, NewPoint, mock_up, propose_hangers
from ...core.hanging import (
    RUBBERS,
    SPOILS,
    WET_KG_M,
    Carried,
    HangFault,
    HangState,
    HungSystem,
    beyond_shop,
    bracket_for,
    from_a_metre,
    hang,
    hang_faults,
    lost_states,
    old_rod_wants,
    rod_for,
    rubber_of,
    tie_for,
    usual_kg,
)
from ...core.records import BracketKind, Design, Engine, Equipment, Hanger, HangSchool, HangWay, Hold, InLine, Rubber
from ...core.review import Finding, Review, hung_findings, review, rod_faults, with_its_rods
from ...core.units import format_length
from ...core.wording import broken_rules, hanger_name, say, say_hung
from ...store import jobs
from ..drawing.hanger_view import draw_hanger
from ..drawing.hangers import SAG_SHOWN_MM, draw_hangers, hung_shadows, sag_factor
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState
from ..page.figures import is_htmx, number
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request

room = Blueprint("hang", __name__, url_prefix="/jobs/<int:job_id>/hang")

WAYS: tuple[HangWay, ...] = get_args(HangWay)
WAY_WORDS: dict[HangWay, str] = {
    "rubber": "rubber on a rod",
    "bobbin pulled": "bobbin, pulled",
    "bobbin pressed": "bobbin, pressed",
    "bobbin sheared": "bobbin across, sheared",
    "solid": "solid tie",
}
OWN = "own"
HOLDS, BRACKETS, SCHOOLS = get_args(Hold), get_args(BracketKind), get_args(HangSchool)


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState(piece=request.args.get("hanger")))


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    name = "hang/_bench.html" if is_htmx() else "hang/page.html"
    return render_template(name, **_panel(here, said)), code


def _how() -> HangState:
    return HangState(
        tightened=request.values.get("loose") != "yes",
        water_kg_m=WET_KG_M if _is("wet") else 0.0,
        without=frozenset({request.values["off"]}) if request.values.get("off") else frozenset(),
    )


def _is(key: str) -> bool:
    return request.values.get(key) == "yes"


def _hung(design: Design, here: AtHand, how: HangState) -> tuple[HungSystem | None, str]:
    """How it hangs; or why it cannot be said."""
    try:
        return solved(design, ("hung", how), lambda: hang(design, here.system, how)), ""
    except InputError as exc:
        return None, str(exc)


def equipment() -> Equipment:
    """Return the shop's stock: the rubbers that it keeps a figure of, the rod and plate that it bends."""
    with transaction() as connection:
        return jobs.equipment(connection)


def catalogue(own: Sequence[Rubber]) -> dict[str, Rubber]:
    """Rubbers by their keys in a form: the list's, then the shop's own."""
    return RUBBERS | {f"shop:{r.name}": r for r in own}


def proposed(here: AtHand, able: Equipment) -> HangAnswer:
    """Ways to hang it, looked for once for a design; its own hangers make no difference."""
    bare = here.design.replace(hangers=())

    def work() -> HangAnswer:
        thickest = None if able.rod_mm is None else float(able.rod_mm)
        answer = propose_hangers(bare, here.system, able.rubbers, thickest)
        return replace(answer, found=tuple(with_its_rods(bare, here.found, one, thickest) for one in answer.found))

    rubbers = tuple(r.model_dump_json() for r in able.rubbers)
    return solved(bare, ("hang it", g.sight.view, rubbers, able.rod_mm), work)


def _asked() -> bool:
    return request.values.get("find") == "yes"


def _panel(here: AtHand, said: FormState) -> dict[str, Any]:
    design, found = here.design, here.found
    how, able = _how(), equipment()
    own, answer = able.rubbers, _answer(here, able)
    at = int(number(request.values.get("at"), 0))
    shown = answer.found[at] if answer and 0 <= at < len(answer.found) else None
    if shown:
        design = hung_so = design.replace(hangers=shown.hangers)
        found = solved(hung_so, ("reviewed",), lambda: review(hung_so))  # what moves goes as these hangers let it
    hung, why = _hung(design, here, how)
    chosen = next((h for h in design.hangers if h.id == said.piece), None) if not shown else None
    faults = _faults(design, found, hung, able) if hung else []
    clashes = _clashes(design, found) if hung and design.hangers else []
    window = window_from_request(extent_of(found.system, design.survey), LAYOUT_TALL_PX, "w-beside")
    factor = sag_factor(hung) if hung else 1
    swings = int(number(request.values.get("swing"), -1))
    swinging = hung is not None and 0 <= swings < len(hung.modes)
    shadows = []
    if hung:
        moved = hung.swung(hung.modes[swings]) if swinging else (hung.pieces, hung.parts)
        shadows = hung_shadows(found.system, moved, SAG_SHOWN_MM if swinging else factor)
    picture = draw_strips(design, found, window, None, sight=g.sight, shadows=shadows)
    wrong = {f.hanger for f in faults if f.code in SPOILS}
    if hung:
        draw_hangers(picture, hung.carried, chosen.id if chosen else "", wrong)
    return {
        "answer": answer,
        "ways_found": [_way(k, one) for k, one in enumerate(answer.found)] if answer else [],
        "at": at,
        "shown": shown,
        "new_points": [_new_point(here, one) for one in answer.points] if answer else [],
        "here": here,
        "step": "hang",
        "said": said,
        "picture": picture,
        "revision": here.number,
        "hung": hung,
        "why": why,
        "factor": factor,
        "chosen": chosen,
        "rows": [_row(design, one) for one in hung.carried] if hung else [],
        "faults": [(say_hung(f, design, g.unit), "touches" if f.code in SPOILS else "tight") for f in faults],
        "clashes": clashes,
        "swings": swings if swinging else None,
        "places": _places(here),
        "points": _points(design),
        "ways": list(WAY_WORDS.items()),
        "rubbers": _rubbers(chosen, own),
        "rubber_key": _rubber_key(chosen, own),
        "also_runs": _also_runs(here, chosen),
        "can_keep": chosen is not None and _rubber_key(chosen, own) == OWN,
        "holds": HOLDS,
        "brackets": BRACKETS,
        "schools": SCHOOLS,
        "school": design.settings.hang_school,
        "unweighed": _unweighed(design) if hung else [],
        "mocked": _mocked(design, here) if hung else None,
        "how": how,
        "modes": _modes(design, hung),
        "engine": design.settings.engine,
        "fires": _fires(design.settings.engine),
        "strained": _strained(design, hung),
        "chosen_name": hanger_name(design, chosen.id) if chosen else "",
        **_metal(design, here, hung, chosen),
        "chosen_rubber": rubber_of(chosen) if chosen else None,
        "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
        "again": {key: request.values.get(key) for key in ("loose", "wet", "off") if request.values.get(key)},
    }


def _clashes(design: Design, reviewed: Review) -> list[tuple[str, str]]:
    """In words with their colour: what comes too near as it moves; what comes down with one rubber lost, and what is
    hit then: nobody asks for the wanted gap any more.
    """
    names = {h.id: f"{hanger_name(design, h.id).lower()} lost" for h in design.hangers}

    def work() -> tuple[list[Finding], list[str]]:
        states, down = lost_states(design, reviewed.system, names)
        return [f for f in hung_findings(reviewed, states) if f.code == "touches"], down

    moving = [f for f in reviewed.findings if f.position and f.code in ("touches", "tight")]
    lost, down = solved(design, ("hung clashes", g.sight.view), work)
    comes_down = [(f"With {names[one]} it comes down: what is left does not hold it.", "touches") for one in down]
    return [
        *((say(f, design, g.unit), "touches" if f.spoils else "tight") for f in moving),
        *comes_down,
        *((say(f, design, g.unit), "touches") for f in lost),
    ]


def _faults(design: Design, reviewed: Review, hung: HungSystem, able: Equipment) -> list[HangFault]:
    """Return the faults of how it hangs, the worst first."""
    every = [
        *hang_faults(design, reviewed.system, hung),
        *rod_faults(design, reviewed, hung),
        *beyond_shop(design, hung, able),
    ]
    return sorted(every, key=lambda fault: fault.code not in SPOILS)


def _answer(here: AtHand, able: Equipment) -> HangAnswer | None:
    """The ways to hang it, where they were asked for and the system is laid."""
    if not _asked():
        return None
    try:
        return proposed(here, able)
    except InputError:
        return None


def _way(k: int, one: HangProposal) -> dict[str, Any]:
    return {
        "at": k,
        "weigh": one.weigh,
        "count": len(one.hangers),
        "sag": one.hung.sag_mm,
        "loads": ", ".join(f"{c.load_n:.0f}" for c in one.hung.carried),
        "broken": broken_rules(one.faults),
        "hz": one.hung.modes[0].hz if one.hung.modes else 0.0,
    }


def _new_point(here: AtHand, one: NewPoint) -> str:
    """Where a new point would help, in words."""
    part = here.design.part(one.part)
    run = here.design.run(one.run)
    over = (part.name or part.item.kind) if part else (run.name or run.id) if run else "the pipe"
    x, y = (format_length(float(c), g.unit, 0) for c in one.place[:2])
    side = "left" if one.place[1] < 0 else "right"
    return (
        f"over the {over}, {x} back and {y.removeprefix('-')} {side} of the middle, within reach of a rod: it "
        f"would carry about {one.load_n:.0f} N"
    )


def _row(design: Design, one: Carried) -> dict[str, Any]:
    rubber = rubber_of(one.hanger)
    most = rubber.most_n * one.hanger.rubbers
    return {
        "id": one.hanger.id,
        "name": hanger_name(design, one.hanger.id),
        "load": one.load_n,
        "kg": one.kg,
        "share": one.share,
        "stretch": one.stretch_mm,
        "most": most,
        "fill": min(1.0, max(0.0, one.load_n / most)),
        "rubber": "solid" if one.hanger.way == "solid" else rubber.name,
        "count": one.hanger.rubbers,
        "how": one.stiff.how,
        "along": one.stiff.along,
        "between": (one.stiff.least, one.stiff.most),
    }


def _places(here: AtHand) -> list[tuple[str, str]]:
    """Where a hanger can be put: parts first, for they are heavy, then pieces of pipe."""
    found = [(f"part:{p.id}", p.name or p.item.kind) for p, _ in here.system.parts]
    for run in here.system.runs:
        found += [
            (
                f"{run.run.id}/{p.piece.id}",
                f"{run.run.name or run.run.id}, piece {p.index + 1}, {format_length(p.length_mm, g.unit, 0)} long",
            )
            for p in run.pieces
            if not isinstance(p.piece, InLine) and p.length_mm > 1.0
        ]
    return found


def _points(design: Design) -> list[tuple[str, str]]:
    return [("", "no point yet"), *((p.id, f"{p.name}, {p.kind}") for p in design.survey.hang_points)]


def _rubbers(chosen: Hanger | None, shop: Sequence[Rubber]) -> list[tuple[str, str]]:
    listed = catalogue(shop)
    own = [(OWN, chosen.rubber.name)] if chosen and chosen.rubber and _rubber_key(chosen, shop) == OWN else []
    return [("", "the usual one"), *((key, one.name) for key, one in listed.items()), *own]


def _rubber_key(chosen: Hanger | None, shop: Sequence[Rubber]) -> str:
    own = chosen.rubber if chosen else None
    return "" if own is None else next((key for key, one in catalogue(shop).items() if one == own), OWN)


def _also_runs(here: AtHand, chosen: Hanger | None) -> list[tuple[str, str]]:
    """The other runs that can hang on a hanger by a bar across."""
    others = [(r.run.id, r.run.name or r.run.id) for r in here.system.runs if chosen and r.run.id != chosen.run]
    return [("", "no other"), *others] if chosen and chosen.run else []


def _unweighed(design: Design) -> list[tuple[str, str, float]]:
    """Parts whose mass nobody said: id, name, the usual mass of their kind [kg]."""
    return [(p.id, p.name or p.item.kind, usual_kg(p.item.kind)) for p in design.parts if p.item.mass_kg is None]


def _mocked(design: Design, here: AtHand) -> dict[str, Any]:
    """Describe the props while it is tacked, and the load on its tacks."""
    found = solved(design, ("mocked up",), lambda: mock_up(design, here.system))
    props = []
    for prop in found.props:
        part, run = design.part(prop.part), design.run(prop.run)
        laid = next(
            (p for r in here.system.runs if r.run.id == prop.run for p in r.pieces if p.piece.id == prop.piece), None
        )
        under = (
            (part.name or part.item.kind)
            if part
            else f"{(run.name or run.id) if run else ''}, piece {laid.index + 1 if laid else '?'}"
        )
        props.append((under, float(prop.place[0]), prop))
    run = design.run(found.at[0]) if found.at else None
    at = f"{run.name or run.id}, piece {found.at[1] + 1}" if run and found.at else ""
    return {
        "props": props,
        "tack_nm": found.tack_nm,
        "at": at,
        "down": found.down_mm,
        "holds": found.tack_nm <= design.settings.rules.tack_nm,
    }


def _modes(design: Design, hung: HungSystem | None) -> list[dict[str, Any]]:
    """The first ways of swinging, with the hanger that goes least in each."""
    if hung is None:
        return []
    out = []
    for mode in hung.modes:
        still = hung.stillest(mode)
        way = int(np.argmax(np.abs(mode.shape).max(axis=0)))
        out.append(
            {
                "hz": mode.hz,
                "way": ("back and forth", "sideways", "up and down")[way],
                "still": hanger_name(design, still.hanger.id) if still else "",
            }
        )
    return out


def _fires(engine: Engine | None) -> tuple[float, float] | None:
    return (engine.fires_hz(engine.idle_rpm), engine.fires_hz(engine.cruise_rpm)) if engine else None


def _strained(design: Design, hung: HungSystem | None) -> list[tuple[str, str]]:
    """Describe the load on flex joints and the engine end."""
    if hung is None:
        return []

    def named(part_id: str) -> str:
        part = design.part(part_id.partition(".")[0])
        return (part.name or part.item.kind) if part else part_id

    flexes = [
        (named(f.name), f"{f.across_n:.0f} N across, {f.pull_n:+.0f} N along, bent {f.bend_nm:.1f} N m")
        for f in hung.flexes
    ]
    return [*flexes, *((named(h.name), f"{h.pull_n:.0f} N of the weight, bent {h.bend_nm:.1f} N m") for h in hung.held)]


def _metal(design: Design, here: AtHand, hung: HungSystem | None, chosen: Hanger | None) -> dict[str, Any]:
    """The rod and bracket of the hanger in hand, each or why there is none, and its picture."""
    one = next((c for c in hung.carried if chosen and c.hanger.id == chosen.id), None) if hung else None
    if one is None or chosen is None:
        return {"metal": None}
    rod, bracket, rod_why, bracket_why = None, None, "", ""
    try:
        rod = rod_for(here.system, one, g.unit)
    except InputError as exc:
        rod_why = str(exc)
    try:
        bracket = bracket_for(design, one, g.unit)
    except InputError as exc:
        bracket_why = str(exc)
    point = next((p for p in design.survey.hang_points if p.id == chosen.hang_point), None)
    hole = np.array(point.point, dtype=float) if point and (bracket or bracket_why) else None
    views = draw_hanger(one, rod, hole)
    kerf = float(design.settings.kerf_mm)
    reach = float(point.old_rod_mm) if point else 0.0
    old = (old_rod_wants(here.system, one), reach) if reach and chosen.way == "rubber" else None
    return {
        "metal": {
            "rod": rod,
            "rod_why": rod_why,
            "bracket": bracket,
            "bracket_why": bracket_why,
            "views": views,
            "tie": tie_for(here.system, chosen),
            "old": old,
            "from_a_metre": from_a_metre(bracket.flat_mm, kerf) if bracket else 0,
        }
    }
