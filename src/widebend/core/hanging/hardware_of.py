"""The metal of one hanger as it hangs: its rod, and the bracket from the vehicle's hole to the rubber's pin."""

from __future__ import annotations

import numpy as np

from ..errors import InputError
from ..laying import System
from ..records import Design, Hanger
from ..space import Vector
from .brackets import Bracket, bracket_line, bracket_of, tube_bracket_of
from .hung import Carried
from .model import held_places, pin_of
from .rods import Rod, rod_of
from .rubbers import rubber_of

BOLT_MM, PIN_MM = 8.5, 10.5  # holes for an M8 bolt and a 10 mm pin
TIE_OVER_MM = 20.0  # a bar across two pipes lies so far over each: room for a weld, common practice, no source
WELD_MM = 20.0  # of an old rod left to weld on: the same
LEAST_BRACKET_MM = 5.0  # a pin nearer to its hole than this is on the bolt itself


def has_rod(hanger: Hanger) -> bool:
    """Whether a new rod is bent for it."""
    return hanger.way == "rubber" and hanger.hold in ("rod", "cradle")


def tie_for(system: System, hanger: Hanger) -> float | None:
    """The bar across two pipes that hang on one hanger, cut so long [mm]; none for one pipe."""
    held = held_places(hanger, system)
    if len(held) != 2:
        return None
    (one, a), (other, b) = held
    apart = float(np.linalg.norm(b - a)) - float(one.tube.od_mm + other.tube.od_mm) / 2
    return max(0.0, apart) + 2 * TIE_OVER_MM


def old_rod_wants(system: System, one: Carried) -> float:
    """How far an old rod must reach from the rubber's eye to be welded to what it holds [mm]."""
    held = held_places(one.hanger, system)
    if not held:
        return float(np.linalg.norm(one.place - one.eye)) + WELD_MM
    piece, place = held[0]
    return float(np.linalg.norm(place - one.eye)) - float(piece.tube.od_mm) / 2 + WELD_MM


def rod_for(system: System, one: Carried, unit: str = "mm") -> Rod:
    """The rod of a hanger as it is loaded. Raises InputError where there is no room, or where it takes none."""
    hanger = one.hanger
    if hanger.way != "rubber":
        raise InputError("a solid tie has no rod" if hanger.way == "solid" else "a bobbin is bolted on by its studs")
    if not has_rod(hanger):
        raise InputError("a strap goes round the pipe" if hanger.hold == "strap" else "the old rod is welded on again")
    wide = float(rubber_of(hanger).wide_mm)
    args = float(hanger.rod_mm), wide * hanger.rubbers, one.load_n
    hands = {"left_hand": hanger.rod_left, "hook_ahead": hanger.hook_ahead}
    slope = hanger.slope_deg
    if hanger.part:
        body = max((b for b in system.bodies if b.part.id == hanger.part), default=None, key=lambda b: b.bulk)
        if body is None:
            raise InputError("that part has no body to weld a rod to")
        middle = body.start + float((one.place - body.start) @ body.flow) * body.flow
        out = abs(body.u[2]) * (body.half_u + body.radius_mm) + abs(body.v[2]) * (body.half_v + body.radius_mm)
        return rod_of(one.eye, middle, body.flow, 2 * out, *args, **hands, slope_deg=slope, unit_name=unit)
    held = held_places(hanger, system)
    if not held:
        raise InputError("the pipe it holds is not laid")
    piece, place = held[0]
    way = piece.outlet.point - piece.inlet.point
    return rod_of(one.eye, place, way, float(piece.tube.od_mm), *args, **hands, slope_deg=slope, unit_name=unit)


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
    if one.hanger.bracket == "tube":
        return tube_bracket_of(off, BOLT_MM, PIN_MM, one.load_n, unit=unit)
    return bracket_of(off, BOLT_MM, PIN_MM, one.load_n, k=design.settings.rules.k_factor, unit=unit)


def bracket_way(design: Design, one: Carried) -> Vector | None:
    """The middle line of a hanger's bracket (n, 3); None where it takes none."""
    point = next((p for p in design.survey.hang_points if p.id == one.hanger.hang_point), None)
    pin = pin_of(design, one.hanger)
    if point is None or pin is None or float(np.linalg.norm(pin - np.array(point.point))) < LEAST_BRACKET_MM:
        return None
    return bracket_line(np.array(point.point, dtype=float), pin)
