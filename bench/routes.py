"""Route finding: solved, bends, cost beside the best known, time, set angles; a plain voxel search beside it."""

from __future__ import annotations

import time
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from bench.route_scenes import Scene, benchmark_scenes, own_scenes, random_scene
from bench.voxels import voxel_way
from widebend.core.pathfinding import MISFITS_BELOW, RouteCandidate, distinct, find, pieces_of, snapped

SEEDS = 20
END_MM, END_DEG = 0.01, 0.01


def bench_routes() -> None:
    """Every scene with twenty seeds, warm: how often solved, cost over the best known, time; all checked again."""
    overs: list[float] = []
    for scene in [*benchmark_scenes(), *own_scenes()]:
        find(scene.task())
        overs += _scene(scene)
    print(f"cost over the best known: median {np.median(overs):.2f} %, worst {max(overs):.2f} %")


def _scene(scene: Scene) -> list[float]:
    spent, ways, wrong = [], [], 0
    for seed in range(SEEDS):
        task = scene.task(seed)
        begun = time.perf_counter()
        found = find(task)
        spent.append(time.perf_counter() - begun)
        good = [w for w in found if w.spare_mm >= 0]
        if good:
            answer = pieces_of(task, good[0])
            miss = scene.miss(answer)
            wrong += scene.margin(answer) < 0 or miss[0] > END_MM or miss[1] > END_DEG
            ways.append(good[0])
    times = f"{np.median(spent):5.2f} s, worst {max(spent):5.2f}"
    print(f"{scene.name:24} {len(ways):2}/{SEEDS} {times}  rejected {wrong}  {_beside(scene, ways)}")
    print(f"{'':24} {_set_angles(scene)}   {_plain(scene)}")
    return [100 * (w.cost / scene.known[1] - 1) for w in ways] if scene.known else []


def _beside(scene: Scene, ways: list[RouteCandidate]) -> str:
    if not ways:
        return "none, as known" if not scene.solvable else "NONE"
    bends, cost = sorted({w.bends for w in ways}), float(np.median([w.cost for w in ways]))
    if scene.known is None:
        return f"bends {bends} cost {cost:.1f}"
    over = [100 * (w.cost / scene.known[1] - 1) for w in ways]
    return f"bends {bends} of {scene.known[0]}, cost {cost:.1f}: {np.median(over):+.2f} %, worst {max(over):+.2f}"


def _set_angles(scene: Scene) -> str:
    task = scene.task()
    found = [w for w in find(task) if w.spare_mm >= 0]
    if not found or found[0].bends < 2:
        return "set angles: nothing to do"
    begun = time.perf_counter()
    answer = snapped(task, found[0], scene.ways.angles_deg, thorough=True)
    spent = time.perf_counter() - begun
    if answer is None:
        return f"set angles: NONE, {spent:.2f} s"
    laid = pieces_of(task, answer.way, keep_angles=True)
    odd = f" one odd, {answer.odd_deg:.1f}" if answer.odd_deg else ""
    ways = len(distinct(found))
    return (
        f"set angles {' '.join(f'{a:g}' for a in np.round(laid.bends[:, 1], 2))}{odd} cost {answer.way.cost:.1f} "
        f"margin {scene.margin(laid):.2f}, {spent:.2f} s, {ways} ways"
    )


def _plain(scene: Scene) -> str:
    begun = time.perf_counter()
    way = voxel_way(scene.task())
    spent = time.perf_counter() - begun
    if way is None:
        return f"voxels: none, {spent:.2f} s"
    what = "keeps its gaps" if way.spare_mm >= 0 else "does not fit" if way.spare_mm <= -MISFITS_BELOW else "too near"
    return f"voxels: {way.bends} bends, cost {way.cost:.0f}, {what}, {spent:.2f} s"


def bench_random_routes(most: int = 5000) -> None:
    """Random scenes: no answer that the exact clearance check rejects, ends exact."""
    solved, rejected, missed, spent, worst = 0, 0, 0, [], 1e9
    with ProcessPoolExecutor(2) as beside:
        for n, (seconds, margin, off) in enumerate(beside.map(_random, range(most), chunksize=20), 1):
            spent.append(seconds)
            if margin is not None:
                solved += 1
                worst = min(worst, margin)
                rejected += margin < 0
                missed += off[0] > END_MM or off[1] > END_DEG
            if n % 500 == 0 or n == most:
                times = f"median {np.median(spent):.2f} s, worst {max(spent):.2f} s"
                print(
                    f"{n} scenes, {solved} solved, {rejected} rejected, {missed} miss their end, worst margin "
                    f"{worst:.3f} mm, {times}",
                    flush=True,
                )


def _random(seed: int) -> tuple[float, float | None, tuple[float, float]]:
    scene = random_scene(seed)
    task = scene.task()
    begun = time.perf_counter()
    found = find(task)
    spent = time.perf_counter() - begun
    good = [w for w in found if w.spare_mm >= 0]
    if not good:
        return spent, None, (0.0, 0.0)
    answers = [pieces_of(task, w) for w in distinct(good)]
    misses = [scene.miss(a) for a in answers]
    return spent, min(scene.margin(a) for a in answers), (max(m[0] for m in misses), max(m[1] for m in misses))
