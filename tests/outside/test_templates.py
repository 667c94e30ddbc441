"""Wraps against reference values and the CAD kernel's own intersections; paper measured back from what is rendered."""

import json
import math
import random
import shutil
import subprocess
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from PIL import Image

from tests.outside import cad
from widebend.core.errors import InputError
from widebend.core.hardware import saddle
from widebend.core.space import Vector
from widebend.core.templates import (
    FIRST_TOUCH,
    Paper,
    Template,
    hole_wrap,
    mitre_wrap,
    saddle_wrap,
    shell,
    slice_wrap,
    x_fingers,
    y_fingers,
)
from widebend.formats.templates.drawings import write_dxf, write_svg
from widebend.formats.templates.pdf import LAP_MM, tiling, write_pdf

ROWS = {r["id"]: r for r in json.loads((Path(__file__).parent / "data" / "reference.json").read_text())}
THIN, CARD = Paper(0.0), Paper(0.4)


def _edge(drawn: Template, corners: int = 2) -> Vector:
    """The edge of a wrap that is the cut: its outline without its body's corners."""
    return drawn.strokes[0].points[corners // 2 : len(drawn.strokes[0].points) - corners // 2]


@pytest.mark.parametrize("name", ["AS013", "AS015", "AS016"])
def test_mitre_wraps_are_the_reference_ordinates(name: str) -> None:
    given, value = ROWS[name]["inputs"], ROWS[name]["value"]
    edge = _edge(mitre_wrap(given["D"], given["cut"], THIN))
    x = np.radians(given["phi"]) * given["D"] / 2
    # the reference counts from the short side, ours from the heel
    assert given["D"] * math.tan(math.radians(given["cut"])) - value[0] == pytest.approx(np.ptp(edge[:, 1]), abs=1e-4)
    heights = np.interp(x, edge[:, 0], edge[:, 1]) - edge[:, 1].min()
    assert heights[::-1] == pytest.approx(np.roll(np.array(value), 5), abs=0.002)


def test_a_hole_is_the_reference_points() -> None:
    given, value = ROWS["AS017"]["inputs"], np.array(ROWS["AS017"]["value"])
    outline = hole_wrap(2 * given["r"], 2 * given["R"], given["b"], 0.0, THIN).strokes[0].points
    ours = outline[[int(phi * 2) for phi in given["phi"]]]
    assert ours[:, 1] == pytest.approx(value[:, 0], abs=1e-3)
    assert np.abs(ours[:, 0]) == pytest.approx(np.abs(value[:, 1]), abs=1e-3)


def test_a_slice_is_the_reference_wedge() -> None:
    given, value = ROWS["A049"]["inputs"], ROWS["A049"]["value"]
    edge = _edge(slice_wrap(given["D"], given["R"], value["deflection"], THIN), 0)
    widths = edge[: len(edge) // 2, 1] - edge[len(edge) // 2 :, 1][::-1]
    assert (widths.max(), widths.min()) == pytest.approx((value["heel"], value["throat"]), abs=1e-4)


def _section(first, second):  # type: ignore[no-untyped-def]
    """The curves in which the surfaces of two solids meet."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Section

    made = BRepAlgoAPI_Section(first, second)
    made.Build()
    return made.Shape()


def _off(points: Vector, curves) -> float:  # type: ignore[no-untyped-def]
    """How far the farthest of some points lies from curves of the CAD kernel."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
    from OCP.BRepExtrema import BRepExtrema_DistShapeShape
    from OCP.gp import gp_Pnt

    return max(
        BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(gp_Pnt(*p)).Vertex(), curves).Value()
        for p in points.tolist()
    )


def _cylinder(at: Vector, flow: Vector, radius: float, long: float):  # type: ignore[no-untyped-def]
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at.tolist()), gp_Dir(*flow.tolist())), radius, long).Shape()


