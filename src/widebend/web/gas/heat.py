"""The heat sheet: how hot gas, skin and what is near get by a state of the engine; what keeps it off; growth."""

from __future__ import annotations

from typing import Any, get_args

import numpy as np
from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import add_cover, without_cover
from ...core.errors import EditError
from ...core.gas import FlowSolution
from ...core.heat import (
    TEMPER,
    Gone,
    Near,
    gone,
    heat_near,
    jet_c,
    plume_rise_k,
    reach_mm,
    struck,
    temper_of,
    view_factor,
)
from ...core.laying import needed_gap
from ...core.records import CoverKind, Design, Growth, HeatGaps, InLine
from ...core.units import format_length, format_temperature
from ...facts import PART_KINDS
from ...store.database import Connection
from ..drawing.gas_lines import heat_lines
from ..drawing.strip import Shadow
from ..layout.sheets import render_sheet
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_survey, run_edit
from ..page.reader import Reader
from .state import asked, context, edited, name_of, place_words

room = Blueprint("heat", __name__, url_prefix="/jobs/<int:job_id>/layout/heat")

BEHIND_MM = (100.0, 300.0, 600.0)
KEYED = 3  # parts of a run's key that say which piece


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState())


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    """The sheet."""
    now = asked(here)
    design, breath = here.design, now.breath
    near = heat_near(design, breath) if breath else []
    return render_sheet(
        here,
        said,
        code,
        "heat.show",
        "gas/_heat.html",
        lead="gas/_lead_heat.html",
        shadows=_tints(breath) if breath else None,
        ribbons=[heat_lines(breath, g.unit)] if breath else [],
        near=[_near_row(n, design) for n in near],
        worst=_worst(near, design),
        skins=_skins(design, breath),
        temper=[(i, words, from_c) for i, (from_c, words) in enumerate(TEMPER)],
        grown=_grown(here),
        outlets=_outlets(design, breath) if breath else [],
        struck=_struck(design, breath),
        covers=[_cover_words(design, c.id) for c in design.covers],
        kinds=list(get_args(CoverKind)),
        over=_over(design),
        gaps=design.settings.heat_gaps,
        gap_ways=list(get_args(HeatGaps)),
        growth=design.settings.growth,
        growths=list(get_args(Growth)),
        **context(here, now, "heat"),
    )


def _tints(breath: FlowSolution) -> list[Shadow]:
    """The pipe in the colour that its skin takes."""
    out = []
    for profile in breath.profiles:
        way = breath.ways.ways[profile.way]
        for k, stretch in enumerate(way.stretches):
            here = profile.of == k
            hottest = float(profile.skin_c[here].max())
            width = float(profile.outside_mm[here].mean())
            out.append(Shadow(stretch.points, width, f"temper t{temper_of(hottest, stretch.material)}"))
    return out


def _near_row(near: Near, design: Design) -> dict[str, Any]:
    return {
        "id": near.thing.id,
        "name": near.thing.name,
        "bears": near.bears_c,
        "gap": near.gap_mm,
        "reaches": near.reaches_c,
        "skin": near.skin_c,
        "bad": near.too_hot,
        "maybe": near.maybe,
        "needs": near.needs_mm,
        "wrapped": near.wrapped_mm,
        "shielded": near.shielded_mm,
        "has_shield": near.thing.shielded,
        "above": near.above,
        "why": _why(near, design, design.settings.rules.ambient_c),
        "rule": needed_gap(near.thing, design.settings.rules),
        "where": place_words(design, near.stretch),
    }


def _why(near: Near, design: Design, air_c: float) -> list[str]:
    """Show how a thing's temperature was calculated."""
    pipe, unit = near.pipe, g.unit
    sees = view_factor(pipe.radius_mm, near.gap_mm)
    said = [
        f"skin {format_temperature(near.skin_c.low, unit)} to {format_temperature(near.skin_c.high, unit)}, "
        f"{format_length(2 * pipe.radius_mm, unit)} across, emissivity {pipe.black:g}",
        f"the thing sees {sees:.2f} of what is before it as pipe: r / (r + g), as if the pipe ran on past it",
    ]
    if near.above:
        rise = plume_rise_k(pipe.by_air_w_m(air_c), near.gap_mm + pipe.radius_mm, air_c)
        said.append(f"it lies in the plume: air {rise * (1 if unit == 'mm' else 1.8):.0f} degrees warmer there (Rouse)")
    said.append("its face, its back insulated, takes radiation and gives it up again: 0.9 black, 8 W/m² K of still air")
    if near.thing.shielded:
        said.append("a bright sheet half way, 0.15 black, in balance by itself, stands between")
    return said


def _worst(near: list[Near], design: Design) -> dict[str, Any] | None:
    bad = next((n for n in near if n.too_hot or n.maybe), None)
    return _near_row(bad, design) if bad else None


def _skins(design: Design, breath: FlowSolution | None) -> list[dict[str, Any]]:
    """Each piece's skin, hottest first."""
    if breath is None:
        return []
    rows = [t for t in breath.taken if t.stretch is not None]
    rows.sort(key=lambda t: -t.skin_c.usual)
    return [
        {
            "name": name_of(design, t),
            "gas": t.gas_c,
            "skin": t.skin_c,
            "temper": temper_of(t.skin_c.usual, t.stretch.material) if t.stretch else 0,
        }
        for t in rows
    ]


def _grown(here: AtHand) -> list[dict[str, Any]]:
    return [_gone_row(one) for one in gone(here.design, here.system)]


