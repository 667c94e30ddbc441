"""Distances to a mesh against trimesh, a reference library; bench underbody does 1,000 tubes and 200,000 triangles."""

import numpy as np
import pytest
import trimesh

from tests.outside import meshes
from tests.outside.scenes import centre_points, deepest_skin, random_scene, signed
from widebend.core.geometry import as_kept, indexed, is_closed, solid_rows, swept_gap
from widebend.core.geometry.mesh_gap import mesh_gaps, point_depths
from widebend.core.laying import obstacles, part_bodies
from widebend.core.records import Body, Extrusion, Item, MeshShape, Part, Port, Rules, Survey, Thing
from widebend.core.review import distances, packed, point_gaps, tube_gaps
from widebend.core.review.gaps import part_gap
from widebend.core.space import TriangleMesh, pose
from widebend.core.units import Length
from widebend.demo.examples import block

PAN = meshes.floor_pan(6_000)


@pytest.fixture(scope="module")
def pan() -> TriangleMesh:
    return indexed(as_kept(PAN))


def test_random_tubes_against_trimesh(pan: TriangleMesh) -> None:
    """60 straights and bends near, through and inside a closed scan: within 0.1 mm."""
    rng, reference = np.random.default_rng(8), meshes.reference(PAN)
    inside = 0
    for _ in range(60):
        tube = meshes.random_tube(rng)
        want = meshes.reference_gap(reference, tube)
        got = float(mesh_gaps(tube[None], pan.rows, pan.low, pan.high, True, 1e6)[0][0])
        inside += want < -tube[2]
        assert got == pytest.approx(want, abs=0.1)
    assert inside > 5


def test_a_rim_in_a_scan_is_as_deep_as_its_deepest_place() -> None:
    """200 straights and bends beside a closed box: never less deep than the deepest place of their sampled skin, also
    where nothing but the rim of an open end is inside.
    """
    rng, rims = np.random.default_rng(5), 0
    solid = np.r_[0, 0, 0, 0, 150, 150, 75, np.eye(3).ravel()]
    for _ in range(200):
        tube = random_scene(rng).seg
        points, flows = centre_points(tube, 2001)
        want = deepest_skin(tube, solid, points, flows)
        if want < 0:
            rims += signed(solid, points).min() > 0
            assert mesh_gaps(tube[None], BOX.rows, BOX.low, BOX.high, True, 1e6)[0][0] <= want + 0.05
    assert rims > 20


def test_points_against_trimesh(pan: TriangleMesh) -> None:
    rng, reference = np.random.default_rng(9), meshes.reference(PAN)
    points = rng.uniform((-100, -600, -200), (2100, 600, 420), (300, 3))
    want = -trimesh.proximity.signed_distance(reference, points)
    assert np.allclose(point_depths(points, pan.rows, pan.low, pan.high, True), want, atol=1e-3)


def test_closed_is_told_from_open() -> None:
    assert is_closed(PAN)
    assert not is_closed(PAN[:-3])
    assert not is_closed(np.concatenate([PAN, PAN[:1]]))


BOX = indexed(as_kept(np.asarray(trimesh.creation.box((300, 300, 150)).triangles)))


def _both_boxes() -> Survey:
    return Survey(things=_box_thing()).with_meshes({BOX.sha256: BOX})


def _box_thing() -> tuple[Thing, Thing]:
    """The same box as a solid and as a mesh, the mesh set down turned and shifted."""
    solid, mesh = block("solid", "box", (1000, -150, 250), (1300, 150, 400)), BOX
    shape = MeshShape.model_validate(
        {
            "sha256": mesh.sha256,
            "shift": (1150.0, 0.0, 325.0),
            "rpy_deg": (0.0, 0.0, 90.0),
            "low": (-150.0, -150.0, -75.0),
            "high": (150.0, 150.0, 75.0),
            "triangles": len(mesh.rows),
            "closed": mesh.closed,
        }
    )
    return solid, Thing(id="mesh", name="mesh", shape=shape)