def test_fifty_random_wraps_lie_on_the_true_intersection() -> None:
    """Rolled back onto the tube, the edge lies on the kernel's own curve: within 0.1 mm asked."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

    chance, worst = random.Random(13), 0.0
    for k in range(50):
        big = chance.uniform(40.0, 110.0)
        small = chance.uniform(25.0, 0.98 * big)
        paper = Paper(chance.choice((0.0, 0.1, 0.4)))
        if k % 2:
            cut = chance.uniform(2.0, 60.0)
            edge = _edge(mitre_wrap(big, cut, paper))
            tube = _cylinder(np.array([0.0, 0.0, -400.0]), np.array([0.0, 0.0, 1.0]), big / 2, 800.0)
            roll = edge[:, 0] / (big / 2 + paper.thickness_mm / 2)
            points = np.column_stack([big / 2 * np.cos(roll), big / 2 * np.sin(roll), edge[:, 1]])
            slant = gp_Dir(math.sin(math.radians(cut)), 0.0, -math.cos(math.radians(cut)))
            plane = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), slant), -900, 900, -900, 900).Face()
            curves = _section(tube, plane)
        else:
            angle, off = chance.uniform(30.0, 90.0), chance.uniform(0.0, 0.98) * (big - small) / 2
            edge = _edge(saddle_wrap(small, big, angle, off, paper))
            b = math.radians(angle)
            axis, across = np.array([math.cos(b), 0.0, math.sin(b)]), np.array([math.sin(b), 0.0, -math.cos(b)])
            roll = edge[:, 0] / (small / 2 + paper.thickness_mm / 2)
            beside = np.array([0.0, 1.0, 0.0])
            points = (-edge[:, 1])[:, None] * axis + small / 2 * (
                np.cos(roll)[:, None] * across + np.sin(roll)[:, None] * beside
            )
            points += off * beside
            header = _cylinder(np.array([-900.0, 0.0, 0.0]), np.array([1.0, 0.0, 0.0]), big / 2, 1800.0)
            curves = _section(_cylinder(off * beside, axis, small / 2, 900.0), header)
        worst = max(worst, _off(points[::30], curves))
    assert worst < 0.1
    assert worst < 0.01  # what it is: the kernel's curves are approximated to about this


def test_twenty_x_and_y_cuts_lie_on_the_true_intersection() -> None:
    """The tips of the fingers, laid along the bend's lines, lie on the kernel's cut of bend and straights."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Dir, gp_Pln, gp_Pnt

    from tests.outside.test_crossings import _arc

    chance, worst = random.Random(29), 0.0
    for k in range(20):
        od = chance.uniform(40.0, 90.0)
        clr, deg = od * chance.uniform(1.0, 2.5), chance.uniform(20.0, 80.0)
        paper = Paper(chance.choice((0.0, 0.2)))
        x_cut = k % 2 == 0
        off, leg = chance.uniform(0.3, 0.9) * od / 2, 300.0
        drawn = x_fingers(od, clr, deg, off, paper) if x_cut else y_fingers(od, clr, deg, leg, paper)
        half, first, centre = (deg / 2, -deg / 2, clr + off) if x_cut else (deg, 0.0, clr)
        rows = _arc(od, clr, deg, leg, centre, first)
        shape = cad.tube(rows[0])
        for row in rows[1:]:
            shape = BRepAlgoAPI_Fuse(shape, cad.tube(row)).Shape()
        plane = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), -900, 900, -900, 900).Face()
        points = []
        for stroke in drawn.strokes[2:]:
            (at, _), (_, long) = stroke.points.tolist()
            psi = at / (od / 2 + paper.thickness_mm / 2)
            # along the bend as far as it goes, then along its straight: the paper half its thickness off the metal
            rho, on_paper = clr + od / 2 * math.cos(psi), clr + (od / 2 + paper.thickness_mm / 2) * math.cos(psi)
            turn = min(abs(long) / on_paper, math.radians(half))
            rest = abs(long) - turn * on_paper
            x = rho * math.sin(turn) + rest * math.cos(turn)
            y = centre - rho * math.cos(turn) + rest * math.sin(turn)
            points.append([math.copysign(x, long), y, od / 2 * math.sin(psi)])
        worst = max(worst, _off(np.array(points), _section(shape, plane)))
    assert worst < 0.1


def test_paper_wraps_once_round_at_its_middle_and_inside_is_read_the_other_way() -> None:
    for paper, radius in ((CARD, 31.75 + 0.2), (Paper(0.4, "inside"), 30.25 - 0.2)):
        edge = _edge(mitre_wrap(63.5, 20.0, paper, 1.5))
        assert np.ptp(edge[:, 0]) == pytest.approx(2 * math.pi * radius)
        reach = np.ptp(edge[:, 1])
        surface = 63.5 if paper.side == "outside" else 60.5
        assert reach == pytest.approx(surface * math.tan(math.radians(20.0)))
    assert _edge(mitre_wrap(63.5, 20.0, Paper(0.4, "inside"), 1.5))[0, 0] < 0


