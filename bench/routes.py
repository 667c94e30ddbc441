"""Route finding on the benchmark scenes: solved, bends, cost beside the best known, time; each answer checked again."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

from widebend.core.bodies import tube_segments
from widebend.core.closing import Ways
from widebend.core.frame import Pose, pose
from widebend.core.gaps import Around, packed, tube_gaps
from widebend.core.obstacles import obstacles
from widebend.core.records import Design, Run, Survey, Tube
from widebend.core.route import LaidRun, lay_pieces
from widebend.core.units import Length
from widebend.core.way_pieces import pieces_of
from widebend.core.way_search import find
from widebend.core.way_task import Task, Way, distinct, task_of

HERE = Path(__file__).parent / "scenes"


def scene(name: str) -> tuple[dict[str, Any], Around, Pose, Pose]:
    """A scene as read, its things packed, where the way starts and ends."""
    data = json.loads((HERE / f"{name}.json").read_text())
    survey = Survey.model_validate({"things": [_thing(i, o) for i, o in enumerate(data["obstacles"])]})
    around = packed(obstacles(survey, Design().settings.rules))
    ends = (pose(data[k]["p"], data[k]["d"]) for k in "AB")
    return data, around, *ends  # type: ignore[return-value]


def _thing(i: int, o: dict[str, Any]) -> dict[str, Any]:
    shape = {k: v for k, v in o.items() if k not in ("name", "clearance", "type")}
    kind = {"halfspace": "half-space"}.get(o["type"], o["type"])
    renamed = {"c": "center", "p0": "a", "p1": "b", "r": "radius", "rpy": "rpy_deg"}
    shape = {renamed.get(k, k): v for k, v in shape.items()}
    return {"id": f"t{i}", "name": o["name"], "needed_gap_mm": o["clearance"], "shape": {"type": kind, **shape}}


def checked(data: dict[str, Any], around: Around, start: Pose, answer: Any) -> float:
    """The least margin of an answer laid from its own steps, by the exact tube kernel."""
    tube = Tube(od_mm=Length(data["tube"]["D"]), wall_mm=Length(1.5))
    laid = lay_pieces(start, answer.pieces(), Design(), tube)
    run = LaidRun(Run(id="r", start="a.b", tube=tube), start, laid, None)
    gaps, _ = tube_gaps(tube_segments(run).rows, around, 200.0)
    return float((gaps.min(axis=1) - around.needed).min())


def bench_routes() -> None:
    """Every scene: what was found, beside the best known."""
    best = json.loads((HERE / "best.json").read_text())
    for path in sorted(HERE.glob("s*.json")):
        data, around, start, end = scene(path.stem)
        ways = Ways((data["tube"]["R"],), tuple(data["angle_set"]), True, data["min_straight"])
        task = task_of(start, end, data["tube"]["D"], ways, around, most_deg=data["max_bend_deg"])
        find(task)
        begun = time.perf_counter()
        found = find(task)
        spent = time.perf_counter() - begun
        print(_line(path.stem, found, spent, best.get(path.stem, {}), data, around, task))


def _line(
    name: str, found: list[Way], spent: float, known: dict[str, Any], data: Any, around: Around, task: Task
) -> str:
    beside = f"{spent:6.2f} s   known {known.get('n')} {known.get('J')}"
    ok = [w for w in found if w.spare_mm >= 0]
    if not ok:
        worst = found[0].spare_mm if found else float("nan")
        return f"{name:24} none, nearest {worst:8.2f} mm  {beside}"
    way = ok[0]
    margin = checked(data, around, task.start, pieces_of(task, way))
    over = 100 * (way.cost / known["J"] - 1) if known.get("J") else float("nan")
    figures = f"{way.bends} bends {way.cost:8.1f} ({over:+5.2f} %) margin {margin:6.2f}"
    return f"{name:24} {figures}  {len(distinct(ok))} ways {beside}"