def _gone_row(one: Gone) -> dict[str, Any]:
    x, y, z = (float(v) for v in one.shift_mm)
    words = [
        f"{format_length(abs(v), g.unit)} {way}"
        for v, way in (
            (x, "back" if x > 0 else "forward"),
            (y, "right" if y > 0 else "left"),
            (z, "up" if z > 0 else "down"),
        )
        if abs(v) >= 0.3
    ]
    return {
        "name": one.name,
        "flex": one.is_flex,
        "mm": float(np.linalg.norm(one.shift_mm)),
        "words": ", ".join(words) or "stays",
        "skin": one.skin_c,
    }


def _outlets(design: Design, breath: FlowSolution) -> list[dict[str, Any]]:
    """Return the jet behind each end, and how far it still sets dry grass on fire."""
    air, out = breath.around_c, []
    for i in breath.ways.ends:
        way = breath.ways.ways[i]
        last, profile = way.stretches[-1], next(p for p in breath.profiles if p.way == i)
        gas = float(profile.gas_c[-1])
        name = last.part.name or last.part.item.kind if last.part else place_words(design, last.key)
        out.append(
            {
                "name": name,
                "gas": gas,
                "grass": reach_mm(gas, last.leaves_mm, design.settings.rules.grass_c, air),
                "at": [(mm, jet_c(gas, last.leaves_mm, mm, air)) for mm in BEHIND_MM],
            }
        )
    return out


def _struck(design: Design, breath: FlowSolution | None) -> list[tuple[str, str, float, float, bool]]:
    """Return the things that the gas blows on: outlet, thing, how far behind it, how hot, whether too hot."""
    found = struck(design, breath) if breath else []
    return [(place_words(design, s.outlet), s.thing.name, s.behind_mm, s.jet_c, s.too_hot) for s in found]


def _cover_words(design: Design, cover_id: str) -> tuple[str, str]:
    cover = next(c for c in design.covers if c.id == cover_id)
    part, run = design.part(cover.part or ""), design.run(cover.run or "")
    if part is not None:
        return cover.id, f"{cover.kind} over {part.name or part.item.kind}"
    assert run is not None  # the record looked after that
    ids = [p.id for p in run.pieces]
    ends = [ids.index(p) + 1 if p in ids else usual for p, usual in ((cover.first, 1), (cover.last, len(ids)))]
    return cover.id, f"{cover.kind} over {run.name or run.id}, pieces {ends[0]} to {ends[1]}"


def _over(design: Design) -> list[tuple[str, str]]:
    """Return the choices a cover can go over: whole runs, single pieces, cans."""
    out = [(f"run/{r.id}", f"all of {r.name or r.id}") for r in design.runs if r.pieces]
    out += [
        (f"piece/{r.id}/{p.id}", f"{r.name or r.id}, piece {i + 1}")
        for r in design.runs
        for i, p in enumerate(r.pieces)
        if not isinstance(p, InLine)
    ]
    return out + [(f"part/{p.id}", p.name or p.item.kind) for p in design.parts if PART_KINDS[p.item.kind].has_inside]


@room.post("/cover")
def cover(job_id: int) -> ResponseReturnValue:
    """Put a cover over pipe or a part."""

    def change(here: AtHand, reader: Reader) -> tuple[Design, str]:
        kind = reader.choice("kind", get_args(CoverKind), "wrap")
        over = request.form.get("over", "").split("/")
        thick = reader.length("thick", 0.05, 60.0) if reader.given("thick") else None
        reader.finish()
        if over[0] == "part":
            return add_cover(here.design, kind, "", part=over[-1], thick_mm=thick), f"put a {kind} on"  # type: ignore[arg-type]
        piece = over[2] if len(over) == KEYED else ""
        made = add_cover(here.design, kind, over[1] if len(over) > 1 else "", piece, piece, thick_mm=thick)  # type: ignore[arg-type]
        return made, f"put a {kind} on"

    return edited(job_id, "heat", render, change)


@room.post("/uncover")
def uncover(job_id: int) -> ResponseReturnValue:
    gone = request.form.get("id", "")
    return edited(job_id, "heat", render, lambda here, _: (without_cover(here.design, gone), "took the cover off"))


@room.post("/gaps")
def gaps(job_id: int) -> ResponseReturnValue:
    """Return the rule that gaps to heat-shy things follow: the shop's rule, or the skin of the pipe beside."""

    def change(here: AtHand, reader: Reader) -> tuple[Design, str]:
        way = reader.choice("gaps", get_args(HeatGaps), "fixed")
        reader.finish()
        settings = here.design.settings.replace(heat_gaps=way)
        return here.design.replace(settings=settings), "gaps by the shop's rule" if way == "fixed" else (
            f"gaps by the heat {way}"
        )

    return edited(job_id, "heat", render, change)


@room.post("/growth")
def growth(job_id: int) -> ResponseReturnValue:
    """How a review lets the hot system grow."""

    def change(here: AtHand, reader: Reader) -> tuple[Design, str]:
        way = reader.choice("growth", get_args(Growth), "one mean")
        reader.finish()
        settings = here.design.settings.replace(growth=way)
        return here.design.replace(settings=settings), f"growth {way}"

    return edited(job_id, "heat", render, change)


@room.post("/shield")
def shield(job_id: int) -> ResponseReturnValue:
    """A bright sheet stands before a thing, or is taken away."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        survey, thing_id = here.design.survey, request.form.get("thing", "")
        thing = survey.thing(thing_id)
        if thing is None:
            raise EditError("that thing is no longer here")
        now = not thing.shielded
        things = tuple(t.replace(shielded=now) if t.id == thing_id else t for t in survey.things)
        why = f"{'put a shield before' if now else 'took the shield from'} {thing.name}"
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_survey(connection, here, survey.replace(things=things), why)

    state = request.form.get("state") or None
    return run_edit(job_id, said, keep, render, lambda: url_for("heat.show", job_id=job_id, state=state))