def test_no_edge_of_the_wall_touches_first() -> None:
    """Reference AS012: equal tubes at 90 deg, the wall's inside stands 10.1 mm deeper at the sides."""
    outside, inside = (saddle(od, 63.5, 90.0, np.array([90.0]))[0] for od in (63.5, 60.2))
    assert (outside, inside) == pytest.approx((0.0, 10.1021), abs=1e-3)
    edge = _edge(saddle_wrap(63.5, 63.5, 90.0, 0.0, THIN, 1.65, FIRST_TOUCH))
    rolls = edge[:, 0] / 31.75
    both = np.max([saddle(od, 63.5, 90.0, np.degrees(rolls)) for od in (63.5, 60.2)], axis=0)
    assert -edge[:, 1] == pytest.approx(both)


@pytest.mark.skipif(not shutil.which("pdftoppm"), reason="poppler is not installed: .ci/run installs it")
def test_paper_measures_true(tmp_path: Path) -> None:
    """The rendered sheets, joined at their overlap, against a rule of pixels: within 0.2 mm over 300 mm asked."""
    drawn = shell(220.0, 120.0, 300.0, 1.2, 12.0, 0.0)
    tiles = tiling(drawn, "a4")
    (tmp_path / "t.pdf").write_bytes(write_pdf(drawn, "Job 1", "a4"))
    dpi = 254.0
    subprocess.run(["pdftoppm", "-r", f"{dpi:g}", "-gray", "-png", "t.pdf", "t"], cwd=tmp_path, check=True)
    sheets = [np.asarray(Image.open(p).convert("L")) for p in sorted(tmp_path.glob("t-*.png"))]
    assert len(sheets) == tiles.across * tiles.down > 1
    px = dpi / 25.4

    def dark(sheet: Vector, at: slice, axis: int) -> Vector:
        """Middles [mm] of lines that run right through a strip of a sheet."""
        strip = sheet[:, at] if axis == 0 else sheet[at, :]
        hit = np.flatnonzero((strip < 128).mean(axis=1 - axis) > 0.95)
        groups = np.split(hit, np.flatnonzero(np.diff(hit) > 1) + 1)
        return np.array([g.mean() / px for g in groups if len(g)])

    # the bar of the first sheet, and the way round the shell from its left edge to its seam's lap over all sheets
    ticks = dark(sheets[0], slice(int(tiles.page_mm[1] * px - 18.3 * px), int(tiles.page_mm[1] * px - 17.2 * px)), 1)
    assert ticks.max() - ticks.min() == pytest.approx(100.0, abs=0.07)
    across, step = tiles.across, tiles.shown_mm[0] - LAP_MM
    row = slice(int(80.0 * px), int(90.0 * px))
    found = [dark(sheet, row, 1) + k * step for k, sheet in enumerate(sheets[:across])]
    edges = np.concatenate(found)
    around = drawn.high[0] - drawn.low[0]
    assert around > 300.0
    assert edges.max() - edges.min() == pytest.approx(around, abs=0.2 * around / 300.0)


def test_files_for_cutters_hold_the_same_lines() -> None:
    import io

    drawn = mitre_wrap(63.5, 22.5, CARD)
    read = ezdxf.read(io.StringIO(write_dxf(drawn).decode()))
    assert read.units == ezdxf.units.MM
    lines = [e for e in read.modelspace() if e.dxf.layer == "CUT"]
    assert np.array([p[:2] for p in lines[0].get_points()]) == pytest.approx(drawn.strokes[0].points)
    wide = drawn.high[0] - drawn.low[0] + 6.0
    assert f'width="{wide:.3f}mm"' in write_svg(drawn)


def test_too_much_paper_is_said() -> None:
    with pytest.raises(InputError, match="larger than any paper"):
        shell(1500.0, 300.0, 500.0, 1.0, 0.0, 0.0)
    with pytest.raises(InputError, match="plotter"):
        tiling(shell(1000.0, 500.0, 2500.0, 1.0, 0.0, 0.0), "a4")
