"""The shelf's panel of the Layout page: parts, runs, open ports, the way of the gas, the chosen part."""

from __future__ import annotations

from typing import Any, get_args

from flask import g

from ...core.editing import differences
from ...core.hardware import SHELF
from ...core.laying import System, open_ports, path, system_of
from ...core.records import Design, MovesWith, Part, Run, Surface
from ...core.review import Section, sections
from ...core.space import heading_deg, inclination_deg
from ...core.units import format_length
from ...facts import Metal

WAYS = {"forward": (0, -1), "back": (0, 1), "left": (1, -1), "right": (1, 1), "down": (2, -1), "up": (2, 1)}
TURNS = {
    "turn left": ("heading", -1),
    "turn right": ("heading", 1),
    "slope up": ("slope", 1),
    "slope down": ("slope", -1),
    "roll": ("roll", 1),
}

MOVES_WORDS: dict[MovesWith, str] = {
    "worked out": "as worked out",
    "engine": "with the engine",
    "hung": "hung, behind a flex",
    "body": "not at all",
}


def panel(design: Design, wanted: str | None) -> dict[str, Any]:
    """The panel of a design, with a part chosen."""
    system = system_of(design)
    opened = open_ports(design, system)
    outlets, inlets = [p for p in opened if p.port.role != "in"], [p for p in opened if p.port.role != "out"]
    inlets.sort(key=lambda p: bool(outlets) and p.part.id == outlets[0].part.id)  # nothing is joined to itself
    chosen = design.part(wanted or "")
    return {
        "shelf": list(SHELF.values()),
        "parts": [_row(p, design) for p in design.parts],
        "chosen_part": chosen,
        "chosen_place": _place_fields(chosen),
        "outlets": [(p.name, _port_words(p.part, p.port.id)) for p in outlets],
        "inlets": [
            (p.name, _port_words(p.part, p.port.id)) for p in inlets if {q.part.id for q in outlets} - {p.part.id}
        ],
        "run_rows": [_run_row(r, design) for r in design.runs],
        "ways": path(design, system),
        "sections": [section_row(s, design) for s in sections(design, system)],
        "moves": list(WAYS),
        "turns": list(TURNS),
        "snaps": _snaps(design, system, chosen),
        "movers": [(m, MOVES_WORDS[m]) for m in get_args(MovesWith)],
        "metals": [("", "as the pipe"), *((m, m) for m in get_args(Metal))],
        "surfaces": [(s, s) for s in get_args(Surface)],
    }


def _snaps(design: Design, system: System, chosen: Part | None) -> list[tuple[str, str]]:
    """Return the choices for the chosen part: value and words."""
    if chosen is None:
        return []
    out = [("centre", "the centre line")]
    if design.survey.rails:
        out += [("left-rail", "the left rail"), ("right-rail", "the right rail")]
    out += [(f"hang:{h.id}", f"under {h.name}") for h in design.survey.hang_points]
    out += [
        (f"port:{q.name}", f"in line with {_port_words(q.part, q.port.id)}")
        for q in system.ports
        if q.part.id != chosen.id and q.port.role != "in"
    ]
    out += [(f"mirror:{p.id}", f"opposite {p.name or p.item.kind}") for p in design.parts if p.placed and p != chosen]
    return out


def section_row(section: Section, design: Design) -> str:
    """A section in words: what it is made of, how long, how heavy, the box around it, where it comes apart."""
    mass = f"{section.mass_kg:.1f} kg" if section.mass_kg is not None else "mass not known"
    box = " x ".join(format_length(v, g.unit, 0, suffix=i == 2) for i, v in enumerate(section.size_mm))
    long = format_length(section.length_mm, g.unit, 0)
    joints = f"; comes apart at {', '.join(section.joints)}" if section.joints else ""
    return f"{section_name(section, design)}: {long} of pipe, {mass}, in a box of {box}{joints}"


def section_name(section: Section, design: Design) -> str:
    """Describe a section's pieces."""
    said = []
    for run_id in dict.fromkeys(run for run, _ in section.pieces):
        run, numbers = design.run(run_id), [i + 1 for r, i in section.pieces if r == run_id]
        span = f"piece {numbers[0]}" if len(numbers) == 1 else f"pieces {numbers[0]} to {numbers[-1]}"
        said.append(f"{run.name or run.id} {span}" if run and len(design.runs) > 1 else span)
    names = [p.name or p.item.kind for p in design.parts if p.id in section.parts]
    return ", ".join(said + names)


def _port_words(part: Part, port: str) -> str:
    return f"{part.name or part.item.kind}: {port.replace('-', ' ')}"


def _row(part: Part, design: Design) -> dict[str, Any]:
    carried = next((r for r in design.runs if any(getattr(p, "part", None) == part.id for p in r.pieces)), None)
    if part.placed:
        x, y, z = (format_length(v, g.unit, 0) for v in part.placed.point)
        where = f"{x} back, {y} right, {z} up"
    else:
        where = f"carried by {carried.name or carried.id}" if carried else "on the shelf, not placed"
    return {
        "id": part.id,
        "name": part.name or part.item.kind,
        "kind": part.item.kind,
        "where": where,
        "locked": part.locked,
        "placed": part.placed is not None,
    }


def _run_row(run: Run, design: Design) -> dict[str, Any]:
    twin = design.run(run.twin_of) if run.twin_of else None
    said = ""
    if twin is not None:
        unlike = differences(twin, run)
        said = f"mirror image of {twin.name or twin.id}" + (f"; differs in {'; '.join(unlike[:3])}" if unlike else "")
    od = format_length(run.tube.od_mm, g.unit)
    return {
        "id": run.id,
        "name": run.name or run.id,
        "twin": said,
        "linked": run.twin_linked,
        "words": f"{len(run.pieces)} pieces, {od}",
    }


def _place_fields(part: Part | None) -> dict[str, str]:
    if part is None or part.placed is None:
        return {}
    at = part.placed.pose()
    places = zip(("p_x", "p_y", "p_z"), part.placed.point, strict=True)
    out = {key: format_length(v, g.unit, 2, suffix=False) for key, v in places}
    return out | {
        "p_heading": f"{round(heading_deg(at.flow) or 0.0, 3):g}",
        "p_slope": f"{round(inclination_deg(at.flow), 3):g}",
    }
