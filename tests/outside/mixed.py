"""Whole scenes of every kind of piece among things of every kind, and what stands between them by sampling: numpy,
shapely and trimesh, none of our code but the records.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
import trimesh
from scipy.spatial.transform import Rotation

from tests.outside import mitred

RADIUS, STEP = 30.0, 1.2


@dataclass
class Mixed:
    """A survey and a run's pieces as data, and for the oracle: skin points, and each thing's distance function."""

    survey: dict[str, Any]
    pieces: list[dict[str, Any]]
    skin: np.ndarray
    line: np.ndarray
    things: dict[str, tuple[Any, list[dict[str, Any]]]]  # shape, and the positions that it goes to from rest
    mesh: trimesh.Trimesh


def scene(rng: np.random.Generator) -> Mixed:
    """A run of one to five pieces among four things; some stand, some move with a group, one may have a window."""
    pieces, skin, line = _run(rng)
    mesh = trimesh.creation.icosphere(subdivisions=1, radius=60.0)
    mesh.apply_scale(rng.uniform(0.5, 1.6, 3))
    states = [
        {"name": "rest"},
        {"name": "moved", "shift": tuple(rng.uniform(-40, 40, 3))},
        {
            "name": "turned",
            "turn": {
                "about": tuple(rng.uniform(-100, 100, 3)),
                "axis": tuple(rng.normal(size=3)),
                "deg": rng.uniform(-20, 20),
            },
        },
    ]
    things, windows = [], []
    for k in range(4):
        at = line[rng.integers(len(line))] + rng.normal(size=3) * rng.uniform(20, 110)
        shape, window = _shape(rng, at, mesh)
        moves = "g" if rng.random() < 0.4 and window is None else "body"
        things.append({"id": f"t{k}", "name": f"thing {k}", "shape": shape, "moves_with": moves, "needed_gap_mm": 60.0})
        if window is not None:
            windows.append(window | {"id": f"w{k}", "name": f"window {k}", "through": f"t{k}"})
    placed = {}
    for t in things:
        taken = states[1:] if t["moves_with"] == "g" else states[:1]
        placed[t["id"]] = (_with_windows(t, windows), taken)
    survey = {"things": things, "windows": windows, "groups": [{"id": "g", "name": "g", "states": states}]}
    return Mixed(survey, pieces, skin, line, placed, mesh)


def _motion(state: dict[str, Any], part: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """Where a position, or a part of the way to it, puts things: turn and shift."""
    shift = part * np.array(state.get("shift", (0.0, 0.0, 0.0)))
    if "turn" not in state:
        return np.eye(3), shift
    axis, about = np.array(state["turn"]["axis"]), np.array(state["turn"]["about"])
    turn = Rotation.from_rotvec(axis / np.linalg.norm(axis) * np.radians(part * state["turn"]["deg"])).as_matrix()
    return turn, about - turn @ about + shift


# --- the run: its pieces, and points on its outside ------------------------------------------------------------------


def _run(rng: np.random.Generator) -> tuple[list[dict[str, Any]], np.ndarray, np.ndarray]:
    """From the origin along X with up as reference; straights joined at angles are cut on the plane between them."""
    at, way, up = np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
    pieces: list[dict[str, Any]] = []
    skins: list[np.ndarray] = []
    lines: list[np.ndarray] = []
    straight, first = [at], way  # corners of the straights since the last bend, and the normal of their first face

    def turn(deg: float, roll: float) -> np.ndarray:
        nonlocal way, up
        side = Rotation.from_rotvec(-np.radians(roll) * way).apply(up)
        spin = Rotation.from_rotvec(np.radians(deg) * np.cross(way, side))
        way, up = spin.apply(way), spin.apply(up)
        return side

    def end_straight(normal: np.ndarray) -> None:
        if len(straight) > 1:
            skins.append(mitred.skin(np.array(straight), RADIUS, (first, normal), STEP))
            lines.append(np.concatenate([np.linspace(a, b, 12) for a, b in itertools.pairwise(straight)]))

    for k in range(int(rng.integers(1, 5))):
        kind, roll = rng.choice(["leg", "bend", "mitre", "pie"]), rng.uniform(0, 360)
        long = rng.uniform(60, 200)
        pieces.append({"id": f"l{k}", "kind": "leg", "length_mm": long})
        at = at + long * way
        straight.append(at)
        if kind == "bend":
            clr, deg, into = rng.uniform(45, 120), rng.uniform(10, 150), way
            pieces.append({"id": f"b{k}", "kind": "bend", "angle_deg": deg, "clr_mm": clr, "roll_deg": roll})
            end_straight(way)
            side = turn(deg, roll)
            t = np.radians(np.linspace(0, deg, max(3, int(np.radians(deg) * (clr + RADIUS) / STEP))))[:, None]
            axis = at + clr * (np.sin(t) * into + (1 - np.cos(t)) * side)
            across, out = np.cross(into, side), np.cos(t) * side - np.sin(t) * into
            round_ = np.linspace(0, 2 * np.pi, int(2 * np.pi * RADIUS / STEP), endpoint=False)
            skins.append(
                (
                    axis[:, None]
                    + RADIUS * (np.cos(round_)[None, :, None] * out[:, None] + np.sin(round_)[None, :, None] * across)
                ).reshape(-1, 3)
            )
            lines.append(axis)
            at = axis[-1]
            straight, first = [at], way
        elif kind == "mitre":
            deg = rng.uniform(5, 80)
            pieces.append({"id": f"m{k}", "kind": "mitre", "turn_deg": deg, "roll_deg": roll})
            turn(deg, roll)
        elif kind == "pie":
            n, deg, clr = int(rng.integers(2, 7)), rng.uniform(6, 24), rng.uniform(50, 120)
            made = {"id": f"p{k}", "kind": "pie", "slices": n, "turn_each_deg": deg, "clr_mm": clr, "roll_deg": roll}
            pieces.append(made)
            end_straight(way)
            straight, first = [at], way
            for _ in range(n):
                turn(deg / 2, roll)
                at = at + 2 * clr * np.tan(np.radians(deg / 2)) * way
                straight.append(at)
                turn(deg / 2, roll)
            end_straight(way)
            straight, first = [at], way
    pieces.append({"id": "end", "kind": "leg", "length_mm": 80.0})
    straight.append(at + 80.0 * way)
    end_straight(way)
    return pieces, np.concatenate(skins), np.concatenate(lines)


# --- the things ------------------------------------------------------------------------------------------------------


def _shape(rng: np.random.Generator, at: np.ndarray, mesh: trimesh.Trimesh) -> tuple[dict[str, Any], Any]:
    kind = rng.choice(["box", "cylinder", "capsule", "sphere", "half-space", "extrusion", "windowed", "mesh"])
    point = tuple(at)
    if kind == "box":
        return {
            "type": "box",
            "center": point,
            "size": tuple(rng.uniform(20, 200, 3)),
            "rpy_deg": tuple(rng.uniform(-90, 90, 3)),
        }, None
    if kind in ("cylinder", "capsule"):
        way = rng.normal(size=3)
        other = tuple(at + way / np.linalg.norm(way) * rng.uniform(20, 250))
        return {"type": kind, "a": point, "b": other, "radius": rng.uniform(5, 60)}, None
    if kind == "sphere":
        return {"type": "sphere", "center": point, "radius": rng.uniform(5, 80)}, None
    if kind == "half-space":
        n = rng.normal(size=3)
        n /= np.linalg.norm(n)
        return {"type": "half-space", "n": tuple(n), "d": float(n @ at) - rng.uniform(0, 150)}, None
    if kind == "mesh":
        return {
            "type": "mesh",
            "sha256": "0" * 64,
            "shift": point,
            "rpy_deg": tuple(rng.uniform(-90, 90, 3)),
            "low": (-100.0, -100.0, -100.0),
            "high": (100.0, 100.0, 100.0),
            "triangles": len(mesh.faces),
            "closed": True,
        }, None
    axis, up = _frame(rng)
    corners = int(rng.integers(4, 9))
    if kind == "windowed":
        half = rng.uniform(70, 130)
        outline = [(-half, -half), (half, -half), (half, half), (-half, half)]
        t = 2 * np.pi * np.arange(corners) / corners
        hole = [(float(x), float(y)) for x, y in 0.6 * half * np.column_stack([np.cos(t), np.sin(t)])]
        depth = rng.uniform(10, 60)
        shape = {
            "type": "extrusion",
            "origin": point,
            "axis": axis,
            "reference": up,
            "depth": depth,
            "outline": outline,
        }
        middle = tuple(at + np.array(axis) * depth / 2)
        return shape, {"center": middle, "axis": axis, "reference": up, "outline": hole}
    t = 2 * np.pi * np.arange(corners) / corners
    far = rng.uniform(30, 130, corners)  # star-shaped: as a rule not convex
    outline = [(float(r * np.cos(a)), float(r * np.sin(a))) for r, a in zip(far, t, strict=True)]
    return {
        "type": "extrusion",
        "origin": point,
        "axis": axis,
        "reference": up,
        "depth": rng.uniform(10, 150),
        "outline": outline,
    }, None


def _frame(rng: np.random.Generator) -> tuple[tuple[float, ...], tuple[float, ...]]:
    q = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    return tuple(q[0]), tuple(q[1])


def _with_windows(thing: dict[str, Any], windows: list[dict[str, Any]]) -> dict[str, Any]:
    return thing["shape"] | {"holes": [w["outline"] for w in windows if w["through"] == thing["id"]]}


def deepest(mixed: Mixed, thing: str, points: np.ndarray) -> float:
    """The least signed distance of points to a thing anywhere on its way to any of its positions: looked for in
    twelfths of the way, then three times finer round the best.
    """
    shape, states = mixed.things[thing]

    def at(state: dict[str, Any], part: float) -> float:
        turn, shift = _motion(state, part)
        return _least(shape, (points - shift) @ turn, mixed.mesh)

    best = np.inf
    for state in states:
        if len(state) == 1:  # it rests
            best = min(best, at(state, 0.0))
            continue
        middle, reach = 0.5, 0.5
        for _ in range(4):
            parts = np.clip(np.linspace(middle - reach, middle + reach, 13), 0.0, 1.0)
            found = [at(state, float(part)) for part in parts]
            middle, reach = float(parts[int(np.argmin(found))]), reach / 6
            best = min(best, *found)
    return float(best)


def _least(shape: dict[str, Any], points: np.ndarray, mesh: trimesh.Trimesh) -> float:
    """One point of every twelve says how near the others can be: distances change no faster than places."""
    blocks = points[: len(points) // 12 * 12].reshape(-1, 12, 3)
    reach = np.linalg.norm(blocks - blocks[:, :1], axis=2).max(axis=1)
    here = _signed(shape, blocks[:, 0], mesh)
    near = blocks[here - reach <= here.min()].reshape(-1, 3)
    return float(_signed(shape, np.concatenate([near, points[len(blocks) * 12 :]]), mesh).min())


def _signed(shape: dict[str, Any], points: np.ndarray, mesh: trimesh.Trimesh) -> np.ndarray:
    kind = shape["type"]
    if kind == "half-space":
        return points @ np.array(shape["n"]) - shape["d"]
    if kind == "sphere":
        return np.linalg.norm(points - shape["center"], axis=1) - shape["radius"]
    if kind in ("box", "mesh"):
        turn = Rotation.from_euler("xyz", shape["rpy_deg"], degrees=True).as_matrix()
        local = (points - shape["center" if kind == "box" else "shift"]) @ turn
        if kind == "box":
            over = np.abs(local) - np.array(shape["size"]) / 2
            return np.linalg.norm(np.maximum(over, 0), axis=1) + np.minimum(over.max(axis=1), 0)
        return _to_mesh(mesh, local)
    if kind == "extrusion":
        axis, up = np.array(shape["axis"]), np.array(shape["reference"])
        local = points - shape["origin"]
        flat = shapely.points(local @ np.cross(up, axis), local @ up)
        whole = shapely.Polygon(shape["outline"], shape["holes"])
        side = shapely.distance(whole, flat) - np.where(
            shapely.contains(whole, flat), shapely.distance(whole.boundary, flat), 0.0
        )
        along = local @ axis
        pair = np.stack([side, np.maximum(-along, along - shape["depth"])], axis=1)
        return np.linalg.norm(np.maximum(pair, 0), axis=1) + np.minimum(pair.max(axis=1), 0)
    a, b = np.array(shape["a"]), np.array(shape["b"])
    long = np.linalg.norm(b - a)
    along = (points - a) @ (b - a) / long
    if kind == "capsule":
        near = a + np.clip(along, 0, long)[:, None] * (b - a) / long
        return np.linalg.norm(points - near, axis=1) - shape["radius"]
    off = np.linalg.norm(points - a - along[:, None] * (b - a) / long, axis=1) - shape["radius"]
    pair = np.stack([off, np.maximum(-along, along - long)], axis=1)
    return np.linalg.norm(np.maximum(pair, 0), axis=1) + np.minimum(pair.max(axis=1), 0)


def _to_mesh(mesh: trimesh.Trimesh, points: np.ndarray) -> np.ndarray:
    """A convex mesh: no place is nearer than its farthest face's plane; the far ones are given that."""
    planes = np.full(len(points), -np.inf)
    for normal, corner in zip(mesh.face_normals, mesh.triangles[:, 0], strict=True):
        planes = np.maximum(planes, (points - corner) @ normal)
    out, order, best = planes.copy(), np.argsort(planes), np.inf
    for first in range(0, len(order), 60):
        some = order[first : first + 60]
        if planes[some[0]] >= best:
            break
        inside = planes[some] <= 0
        _, far, _ = trimesh.proximity.closest_point(mesh, points[some])
        out[some] = np.where(inside, planes[some], far)
        best = min(best, float(out[some].min()))
    return out
