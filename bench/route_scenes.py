"""Scenes for route finding: the benchmark's, our own for what it lacks, and random ones. All invented."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from tests.outside.meshes import floor_pan

from widebend.core.closing import Answer, BendOptions
from widebend.core.geometry import as_kept, indexed
from widebend.core.laying import LaidRun, lay_pieces, obstacles, tube_segments
from widebend.core.pathfinding import Task, task_of
from widebend.core.pathfinding.task import NO_VIAS
from widebend.core.records import Design, Run, Survey, Tube
from widebend.core.review import Around, packed, tube_gaps
from widebend.core.space import Pose, TriangleMesh, Vector, pose
from widebend.core.units import Length

HERE = Path(__file__).parent / "scenes"
SET = (15.0, 22.5, 30.0, 45.0, 60.0, 75.0, 90.0)


@dataclass(frozen=True)
class Scene:
    """One question: things packed, ends, what may be used, and the best known answer (bends, cost), if any."""

    name: str
    around: Around
    start: Pose
    end: Pose
    od_mm: float
    ways: BendOptions
    most_deg: float = 90.0
    vias: Vector | None = None
    known: tuple[int, float] | None = None
    solvable: bool = True

    def task(self, seed: int = 0) -> Task:
        return task_of(
            self.start,
            self.end,
            self.od_mm,
            self.ways,
            self.around,
            most_deg=self.most_deg,
            seed=seed,
            vias=NO_VIAS if self.vias is None else self.vias,
        )

    def margin(self, answer: Answer) -> float:
        """The least margin of an answer laid from its own steps, by the exact tube kernel [mm]."""
        tube = Tube(od_mm=Length(self.od_mm), wall_mm=Length(1.5))
        laid = lay_pieces(self.start, answer.pieces(), Design(), tube)
        run = LaidRun(Run(id="r", start="a.b", tube=tube), self.start, laid, None)
        if not self.around.obstacles:
            return 200.0
        gaps, _ = tube_gaps(tube_segments(run).rows, self.around, 200.0)
        return float((gaps.min(axis=1) - self.around.needed).min())

    def miss(self, answer: Answer) -> tuple[float, float]:
        """By how much the pieces that would be made miss the end [mm, deg]."""
        tube = Tube(od_mm=Length(self.od_mm), wall_mm=Length(1.5))
        laid = lay_pieces(self.start, answer.pieces(), Design(), tube)
        end = laid[-1].outlet if laid else self.start
        off = float(np.linalg.norm(end.point - self.end.point))
        turned = math.degrees(
            math.atan2(float(np.linalg.norm(np.cross(end.flow, self.end.flow))), float(end.flow @ self.end.flow))
        )
        return off, turned


def scene(name: str) -> Scene:
    """One of the benchmark's scenes, as it is kept in its file."""
    data = json.loads((HERE / f"{name}.json").read_text())
    best = json.loads((HERE / "best.json").read_text()).get(name, {})
    around = _packed([_thing(i, o) for i, o in enumerate(data["obstacles"])])
    ways = BendOptions((data["tube"]["R"],), tuple(data["angle_set"]), True, data["min_straight"])
    known = (best["n"], best["J"]) if best.get("solvable") else None
    start, end = (pose(data[k]["p"], data[k]["d"]) for k in "AB")
    return Scene(
        name,
        around,
        start,
        end,
        data["tube"]["D"],
        ways,
        data["max_bend_deg"],
        known=known,
        solvable=bool(best.get("solvable")),
    )


def benchmark_scenes() -> list[Scene]:
    """All of the benchmark's."""
    return [scene(path.stem) for path in sorted(HERE.glob("s*.json"))]


def _thing(i: int, o: dict[str, Any]) -> dict[str, Any]:
    shape = {k: v for k, v in o.items() if k not in ("name", "clearance", "type")}
    kind = {"halfspace": "half-space"}.get(o["type"], o["type"])
    renamed = {"c": "center", "p0": "a", "p1": "b", "r": "radius", "rpy": "rpy_deg"}
    shape = {renamed.get(k, k): v for k, v in shape.items()}
    return {"id": f"t{i}", "name": o["name"], "needed_gap_mm": o["clearance"], "shape": {"type": kind, **shape}}


