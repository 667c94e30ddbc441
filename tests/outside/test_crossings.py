"""Cuts on bends and saddles, against reference values and a CAD kernel's own cuts."""

import json
import math
from pathlib import Path

import numpy as np
import pytest

from tests.outside import cad
from widebend.core.errors import InputError
from widebend.core.geometry import straight_row
from widebend.core.geometry.clearance import SEGMENT_WIDTH
from widebend.core.hardware.crossover import h_stub, off_centre_mm, off_for_chamber, saddle, twin_tip, x_pipe, y_pipe

ROWS = {r["id"]: r for r in json.loads((Path(__file__).parent / "data" / "reference.json").read_text())}
SADDLES = [r for r in ROWS.values() if r["id"].startswith("AS0") and isinstance(r["value"], dict) and "s" in r["value"]]


@pytest.mark.parametrize("row", SADDLES, ids=lambda r: r["id"])
def test_saddles_are_the_reference_templates(row: dict) -> None:
    given = row["inputs"]
    s = saddle(2 * given["r"], 2 * given["R"], given["angle_deg"], np.array(given["phi"]), given["offset"])
    assert s == pytest.approx(row["value"]["s"], abs=row["tol"])


def _arc(od: float, clr: float, deg: float, leg: float, centre_y: float, first_deg: float) -> list[np.ndarray]:
    """Straight, bend, straight in the plane z = 0 about (0, centre_y), the heel toward -y; as kernel segments."""
    t = math.radians(first_deg)
    row = np.zeros(SEGMENT_WIDTH)
    point = np.array([clr * math.sin(t), centre_y - clr * math.cos(t), 0.0])
    flow, side = np.array([math.cos(t), math.sin(t), 0.0]), np.array([-math.sin(t), math.cos(t), 0.0])
    row[0], row[1], row[2], row[12] = 1, clr * math.radians(deg), od / 2, clr
    row[3:6], row[6:9], row[9:12] = point, flow, side
    end = math.radians(first_deg + deg)
    out_point = np.array([clr * math.sin(end), centre_y - clr * math.cos(end), 0.0])
    out_flow = np.array([math.cos(end), math.sin(end), 0.0])
    rows = [straight_row(point - leg * flow, flow, leg, od / 2), row, straight_row(out_point, out_flow, leg, od / 2)]
    return rows if leg else [row]


