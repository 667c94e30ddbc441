"""Five whole systems beside a CAD kernel: mass and volume of all pipe within 0.1 %, distances within 0.1 mm."""

import itertools
from collections.abc import Callable

import numpy as np
import pytest

from tests.outside import cad
from widebend.core.geometry import HEEL, straight_row
from widebend.core.laying import (
    LaidPiece,
    System,
    centre_line,
    obstacles,
    system_of,
    system_surfaces,
    thing_surface,
)
from widebend.core.laying.surface import body_surface, tube_surface
from widebend.core.records import Design, HalfSpace, Mitre, SegmentedBend
from widebend.core.review import review, sections, solid_of
from widebend.core.review.nearest import Gap
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x
from widebend.facts import METALS

SYSTEMS = [cat_back, twin_x, low_truck, quad_rear, pie_downpipe]


def _metal(system: System) -> float:
    """Volume of all tube walls by the kernel [mm3]: outside less inside, each piece a swept disc or cut wedges."""
    total = 0.0
    for run, tube in zip(system.runs, system.tubes, strict=True):
        for piece in run.pieces:
            rows = [r for r, owner in zip(tube.rows, tube.piece, strict=True) if owner == piece.index]
            if isinstance(piece.piece, SegmentedBend):
                total += _wedges(piece)
            elif not isinstance(piece.piece, Mitre) and piece.piece.kind != "part":
                for row in rows:
                    inside = row.copy()
                    inside[2] -= piece.tube.wall_mm
                    total += cad.volume(cad.tube(row)) - cad.volume(cad.tube(inside))
    return total


def _wedges(piece: LaidPiece) -> float:
    """Slices as the kernel cuts them: a long cylinder between its two mitre planes."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeHalfSpace
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

    line, total = centre_line(piece), 0.0
    corners = [p for i, p in enumerate(line) if i == 0 or np.linalg.norm(p - line[i - 1]) > 1e-9]
    straights: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
    for a, b in itertools.pairwise(corners):
        way = (b - a) / np.linalg.norm(b - a)
        if straights and way @ straights[-1][2] > 1 - 1e-9:
            straights[-1] = (straights[-1][0], b, way)
        else:
            straights.append((a, b, way))
    for k, (a, b, w) in enumerate(straights):
        first = piece.inlet.flow if k == 0 else straights[k - 1][2] + w
        last = piece.outlet.flow if k == len(straights) - 1 else straights[k + 1][2] + w
        for sign, r in ((1, piece.tube.od_mm / 2), (-1, piece.tube.od_mm / 2 - piece.tube.wall_mm)):
            bar = cad.tube(straight_row(a - 60 * w, w, float(np.linalg.norm(b - a)) + 120, float(r)))
            for at, normal, inward in ((a, first, 1.0), (b, last, -1.0)):
                face = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(*map(float, at)), gp_Dir(*map(float, normal)))).Face()
                keep = at + inward * normal
                half = BRepPrimAPI_MakeHalfSpace(face, gp_Pnt(*map(float, keep))).Solid()
                bar = BRepAlgoAPI_Common(bar, half).Shape()
            total += sign * cad.volume(bar)
    return total


@pytest.mark.parametrize("make", SYSTEMS)
def test_mass_of_all_pipe_is_the_kernels(make: Callable[[], Design]) -> None:
    design = make()
    system = system_of(design)
    density = METALS[design.runs[0].tube.material].density_kg_m3
    bare = design.replace(parts=tuple(p.replace(item=p.item.replace(mass_kg=0.0)) for p in design.parts))
    ours = sum(section.mass_kg or 0.0 for section in sections(bare, system_of(bare)))
    assert ours == pytest.approx(_metal(system) * density * 1e-9, rel=1e-3)


@pytest.mark.parametrize("make", SYSTEMS)
def test_the_nearest_things_are_as_far_as_the_kernel_says(make: Callable[[], Design]) -> None:
    """For every run its three nearest bounded things, at rest and cold and without joints, against the CAD distance.

    Heels are left out there (tests/outside/test_mitres.py has them): up to 0.3 % of the radius for 9 deg slices.
    """
    design = make()
    runs = tuple(r.replace(joints=()) for r in design.runs)
    rules = design.settings.rules.replace(hanger_swing_mm=0.0, hot_rise_k=0.0)
    still = design.replace(runs=runs, settings=design.settings.replace(rules=rules))
    found = review(still)
    compared = 0
    for run, tube in zip(found.system.runs, found.system.tubes, strict=True):
        nearest: dict[str, Gap] = {}
        for g in found.gaps:
            thing = g.obstacle.thing
            if g.run == run.run.id and not isinstance(thing.shape, HalfSpace) and not g.position:
                nearest[thing.id] = min(g, nearest.get(thing.id, g), key=lambda gap: gap.gap_mm)
        slack = 0.12 if any(isinstance(p.piece, SegmentedBend) for p in run.pieces) else 0.0
        for gap in sorted((g for g in nearest.values() if g.gap_mm > 0), key=lambda g: g.gap_mm)[:3]:
            theirs = min(
                cad.distance(row, solid)
                for row in tube.rows
                if row[0] != HEEL and row[1] > 0
                for solid in gap.obstacle.solids
            )
            assert theirs - 0.1 - slack <= gap.gap_mm <= theirs + 0.1, (gap.run, gap.obstacle.thing.name)
            compared += 1
    assert compared


@pytest.mark.parametrize("make", SYSTEMS)
def test_bodies_of_parts_and_surfaces_have_the_volume_of_what_they_are(make: Callable[[], Design]) -> None:
    """A rounded rectangle's area times its length; surfaces of 36 sides fall short by 0.51 %, prisms of 16 flats stand
    out by at most 2 % of a corner.
    """
    system = system_of(make())
    for body in system.bodies:
        r, u, v, long = float(body.segment[2]), body.half_u, body.half_v, float(body.segment[1])
        true = (4 * u * v + 4 * r * (u + v) + np.pi * r * r) * long
        assert _volume(*body_surface(body)) == pytest.approx(true, rel=6e-3)
        row = solid_of(body)
        if row[0] == 4:
            corners = row[16:48].reshape(16, 2)
            nxt = np.roll(corners, -1, axis=0)
            area = float(np.sum(corners[:, 0] * nxt[:, 1] - corners[:, 1] * nxt[:, 0])) / 2
            assert true / long <= area <= true / long * 1.015
    for run, tube in zip(system.runs, system.tubes, strict=True):
        for piece in run.pieces:
            if piece.piece.kind in ("leg", "bend") and piece.length_mm > 1:
                row = next(r for r, owner in zip(tube.rows, tube.piece, strict=True) if owner == piece.index)
                assert _volume(*tube_surface(piece)) == pytest.approx(cad.volume(cad.tube(row)), rel=8e-3)


def _volume(corners: np.ndarray, faces: np.ndarray) -> float:
    """Signed volume of a closed surface."""
    a, b, c = (corners[faces[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6


def test_every_surface_of_the_demo_is_closed_and_turned_outward() -> None:
    for make in SYSTEMS:
        design = make()
        found = review(design)
        for surface in system_surfaces(found.system, found.moves.pieces, found.moves.parts):
            assert _volume(surface.corners, surface.faces) > 0, surface.name
        for o in {o.thing.id: o for o in obstacles(design.survey, design.settings.rules)}.values():
            surface = thing_surface(o.thing, o.thing.shape)
            if surface is not None:
                assert _volume(surface.corners, surface.faces) > 0, surface.name
