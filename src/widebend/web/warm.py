"""Kernels made ready before anybody waits for them: each is compiled, or loaded from its cache, at its first use."""

from __future__ import annotations

import numpy as np

from ..core.closing import BendOptions
from ..core.gas import warmed
from ..core.geometry import as_kept, indexed, name_of
from ..core.laying import system_of
from ..core.pathfinding import find, task_of
from ..core.records import Design, MeshShape, Thing
from ..core.removal import order_out
from ..core.review import packed, point_gaps, review
from ..core.routing import propose, taken
from ..core.units import Length
from ..demo.examples import cat_back, first_job
from .drawing.slice import draw_slice
from .drawing.strips import draw_strips
from .page.window import Window, extent_of


def warm_up() -> None:
    """Those that any page may use."""
    design = first_job()
    design = taken(design, "r1", propose(design, "r1"), 0)
    found = review(design)
    draw_strips(design, found, Window.fitting(extent_of(found.system, design.survey)), None)
    draw_slice(found, 2000.0)
    run = found.system.runs[0]
    warmed()
    find(task_of(run.start, run.end, 63.5, BendOptions((95.25,), starts=4), packed(found.obstacles[:1])))


def compile_all() -> None:
    """All of them, also those that only a scan, or a section on its way out, has a use for."""
    warm_up()
    start, design = first_job(), _scanned(cat_back())
    found = review(design)
    point_gaps(np.zeros((1, 3)), packed(found.obstacles))
    draw_slice(found, 3200.0)  # through the axle's tubes
    order_out(start, system_of(start), ())


def _scanned(design: Design) -> Design:
    """A design with scanned lumps: at its pipe, round its muffler's middle, and into its muffler's side."""
    corners = np.array([[0, 0, 0], [300, 0, 0], [0, 300, 0], [0, 0, 300]], dtype=float)
    kept = as_kept(corners[[[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]]])
    lumps = tuple(
        Thing(
            id=f"scan-{n}",
            name="scan",
            shape=MeshShape(
                sha256=name_of(kept),
                shift=(Length(x), Length(y), Length(250)),
                triangles=4,
                closed=True,
                low=(Length(0), Length(0), Length(0)),
                high=(Length(300), Length(300), Length(300)),
            ),
        )
        for n, (x, y) in enumerate(((2000, 250), (3800, 250), (4000, 350)))
    )
    survey = design.survey.replace(things=(*design.survey.things, *lumps))
    return design.replace(survey=survey.with_meshes({name_of(kept): indexed(kept)}))
