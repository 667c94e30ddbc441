"""Underbody: an edit among 100 things and a scan; the scan's distances beside trimesh; how often a stated ± holds."""

from __future__ import annotations

import time

import numpy as np
from tests.outside import meshes
from tests.tape_layouts import LAYOUTS, coverage

from bench.big_system import big_design
from widebend.core.editing import HOLD, changed_pieces, with_pieces
from widebend.core.geometry import as_kept, indexed
from widebend.core.geometry.mesh_gap import mesh_gaps
from widebend.core.records import Design, MeshShape, Survey, Thing
from widebend.core.review import review
from widebend.core.units import Length
from widebend.demo.examples import bar, block
from widebend.web.drawing.slice import draw_slice
from widebend.web.drawing.strips import draw_strips
from widebend.web.page.window import Window, extent_of

TUBES = 1000


def scanned_design() -> Design:
    """The big design with 100 obstacles and a closed scan of about 200,000 triangles over its pipe."""
    kept = as_kept(meshes.floor_pan(200_000))
    mesh = indexed(kept)
    rng = np.random.default_rng(2)
    design = big_design()
    things = list(design.survey.things)
    for i in range(100 - len(things)):
        x, y, z = 900 + 41.0 * i, float(rng.uniform(-600, 700)), float(rng.uniform(330, 520))
        if i % 2:
            things.append(bar(f"more{i}", f"bar {i}", (x, y, z), (x + 90, y + 30, z + 20), 12))
        else:
            things.append(block(f"more{i}", f"block {i}", (x, y, z), (x + 40, y + 50, z + 60)))
    corners = mesh.rows[:, 1:].reshape(-1, 3)
    low, high = (tuple(Length(float(v)) for v in end) for end in (corners.min(axis=0), corners.max(axis=0)))
    shape = MeshShape.model_validate(
        {
            "sha256": mesh.sha256,
            "shift": (1500.0, 60.0, 420.0),
            "low": low,
            "high": high,
            "triangles": len(mesh.rows),
            "closed": mesh.closed,
        }
    )
    things.append(Thing(id="scan", name="scan", shape=shape))
    survey = Survey(things=tuple(things), groups=design.survey.groups, low_line=design.survey.low_line)
    survey = survey.with_meshes({mesh.sha256: mesh})
    return design.replace(survey=survey)


def bench_underbody() -> None:
    """100 things and a scan: what an edit waits for, and the scan's distances beside trimesh."""
    design = scanned_design()
    mesh = indexed(as_kept(meshes.floor_pan(200_000)))
    print(f"{len(design.survey.things) - 1} things and a scan of {len(mesh.rows):,} triangles, closed: {mesh.closed}")
    spent = [_edit(design, 80.0 + k) for k in range(12)]
    print(f"an edit: change, review, strips, slice  {np.median(spent[1:]):8.1f} ms   worst {max(spent[1:]):.1f} ms")
    rng = np.random.default_rng(5)
    tubes = [meshes.random_tube(rng) for _ in range(TUBES)]
    begun = time.perf_counter()
    ours = [float(mesh_gaps(t[None], mesh.rows, mesh.low, mesh.high, True, 1e6)[0][0]) for t in tubes]
    ours_ms = (time.perf_counter() - begun) / TUBES * 1000
    reference = meshes.reference(meshes.floor_pan(200_000))
    begun = time.perf_counter()
    theirs = [meshes.reference_gap(reference, t) for t in tubes]
    theirs_ms = (time.perf_counter() - begun) / TUBES * 1000
    off = np.abs(np.array(ours) - np.array(theirs))
    inside = int((np.array(theirs) < -45).sum())
    print(f"a tube to the scan, nothing culled      {ours_ms:8.2f} ms   trimesh, sampled {theirs_ms:.0f} ms")
    print(f"{TUBES} random tubes, {inside} deep inside: largest difference {off.max():.4f} mm")


def _edit(design: Design, length: float) -> float:
    """A piece of the run made another length, and everything that is drawn again [ms]."""
    begun = time.perf_counter()
    run = design.runs[0]
    changed = with_pieces(design, run, changed_pieces(design, run, run.pieces[4].id, {"length_mm": length}, HOLD, None))
    found = review(changed)
    draw_strips(changed, found, Window.fitting(extent_of(found.system, changed.survey)), "r1")
    draw_slice(found, 2000.0)
    return (time.perf_counter() - begun) * 1000


def bench_tapes() -> None:
    """Tapes to marks: in how many of 2,000 simulated surveys the stated ± holds the true error (93 to 97 wanted)."""
    for n, name in enumerate(LAYOUTS):
        print(f"{name:36} {100 * coverage(name, 2000, 100 + n):6.2f} %")
