"""Losses of pieces and parts by the methods that practice knows, beside its own friction.

A loss is K of the pressure of the gas in its own bore. The methods of handbooks differ by half and more for the same
bend: the least and the most are its range, their median is used. A part that was measured has its figure.
"""

from __future__ import annotations

import math
import statistics
from dataclasses import dataclass

import numpy as np

from ...facts import PART_KINDS
from ..records import Bend, Mitre, Part, Piece, SegmentedBend
from ..records.hardware import BenchLoss
from .fittings import (
    ENTRANCE_SHARP,
    bend_crane,
    bend_idelchik,
    bend_miller,
    bend_rennels,
    contraction_gradual,
    contraction_sharp,
    expansion_gradual,
    expansion_sharp,
    mitre_blevins,
    mitre_crane,
)
from .flow_loss import share_of_90
from .friction import friction_factor
from .monolith import SQUARE_F_RE, Monolith

ROUGH_RE = 1e8  # fully rough: where the factor no longer hangs on the flow
# elbows of 90 degrees of this many pieces, by radius over bore: duct tables, from memory
DUCT_GORED = {
    3: ((0.75, 0.54), (1.0, 0.42), (1.5, 0.34), (2.0, 0.33)),
    4: ((0.75, 0.50), (1.0, 0.37), (1.5, 0.27), (2.0, 0.24)),
    5: ((0.75, 0.46), (1.0, 0.33), (1.5, 0.24), (2.0, 0.19)),
}
# a honeycomb's wall by its cells per square inch [mm]: ceramic as it is sold, handbook, from memory
CELL_WALL_MM = ((100, 0.43), (200, 0.305), (400, 0.165), (600, 0.109), (900, 0.064))
USUAL_CELLS = 400
# friction of what is not smooth pipe, as this many times a pipe's: least, usual, most. Common practice, no source.
PERFORATED = (1.5, 2.5, 5.0)
FLEX = (1.0, 2.5, 6.0)
UNSURE = (0.6, 1.0, 1.6)  # a computed can or joint: how far a real one is off, common practice


@dataclass(frozen=True)
class Loss:
    """K of a piece: least, usual, most; each method with its K; friction as a multiple of a pipe's: least, usual, most;
    and the laminar share of a honeycomb [1/m].
    """

    k: tuple[float, float, float] = (0.0, 0.0, 0.0)
    methods: tuple[tuple[str, float], ...] = ()
    rubs: tuple[float, float, float] = (1.0, 1.0, 1.0)
    laminar: float = 0.0

    @classmethod
    def of(cls, methods: tuple[tuple[str, float], ...]) -> Loss:
        ks = [k for _, k in methods]
        return cls((min(ks), statistics.median(ks), max(ks)), methods)


def _between(table: tuple[tuple[float, float], ...], at: float) -> float:
    return float(np.interp(at, [x for x, _ in table], [y for _, y in table]))


def _rough_factor(bore_mm: float, rough_mm: float) -> float:
    return friction_factor(ROUGH_RE, rough_mm / bore_mm)


def bend_loss(radius_mm: float, angle_deg: float, bore_mm: float, rough_mm: float) -> Loss:
    """A smooth bend beside its own friction, each method by its own way with the angle."""
    r, factor = radius_mm / bore_mm, _rough_factor(bore_mm, rough_mm)
    return Loss.of(
        (
            ("Crane TP-410", bend_crane(r, factor, angle_deg)),
            ("Idelchik 6-1", share_of_90(angle_deg) * bend_idelchik(r)),
            ("Rennels and Hudson", bend_rennels(r, angle_deg, factor)),
            ("Miller", bend_miller(r, angle_deg)),
        )
    )


def mitre_loss(turn_deg: float, bore_mm: float, rough_mm: float) -> Loss:
    """One mitre."""
    crane = mitre_crane(turn_deg, _rough_factor(bore_mm, rough_mm)) - mitre_crane(0.0, _rough_factor(bore_mm, rough_mm))
    return Loss.of((("Crane TP-410", crane), ("Blevins", mitre_blevins(turn_deg))))


def slices_loss(count: int, each_deg: float, radius_mm: float, bore_mm: float, rough_mm: float) -> Loss:
    """A bend of slices: as an elbow of this many pieces, and as this many mitres, which is the most."""
    one = mitre_loss(each_deg, bore_mm, rough_mm)
    pieces = min(5, max(3, round(90.0 / each_deg) + 1))
    gored = share_of_90(min(180.0, count * each_deg)) * _between(DUCT_GORED[pieces], radius_mm / bore_mm)
    return Loss.of(
        (*((f"{name}, {count} mitres", count * k) for name, k in one.methods), (f"duct tables, {pieces} pieces", gored))
    )