def test_a_box_as_a_mesh_is_the_same_box() -> None:
    """Tubes with open ends, wide bodies and points: what the exact solid says, where it is not inside."""
    both = obstacles(_both_boxes(), Rules())
    rng, around = np.random.default_rng(3), packed(both)
    for _ in range(60):
        tube = meshes.random_tube(rng)
        tube[3:6] = rng.uniform((900, -300, 150), (1400, 300, 500))
        tube[13] = 3
        gaps, _ = tube_gaps(tube[None], around, 1e6)
        if gaps[0, 0] > 0:
            assert gaps[1, 0] == pytest.approx(gaps[0, 0], abs=5e-3)
        else:
            assert gaps[1, 0] < 0.01
    points = rng.uniform((900, -300, 150), (1400, 300, 500), (50, 3))
    assert np.allclose(distances(points, both[0]), distances(points, both[1]), atol=1e-6)


def test_a_wide_body_beside_a_mesh() -> None:
    solid, mesh = obstacles(_both_boxes(), Rules())
    body = Body.model_validate(
        {"start": (0.0, 0.0, 0.0), "length_mm": 260.0, "width_mm": 200.0, "height_mm": 110.0, "corner_mm": 30.0}
    )
    port = Port.model_validate(
        {
            "id": "in",
            "point": (0.0, 0.0, 0.0),
            "axis": (-1.0, 0.0, 0.0),
            "reference": (0.0, 0.0, 1.0),
            "od_mm": Length(60),
        }
    )
    part = Part(id="m", item=Item(kind="muffler", ports=(port,), bodies=(body,)))
    rng, compared = np.random.default_rng(6), 0
    for _ in range(25):
        at = pose(rng.uniform((700, -320, 120), (1500, 320, 560)), rng.normal(size=3))
        can = part_bodies(part, at)[0]
        row = solid_rows(_box_thing()[0].shape)[0]
        want = float(swept_gap(can.segment, can.half_u, can.half_v, can.u, can.v, row, 1e6))
        if 0 < want < 200:
            compared += 1
            assert part_gap(can, mesh, 400.0) == pytest.approx(want, abs=0.05)
        elif want < -1:
            assert part_gap(can, mesh, 400.0) <= 0.01
        assert part_gap(can, solid, 400.0) == pytest.approx(min(want, 400.0), abs=0.05)
    assert compared > 5


def test_a_mesh_that_is_not_here_is_said_not_passed_over() -> None:
    from widebend.core.review import review
    from widebend.demo.examples import cat_back

    found = review(cat_back().replace(survey=Survey(things=_box_thing())))
    said = next(f for f in found.findings if f.code == "no-mesh")
    assert said.spoils  # nobody knows whether it is clear
    held = review(cat_back().replace(survey=_both_boxes()))
    assert not any(f.code == "no-mesh" for f in held.findings)


def test_a_scan_does_not_take_its_neighbours_outline() -> None:
    """One scan (no solids) and one outline in two parts (two solids): as many rows as things, none its own."""
    shape = Extrusion.model_validate(
        {
            "origin": (900.0, 0.0, 0.0),
            "axis": (1.0, 0.0, 0.0),
            "reference": (0.0, 0.0, 1.0),
            "depth": 400.0,
            "outline": (
                (-100.0, 250.0),
                (100.0, 250.0),
                (100.0, 270.0),
                (-80.0, 270.0),
                (-80.0, 330.0),
                (-100.0, 330.0),
            ),
        }
    )
    outline = Thing(id="vee", name="vee", shape=shape)
    far = _box_thing()[1].replace(id="far")
    far = far.replace(shape=far.shape.replace(shift=(5000.0, 0.0, 0.0)))
    around = packed(obstacles(Survey(things=(far, outline)).with_meshes({BOX.sha256: BOX}), Rules()))
    assert len(around.rows) == len(around.obstacles) == 2
    tube = np.r_[0, 300.0, 30.0, 950.0, 0.0, 265.0, 1.0, 0, 0, 0, 0, 1.0, 0, 3]
    gaps, _ = tube_gaps(tube[None], around, 1e6)
    assert gaps[0, 0] > 3000
    assert gaps[1, 0] == pytest.approx(-35.0, abs=0.01)
    assert point_gaps(np.array([[1100.0, 0.0, 262.0]]), around)[0] == pytest.approx(
        [np.hypot(3750.0, 187.0), -8.0], abs=0.1
    )