def _cut_face(rows: list[np.ndarray]) -> tuple[float, float, np.ndarray]:
    """Area, edge length and box (low, high) of what the plane y = 0 cuts out of tubes that touch end to end."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Fuse
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepGProp import BRepGProp
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
    from OCP.GProp import GProp_GProps
    from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

    shape = cad.tube(rows[0])
    for row in rows[1:]:
        shape = BRepAlgoAPI_Fuse(shape, cad.tube(row)).Shape()
    face = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), -2000, 2000, -2000, 2000).Face()
    cut = BRepAlgoAPI_Common(face, shape).Shape()
    unified = ShapeUpgrade_UnifySameDomain(cut)
    unified.Build()
    whole = unified.Shape()
    area, edge, box = GProp_GProps(), GProp_GProps(), Bnd_Box()
    BRepGProp.SurfaceProperties_s(whole, area)
    BRepGProp.LinearProperties_s(whole, edge)
    BRepBndLib.AddOptimal_s(whole, box, False, False)
    return abs(area.Mass()), edge.Mass(), np.array([[p.X(), p.Y(), p.Z()] for p in (box.CornerMin(), box.CornerMax())])


@pytest.mark.parametrize(
    ("od", "clr", "deg", "off"),
    [
        (63.5, 95.25, 90.0, 20.0),
        (63.5, 95.25, 45.0, 18.0),
        (76.2, 114.3, 90.0, 30.0),
        (50.8, 101.6, 30.0, 12.0),
        (63.5, 63.5, 45.0, 28.0),
    ],
)
def test_an_x_cut_is_what_a_cad_kernel_cuts(od: float, clr: float, deg: float, off: float) -> None:
    ours = x_pipe(od, clr, deg, off)
    area, edge, box = _cut_face(_arc(od, clr, deg, 250.0, clr + off, -deg / 2))
    assert ours.cut.area_mm2 == pytest.approx(area, rel=2e-3)
    assert ours.cut.seam_mm == pytest.approx(edge, rel=2e-3)
    assert ours.cut.length_mm == pytest.approx(box[1, 0] - box[0, 0], abs=0.05)
    assert ours.cut.height_mm == pytest.approx(box[1, 2] - box[0, 2], abs=0.05)


def test_an_x_on_the_bend_alone_has_the_closed_form_chamber() -> None:
    """L = 2 sqrt((R + r)^2 - (R + off)^2) while the cut stays on the bend."""
    ours = x_pipe(63.5, 95.25, 90.0, 20.0)
    assert ours.inside_the_bends
    assert ours.cut.length_mm == pytest.approx(2 * math.sqrt(127.0**2 - 115.25**2), abs=1e-9)
    assert ours.apart_mm == pytest.approx(2 * (95.25 * (1 - math.cos(math.pi / 4)) + 20.0))
    off = off_for_chamber(63.5, 95.25, 45.0, 90.0)
    assert x_pipe(63.5, 95.25, 45.0, off).cut.length_mm == pytest.approx(90.0, abs=1e-6)


def test_a_shallower_bend_shares_a_longer_chamber() -> None:
    """Common practice, no source: shallower bends give a longer shared chamber."""
    lengths = [x_pipe(63.5, 95.25, deg, 15.0).cut.length_mm for deg in (90.0, 45.0, 30.0, 15.0)]
    assert lengths == sorted(lengths)


@pytest.mark.parametrize(("od", "clr", "deg"), [(63.5, 95.25, 60.0), (63.5, 95.25, 25.0), (76.2, 76.2, 45.0)])
def test_a_y_is_what_a_cad_kernel_cuts(od: float, clr: float, deg: float) -> None:
    ours = y_pipe(od, clr, deg, 400.0)
    rows = _arc(od, clr, deg, 0.0, clr, 0.0)
    end = math.radians(deg)
    flow = np.array([math.cos(end), math.sin(end), 0.0])
    rows.append(straight_row(np.array([clr * math.sin(end), clr - clr * math.cos(end), 0.0]), flow, 400.0, od / 2))
    _, edge, box = _cut_face(rows)
    assert ours.crotch_mm == pytest.approx(box[1, 0], abs=0.05)
    # the kernel's face is also bounded by the straight line across the outlet end
    assert ours.seam_mm == pytest.approx(edge - od, rel=3e-3)


def test_a_stub_reaches_both_pipes() -> None:
    """Equal tubes: the saddle is r deep (AS011), so the stub is from apart to apart less the pipe's diameter long."""
    h = h_stub(63.5, 63.5, 150.0)
    assert h.longest_mm == pytest.approx(150.0)
    assert h.shortest_mm == pytest.approx(150.0 - 63.5)
    assert h.marks[:, 1].max() == pytest.approx(31.75)


def test_twin_tips_end_parallel_and_apart() -> None:
    """Two bends and a leg a side: 2 (2 R (1 - cos b) + leg sin b)."""
    t = twin_tip(57.15, 85.7, 110.0, 25.0)
    jog = 2 * 85.7 * (1 - math.cos(math.radians(25))) + t.leg_mm * math.sin(math.radians(25))
    assert 2 * jog == pytest.approx(110.0)
    assert off_centre_mm(101.0, 95.0) == 3.0


def test_what_cannot_be_cut_is_refused_with_what_would_be() -> None:
    with pytest.raises(InputError, match=r"nearer than 31\.8 mm"):
        x_pipe(63.5, 95.25, 45.0, 40.0)
    with pytest.raises(InputError, match="shallower bend"):
        off_for_chamber(63.5, 95.25, 90.0, 400.0)
    with pytest.raises(InputError, match="straight behind"):
        y_pipe(63.5, 95.25, 25.0, 10.0)
    with pytest.raises(InputError, match="cut it the other way"):
        saddle(80.0, 60.0, 90.0, np.array([0.0]))
    with pytest.raises(InputError, match="they touch"):
        h_stub(50.0, 63.5, 60.0)
    with pytest.raises(InputError, match="would do it"):
        twin_tip(57.15, 85.7, 100.0, 60.0)
    with pytest.raises(InputError, match="cannot stand"):
        twin_tip(57.15, 85.7, 50.0, 25.0)
    with pytest.raises(InputError, match="half the tube"):
        x_pipe(63.5, 30.0, 45.0, 10.0)