def _packed(
    things: list[dict[str, Any]], groups: list[dict[str, Any]] | None = None, meshes: Sequence[TriangleMesh] = ()
) -> Around:
    survey = Survey.model_validate({"things": things, "groups": groups or []})
    survey = survey.with_meshes({mesh.sha256: mesh for mesh in meshes})
    return packed(obstacles(survey, Design().settings.rules))


# --- our own ----------------------------------------------------------------------------------------------------------


Point = tuple[float, ...]
Thing = dict[str, Any]


def _box(name: str, center: Point, size: Point, gap: float = 15.0, **more: Any) -> Thing:
    return {
        "id": name.replace(" ", "-"),
        "name": name,
        "needed_gap_mm": gap,
        **more,
        "shape": {"type": "box", "center": center, "size": size, "rpy_deg": (0, 0, 0)},
    }


def _bar(name: str, a: Point, b: Point, radius: float, gap: float = 15.0, **more: Any) -> Thing:
    return {
        "id": name.replace(" ", "-"),
        "name": name,
        "needed_gap_mm": gap,
        **more,
        "shape": {"type": "capsule", "a": a, "b": b, "radius": radius},
    }


FLOOR: dict[str, Any] = {
    "id": "floor",
    "name": "floor",
    "needed_gap_mm": 15.0,
    "shape": {"type": "half-space", "n": (0, 0, -1), "d": -420.0},
}
GROUND: dict[str, Any] = {
    "id": "ground",
    "name": "low line",
    "needed_gap_mm": 0.0,
    "shape": {"type": "half-space", "n": (0, 0, 1), "d": 120.0},
}


def own_scenes() -> list[Scene]:
    """For what the benchmark lacks: grip length, a U-turn, windows in order, two runs, movement, two radii, a scan."""
    known = json.loads((HERE / "own.json").read_text())
    ahead = (1.0, 0.0, 0.0)
    plain = BendOptions((95.25,), SET)
    jog = [FLOOR, GROUND, _box("battery box", (560, 60, 270), (260, 200, 180))]
    plates = [FLOOR, GROUND]
    for n, (x, y) in enumerate(((450.0, -140.0), (950.0, 130.0))):
        hole = [(-55, -55), (55, -55), (55, 55), (-55, 55)]
        outline = [(-160, -110), (160, -110), (160, 110), (-160, 110)]
        plates.append(
            {
                "id": f"plate{n}",
                "name": f"plate {n + 1}",
                "needed_gap_mm": 10.0,
                "shape": {
                    "type": "extrusion",
                    "origin": (x, y, 260.0),
                    "axis": (1, 0, 0),
                    "reference": (0, 0, 1),
                    "depth": 20.0,
                    "outline": outline,
                    "holes": [hole],
                },
            }
        )
    through = np.array([(460.0, -140.0, 260.0, 1.0, 0.0, 0.0, 10.0), (960.0, 130.0, 260.0, 1.0, 0.0, 0.0, 10.0)])
    other = [(0, -40, 250), (500, -40, 250), (900, 190, 290), (1500, 190, 290)]
    beside = [FLOOR, GROUND, *(_bar(f"other run {i}", a, b, 31.75, 20.0) for i, (a, b) in enumerate(pairwise(other)))]
    axle = _bar("axle", (700, -500, 215), (700, 500, 215), 45.0, 20.0, moves_with="axle")
    travel = {
        "id": "axle",
        "name": "axle",
        "states": [{"name": "ride"}, {"name": "bump", "shift": (0, 0, 45)}, {"name": "droop", "shift": (0, 0, -70)}],
    }
    tight = [
        FLOOR,
        GROUND,
        _box("box ahead", (390, 0, 260), (160, 260, 260)),
        _box("box behind", (640, 250, 260), (160, 300, 260)),
    ]
    pan = indexed(as_kept(floor_pan(4000) + np.array([0.0, 0.0, 350.0])))
    scan = {
        "id": "pan",
        "name": "floor scan",
        "needed_gap_mm": 15.0,
        "shape": {
            "type": "mesh",
            "sha256": pan.sha256,
            "triangles": len(pan.rows),
            "low": tuple(pan.low[0]),
            "high": tuple(pan.high[0]),
        },
    }
    beam = _box("crossmember", (900, 0, 300), (80, 300, 60))

    def made(
        name: str,
        things: list[Thing],
        a: Point,
        b: Point,
        ways: BendOptions = plain,
        out: Point = ahead,
        vias: Vector | None = None,
        groups: list[Thing] | None = None,
    ) -> Scene:
        best = known.get(name)
        return Scene(
            name,
            _packed(things, groups, [pan]),
            pose(a, ahead),
            pose(b, out),
            63.5,
            ways,
            vias=vias,
            known=(best["n"], best["J"]) if best else None,
        )

    return [
        made("o1_grip_length", jog, (0, -60, 250), (1100, 160, 300), BendOptions((95.25,), SET, shortest_mm=70.0)),
        made(
            "o2_u_turn",
            [FLOOR, GROUND, _box("box between", (60, 30, 270), (300, 60, 200))],
            (0, -150, 260),
            (0, 200, 260),
            out=(-1.0, 0.0, 0.0),
        ),
        made("o3_windows_in_order", plates, (0, 0, 250), (1400, 0, 250), vias=through),
        made("o4_two_runs", beside, (0, 70, 250), (1500, 60, 260)),
        made("o5_movement", [FLOOR, GROUND, axle], (0, 0, 250), (1400, 60, 260), groups=[travel]),
        made("o6_two_radii", tight, (0, 0, 260), (1000, 240, 260), BendOptions((95.25, 63.5), SET)),
        made("o7_scan", [GROUND, scan, beam], (100, -60, 250), (1800, 150, 260)),
    ]


