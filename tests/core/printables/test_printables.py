"""What is printed is closed, the right way out, and fits what it is for: read by a mesh library, and by figures."""

import math

import numpy as np
import pytest
import trimesh

from widebend.core.cutting import cut_lists
from widebend.core.errors import InputError
from widebend.core.laying import Surface, system_of
from widebend.core.printables import Play, bend_saddle, mock_up, square_ring, v_block
from widebend.demo.systems import pie_downpipe, twin_x


def _solid(surface: Surface) -> trimesh.Trimesh:
    mesh = trimesh.Trimesh(surface.corners, surface.faces, process=True)
    mesh.merge_vertices()
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.volume > 0
    return mesh


def test_a_saddle_lies_on_the_bend_and_marks_its_angle() -> None:
    """Its inside is the bend's outside with 0.15 mm to spare; its ends lie in planes through the bend's centre."""
    mesh = _solid(bend_saddle(63.5, 95.25, 60.0, 5.0))
    rho = np.hypot(mesh.vertices[:, 0], mesh.vertices[:, 1])
    off = np.hypot(rho - 95.25, mesh.vertices[:, 2])
    assert off.min() == pytest.approx(31.75 + 0.15, abs=1e-9)
    turned = np.degrees(np.arctan2(mesh.vertices[:, 1], mesh.vertices[:, 0]))
    assert (turned.min(), turned.max()) == pytest.approx((0.0, 60.0), abs=1e-9)
    # so little plastic: about half a sleeve 4 mm thick, by Pappus, less its eleven grooves
    half_ring = 95 / 180 * math.pi * (35.9**2 - 31.9**2)
    assert mesh.volume == pytest.approx(half_ring * math.radians(60) * (95.25 + 20.0), rel=0.06)


def test_a_ring_and_a_block_hold_their_tube() -> None:
    ring = _solid(square_ring(63.5, 30.0))
    assert np.hypot(ring.vertices[:, 0], ring.vertices[:, 1]).min() == pytest.approx(31.9)
    assert ring.extents[2] == pytest.approx(30.0)
    block = _solid(v_block(63.5, 50.0))
    # a tube in it, its middle at the origin, touches both flanks: they stand r off the middle
    flank = np.array([1.0, -1.0]) / math.sqrt(2)
    groove = [v[:2] for v in block.vertices if abs(v[0]) < 27 and v[1] > -45.0]
    assert max(float(np.dot(v, -flank)) for v in groove if v[0] <= 0) < 31.76
    assert min(abs(float(np.dot(v, flank))) for v in groove if v[0] >= 0) == pytest.approx(31.75, abs=1e-9)


@pytest.mark.parametrize("make", [twin_x, pie_downpipe])
def test_mock_ups_plug_together_and_are_as_long_as_their_pieces(make) -> None:  # type: ignore[no-untyped-def]
    design, play, printed = make(), Play(), 0
    for cuts in cut_lists(design, system_of(design).runs):
        for cut in cuts.pieces:
            if cut.kind not in ("straight", "bend"):
                with pytest.raises(InputError, match="straights and bends"):
                    mock_up(cut, play)
                continue
            mesh, printed = _solid(mock_up(cut, play)), printed + 1
            r = float(cut.tube.od_mm) / 2
            if cut.kind == "straight":
                assert mesh.extents[2] == pytest.approx(cut.length_mm + play.plug_mm, abs=1e-6)
                # the spigot is smaller than the bore it goes into by the play
                end = mesh.vertices[mesh.vertices[:, 2] > mesh.vertices[:, 2].max() - 1e-6]
                assert np.hypot(end[:, 0], end[:, 1]).max() == pytest.approx(r - play.wall_mm - play.loose_mm / 2)
    assert printed >= 3


def test_what_cannot_be_printed_is_said() -> None:
    refused = (
        (lambda: bend_saddle(63.5, 30.0, 60.0, 5.0), "clr"),
        (lambda: bend_saddle(63.5, 95.0, 200.0, 5.0), "span"),
        (lambda: square_ring(63.5, 5.0), "long"),
        (lambda: v_block(63.5, 5.0), "long"),
    )
    for make, field in refused:
        with pytest.raises(InputError) as said:
            make()
        assert said.value.field == field