def step_loss(bore_mm: float, behind_mm: float, angle_deg: float | None = None) -> float:
    """A change of bore on the smaller one's pressure: sudden, or over a cone of a whole angle."""
    if abs(bore_mm - behind_mm) < 1e-6:
        return 0.0
    if bore_mm < behind_mm:
        sudden = expansion_sharp(bore_mm, behind_mm)
        return sudden if angle_deg is None else min(sudden, expansion_gradual(bore_mm, behind_mm, min(45.0, angle_deg)))
    sudden = contraction_sharp(bore_mm, behind_mm)
    return sudden if angle_deg is None else min(sudden, contraction_gradual(bore_mm, behind_mm, min(45.0, angle_deg)))


def can_across_mm(part: Part) -> float:
    """The round that has the section of a part's widest body."""
    areas = [b.width_mm * b.height_mm - (4 - math.pi) * b.corner_mm**2 for b in part.item.bodies]
    return math.sqrt(4 / math.pi * max(areas)) if areas else 0.0


def can_length_mm(part: Part) -> float:
    """How long its widest body is, along the part."""
    return max((float(b.length_mm) for b in part.item.bodies if b.axis is None), default=0.0)


def measured_loss(bench: BenchLoss, bore_mm: float) -> Loss:
    """A part by what it was measured to take: p = K rho v^2 / 2 with the bench's own air."""
    density = 1.2041 * 293.15 / (273.15 + bench.air_c)
    speed = bench.kg_s / (density * math.pi / 4 * (bore_mm / 1000) ** 2)
    k = bench.pa / (density * speed**2 / 2)
    return Loss((0.9 * k, k, 1.1 * k), ((f"measured{f' by {bench.by}' if bench.by else ''}", k),), rubs=(0.0, 0.0, 0.0))


def part_loss(part: Part, bore_mm: float, rough_mm: float) -> Loss:
    """A part with one way through."""
    item = part.item
    if item.measured is not None:
        return measured_loss(item.measured, bore_mm)
    if item.kind == "cat":
        return _catalyst(part, bore_mm)
    if PART_KINDS[item.kind].is_silencer:
        return _can(part, bore_mm)
    if item.kind == "flex":
        return Loss(rubs=FLEX, methods=(("corrugated or with a liner", 0.0),))
    if item.kind == "pie-pack" and item.slices is not None:
        s = item.slices
        return slices_loss(s.count, s.turn_each_deg, float(s.clr_mm), bore_mm, rough_mm)
    return Loss()


def _can(part: Part, bore_mm: float) -> Loss:
    """Straight through: a rough tube. Chambered: out into the can and in again, twice; three passes: three times with
    two turns back.
    """
    inside = part.item.inside or "straight through"
    if inside == "straight through":
        return Loss(rubs=PERFORATED, methods=(("perforated tube, as rough pipe", 0.0),))
    wide = max(can_across_mm(part), bore_mm)
    once = expansion_sharp(bore_mm, wide) + ENTRANCE_SHARP * (1 - (bore_mm / wide) ** 2)
    whole = 2 * once if inside == "chambered" else 3 * once + 2 * mitre_blevins(90.0)
    low, usual, high = (whole * share for share in UNSURE)
    return Loss((low, usual, high), ((f"{inside}: out into the can and in again (Borda and Carnot)", whole),))


def substrate_of(part: Part) -> Monolith:
    """A catalyst's honeycomb, by its cells and the walls that go with them."""
    cells = float(part.item.cells or USUAL_CELLS)
    return Monolith.of(cells, _between(CELL_WALL_MM, cells))


def _catalyst(part: Part, bore_mm: float) -> Loss:
    """Into the can, along its cells, out again: the cells' friction is laminar (Shah and London), their ends by
    area.
    """
    wide = max(can_across_mm(part), bore_mm)
    stone, cells = substrate_of(part), float(part.item.cells or USUAL_CELLS)
    by_area = (bore_mm / wide) ** 4
    ends = (0.4 * (1 - stone.open_share) + (1 - stone.open_share) ** 2) * by_area / stone.open_share**2
    cones = 0.5 * expansion_sharp(bore_mm, wide) + 0.1 * contraction_sharp(wide, bore_mm)
    long_m = can_length_mm(part) / 1000.0
    slower = (bore_mm / wide) ** 2 / stone.open_share
    laminar = SQUARE_F_RE / 2 * long_m / (stone.bore_mm / 1000.0) ** 2 * slower
    k = ends + cones
    return Loss(
        (0.5 * k, k, 2.0 * k), ((f"{cells:.0f} cells: its cones and ends", k),), rubs=(0.0, 0.0, 0.0), laminar=laminar
    )


def piece_loss(piece: Piece, bore_mm: float, rough_mm: float) -> Loss:
    """A piece of pipe beside its own friction."""
    if isinstance(piece, Bend):
        return bend_loss(float(piece.clr_mm), piece.angle_deg, bore_mm, rough_mm)
    if isinstance(piece, Mitre):
        return mitre_loss(piece.turn_deg, bore_mm, rough_mm)
    if isinstance(piece, SegmentedBend):
        return slices_loss(piece.slices, piece.turn_each_deg, float(piece.clr_mm), bore_mm, rough_mm)
    return Loss()