# --- random -----------------------------------------------------------------------------------------------------------


def random_scene(seed: int) -> Scene:
    """An underbody like the benchmark's: moved ends, other tubes and radii, boxes, bars; in every fifth one moves."""
    rng = np.random.default_rng(seed)
    far = rng.uniform(400.0, 1800.0)
    od = float(rng.choice([38.1, 50.8, 63.5, 76.2]))
    things: list[dict[str, Any]] = [FLOOR, GROUND]
    for n in range(int(rng.integers(2, 12))):
        at = rng.uniform((0.1 * far, -350, 150), (0.9 * far, 350, 400))
        gap = float(rng.choice([10.0, 20.0, 50.0]))
        more = {"moves_with": "axle"} if seed % 5 == 0 and n == 0 else {}
        if rng.random() < 0.5:
            box = _box(f"box {n}", tuple(at), tuple(rng.uniform(30, 300, 3)), gap, **more)
            box["shape"]["rpy_deg"] = tuple(rng.uniform(-30, 30, 3))
            things.append(box)
        else:
            way = rng.normal(size=3)
            reach = way / np.linalg.norm(way) * rng.uniform(50, 400)
            things.append(_bar(f"bar {n}", tuple(at), tuple(at + reach), float(rng.uniform(6, 50)), gap, **more))
    groups = [
        {
            "id": "axle",
            "name": "axle",
            "states": [
                {"name": "ride"},
                {"name": "bump", "shift": (0, 0, 50)},
                {"name": "droop", "shift": (0, 0, -60)},
            ],
        }
    ]
    ends = [pose(rng.uniform((x, -250, 200), (x + 1, 250, 330)), (1.0, *rng.normal(0.0, 0.25, 2))) for x in (0.0, far)]
    ways = BendOptions((float(od * rng.choice([1.0, 1.5, 2.0])),), SET, shortest_mm=float(rng.choice([0.0, 0.0, 40.0])))
    return Scene(f"random {seed}", _packed(things, groups if seed % 5 == 0 else None), *ends, od, ways)
