"""The shelf as a table, models other programs read: read back by what is not ours."""

import io
import math
from collections.abc import Iterator

import numpy as np
import pytest
import trimesh

from widebend.core.errors import InputError
from widebend.core.hardware import SHELF, Stocked
from widebend.core.laying import Surface, opened, system_surfaces, thing_surface
from widebend.core.records import Box, Extrusion, Sphere, Survey, Thing, Window
from widebend.core.review import review
from widebend.core.units import Length
from widebend.demo.systems import twin_x
from widebend.formats.model_files import write_glb, write_stl
from widebend.formats.shelf_csv import read_shelf, write_shelf


def _surfaces() -> Iterator[Surface]:
    found = review(twin_x())
    yield from system_surfaces(found.system, found.moves.pieces, found.moves.parts)


def test_a_shelf_goes_out_and_comes_back_the_same() -> None:
    stocked = [
        Stocked(
            kind=k.key,
            name=f"own {k.name}",
            values={m.key: m.usual for m in k.measures},
            mass_kg=1.5,
            metal="409",
            surface="coated",
        )
        for k in SHELF.values()
    ]
    good, bad = read_shelf(write_shelf(stocked))
    assert not bad
    assert good == stocked
    assert good[0].item().mass_kg == 1.5


def test_lines_that_cannot_be_read_are_named_and_the_others_taken() -> None:
    text = """kind,name,measures,mass_kg,metal,surface
muffler,good,od=63.5; long=355,5.2,409,bare
spaceship,x,od=1,,,
muffler,odd,width=3,,,
muffler,words,od=big,,,
muffler,heavy,od=63.5,lots,,
oval,standing,wide=30; high=60,,,
muffler,brass,od=63.5,,brass,
muffler,short
,,,,,
"""
    good, bad = read_shelf(text)
    assert [s.name for s in good] == ["good"]
    reasons = {b.number: b.reason for b in bad}
    assert set(reasons) == {3, 4, 5, 6, 7, 8, 9}
    for number, words in (
        (3, "no kind"),
        (4, "no measure"),
        (5, "not a measure"),
        (6, "no mass"),
        (7, "at least as wide"),
        (9, "2 columns"),
    ):
        assert words in reasons[number]
    with pytest.raises(InputError, match="names the columns"):
        read_shelf("a,b\n1,2\n")


def test_a_model_file_holds_every_body_in_metres_with_y_up() -> None:
    """Read back by the mesh library: as many meshes, the same box, turned and in metres."""
    surfaces = list(_surfaces())
    scene = trimesh.load(io.BytesIO(write_glb(surfaces)), file_type="glb")
    assert len(scene.geometry) == len(surfaces)
    corners = np.concatenate([s.corners for s in surfaces])
    low, high = corners.min(axis=0) / 1000, corners.max(axis=0) / 1000
    assert scene.bounds[0] == pytest.approx([low[0], low[2], -high[1]], abs=1e-4)
    assert scene.bounds[1] == pytest.approx([high[0], high[2], -low[1]], abs=1e-4)
    assert any("muffler" in name for name in scene.graph.nodes_geometry)


def test_an_stl_is_closed_bodies_in_mm() -> None:
    surfaces = list(_surfaces())
    whole = trimesh.load(io.BytesIO(write_stl(surfaces)), file_type="stl")
    assert len(whole.faces) == sum(len(s.faces) for s in surfaces)
    for surface in surfaces:
        assert trimesh.Trimesh(surface.corners, surface.faces, process=True).is_watertight, surface.name
    assert whole.volume == pytest.approx(sum(trimesh.Trimesh(s.corners, s.faces).volume for s in surfaces), rel=1e-4)
    assert whole.bounds[1][0] == pytest.approx(max(s.corners[:, 0].max() for s in surfaces), abs=1e-3)


def _thing(shape) -> Thing:
    return Thing(id="x", name="x", shape=shape)


def test_things_have_their_volume() -> None:
    """A box exactly, a ball of 36 sides and 20 rings nearly, an outline with an opening exactly."""
    p = (Length(100), Length(20), Length(300))
    box = _thing(Box(center=p, size=(Length(100), Length(50), Length(20)), rpy_deg=(10, 20, 30)))
    ball = _thing(Sphere(center=p, radius=Length(50)))
    flat = tuple((Length(x), Length(y)) for x, y in ((0, 0), (100, 0), (100, 60), (0, 60)))
    hole = tuple((Length(x), Length(y)) for x, y in ((20, 20), (60, 20), (60, 40), (20, 40)))
    plate = _thing(
        Extrusion(
            origin=p, axis=(0.0, 1.0, 0.0), reference=(0.0, 0.0, 1.0), depth=Length(10), outline=flat, holes=(hole,)
        )
    )
    for thing, volume, share in (
        (box, 100 * 50 * 20, 1e-9),
        (ball, 4 / 3 * math.pi * 50**3, 0.02),
        (plate, (6000 - 800) * 10, 1e-9),
    ):
        surface = thing_surface(thing, thing.shape)
        assert surface is not None
        mesh = trimesh.Trimesh(surface.corners, surface.faces, process=True)
        mesh.merge_vertices()
        assert mesh.is_watertight
        assert mesh.is_winding_consistent
        assert mesh.volume == pytest.approx(volume, rel=share)


def test_a_window_is_open_in_the_model() -> None:
    """A plate 30 thick, 400 x 300, with a window of 100 x 80 through it: 30 (120,000 - 8,000) mm3 are left."""
    plate = Thing(
        id="p",
        name="plate",
        shape=Box(center=(Length(500), Length(0), Length(300)), size=(Length(30), Length(400), Length(300))),
    )
    outline = tuple((Length(x), Length(y)) for x, y in ((-50, -40), (50, -40), (50, 40), (-50, 40)))
    window = Window(id="w", name="w", center=(Length(500), Length(20), Length(310)), outline=outline, through="p")
    shape, why = opened(plate, Survey(things=(plate,), windows=(window,)))
    surface = thing_surface(plate, shape)
    assert not why
    assert surface is not None
    assert trimesh.Trimesh(surface.corners, surface.faces).volume == pytest.approx(30 * (120_000 - 8_000))
