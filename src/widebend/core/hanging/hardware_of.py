"""The metal of one hanger as it hangs: its rod, and the bracket from the vehicle's hole to the rubber's pin."""

from __future__ import annotations

import numpy as np

from ..errors import InputError
from ..laying import System
from ..records import Design
from .brackets import Bracket, bracket_of
from .hung import Carried
from .model import pin_of
from .rods import Rod, rod_of
from .rubbers import rubber_of

BOLT_MM, PIN_MM = 8.5, 10.5  # holes for an M8 bolt and a 10 mm pin
LEAST_BRACKET_MM = 5.0  # a pin nearer to its hole than this is on the bolt itself


def rod_for(system: System, one: Carried, unit: str = "mm") -> Rod:
    """The rod of a hanger as it is loaded. Raises InputError where there is no room, or where it takes none."""
    hanger = one.hanger
    if hanger.way != "rubber":
        raise InputError("a solid tie has no rod" if hanger.way == "solid" else "a bobbin is bolted on by its studs")
    wide = float(rubber_of(hanger).wide_mm)
    args = float(hanger.rod_mm), wide * hanger.rubbers, one.load_n
    hands = {"left_hand": hanger.rod_left, "hook_ahead": hanger.hook_ahead}
    if hanger.part:
        body = max((b for b in system.bodies if b.part.id == hanger.part), default=None, key=lambda b: b.bulk)
        if body is None:
            raise InputError("that part has no body to weld a rod to")
        middle = body.start + float((one.place - body.start) @ body.flow) * body.flow
        out = abs(body.u[2]) * (body.half_u + body.radius_mm) + abs(body.v[2]) * (body.half_v + body.radius_mm)
        return rod_of(one.eye, middle, body.flow, 2 * out, *args, **hands, unit_name=unit)
    run = next((r for r in system.runs if r.run.id == hanger.run), None)
    piece = next((p for p in run.pieces if p.piece.id == hanger.piece), None) if run else None
    if piece is None:
        raise InputError("the pipe it holds is not laid")
    way = piece.outlet.point - piece.inlet.point
    return rod_of(one.eye, one.place, way, float(piece.tube.od_mm), *args, **hands, unit_name=unit)


def bracket_for(design: Design, one: Carried, unit: str = "mm") -> Bracket | None:
    """The bracket of a hanger whose pin stands off its hang point; None where the rubber is on the point itself. Raises
    InputError where a bent bar does not do it.
    """
    point = next((p for p in design.survey.hang_points if p.id == one.hanger.hang_point), None)
    pin = pin_of(design, one.hanger)
    if point is None or pin is None:
        return None
    off = pin - np.array(point.point, dtype=float)
    if float(np.linalg.norm(off)) < LEAST_BRACKET_MM:
        return None
    return bracket_of(off, BOLT_MM, PIN_MM, one.load_n, k=design.settings.rules.bend_k, unit=unit)
