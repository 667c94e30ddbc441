"""Random tubes and things for judging clearance, and a signed distance of their own: numpy, none of our code."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass
class Scene:
    """One tube segment (kernel row) and one solid (kernel row)."""

    seg: np.ndarray
    row: np.ndarray


def direction(rng: np.random.Generator) -> np.ndarray:
    v = rng.normal(size=3)
    return v / np.linalg.norm(v)


def random_scene(rng: np.random.Generator, *, spread: float = 200.0) -> Scene:
    r, p, f = rng.uniform(10, 40), rng.uniform(-spread, spread, 3), direction(rng)
    side = np.cross(f, direction(rng))
    side /= np.linalg.norm(side)
    if rng.random() < 0.5:
        clr = rng.uniform(1.0, 4.0) * r * 1.01
        seg = np.r_[1, clr * rng.uniform(0.2, np.pi), r, p, f, side, clr, 3]
    else:
        seg = np.r_[0, rng.uniform(5, 400), r, p, f, side, 0, 3]
    return Scene(seg, random_solid(rng, spread))


def random_solid(rng: np.random.Generator, spread: float) -> np.ndarray:
    kind = int(rng.integers(4))
    if kind == 0:
        axes = np.linalg.qr(rng.normal(size=(3, 3)))[0]
        axes *= np.sign(np.linalg.det(axes))
        return np.r_[0, rng.uniform(-spread, spread, 3), rng.uniform(5, 150, 3), axes.ravel()]
    if kind == 3:
        return np.r_[3, direction(rng), rng.uniform(-spread, spread), np.zeros(11)]
    a = rng.uniform(-spread, spread, 3)
    return np.r_[kind, a, a + direction(rng) * rng.uniform(10, 300), rng.uniform(5, 80), np.zeros(8)]


def random_prism(rng: np.random.Generator, spread: float) -> np.ndarray:
    """A convex outline of 3 to 12 corners on an ellipse, moved along its axis: a PRISM row."""
    n = int(rng.integers(3, 13))
    t = np.sort(rng.uniform(0, 2 * np.pi, n))
    flat = np.column_stack([rng.uniform(30, 150) * np.cos(t), rng.uniform(30, 150) * np.sin(t)])
    axes = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    axes *= np.sign(np.linalg.det(axes))
    head = np.r_[4, rng.uniform(-spread, spread, 3), rng.uniform(5, 120), n, 0, axes.ravel()]
    return np.r_[head, flat.ravel(), np.zeros(32 - 2 * n)]


def _signed_prism(row: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Flat distance to the polygon (nearest edge; inside by every edge's side), then the ends."""
    local = (points - row[1:4]) @ row[7:16].reshape(3, 3).T
    flat = row[16 : 16 + 2 * int(row[5])].reshape(-1, 2)
    edge = np.roll(flat, -1, axis=0) - flat
    to = local[:, None, :2] - flat
    share = np.clip((to * edge).sum(axis=2) / (edge**2).sum(axis=1), 0, 1)
    near = np.linalg.norm(to - share[..., None] * edge, axis=2).min(axis=1)
    left_of = edge[:, 0] * to[..., 1] - edge[:, 1] * to[..., 0]
    side = np.where((left_of >= 0).all(axis=1), -near, near)
    pair = np.stack([side, np.abs(local[:, 2]) - row[4]], axis=1)
    return np.linalg.norm(np.maximum(pair, 0), axis=1) + np.minimum(pair.max(axis=1), 0)


def signed(row: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Signed distance of points (n, 3) to a solid."""
    kind = int(row[0])
    if kind == 4:
        return _signed_prism(row, points)
    if kind == 3:
        return points @ row[1:4] - row[4]
    if kind == 0:
        over = np.abs((points - row[1:4]) @ row[7:16].reshape(3, 3).T) - row[4:7]
        return np.linalg.norm(np.maximum(over, 0), axis=1) + np.minimum(over.max(axis=1), 0)
    a, axis = row[1:4], row[4:7] - row[1:4]
    length = np.linalg.norm(axis)
    along = (points - a) @ axis / length
    if kind == 2:
        near = a + np.clip(along, 0, length)[:, None] * axis / length
        return np.linalg.norm(points - near, axis=1) - row[7]
    off = np.linalg.norm(points - a - along[:, None] * axis / length, axis=1) - row[7]
    pair = np.stack([off, np.abs(along - length / 2) - length / 2], axis=1)
    return np.linalg.norm(np.maximum(pair, 0), axis=1) + np.minimum(pair.max(axis=1), 0)


def centre_points(seg: np.ndarray, n: int) -> tuple[np.ndarray, np.ndarray]:
    """Points and flows along a segment, (n, 3) each."""
    s = np.linspace(0, seg[1], n)[:, None]
    p, f, side = seg[3:6], seg[6:9], seg[9:12]
    if seg[0] == 0:
        return p + s * f, np.repeat(f[None], n, axis=0)
    t = s / seg[12]
    return p + seg[12] * (np.sin(t) * f + (1 - np.cos(t)) * side), np.cos(t) * f + np.sin(t) * side


def sampled_gap(scene: Scene) -> float:
    """The gap by fine sampling, by the definition in the docs: local minima of the centre line, both end discs, and
    how deep the deepest place of a clashing skin is; a disc that clashes by the least way it must be moved to be out.
    """
    seg, row = scene.seg, scene.row
    n = 4001
    points, flows = centre_points(seg, n)
    f = signed(row, points)
    inner = np.flatnonzero((f[1:-1] <= f[:-2]) & (f[1:-1] <= f[2:])) + 1
    found = [float(f[i]) - seg[2] for i in inner]
    found += [_disc(points[i], flows[i], seg[2], row) for i in (0, n - 1)]
    if min(found) >= 0:
        return min(found)
    return min(*found, deepest_skin(seg, row, points, flows))


def deepest_skin(seg: np.ndarray, row: np.ndarray, points: np.ndarray, flows: np.ndarray) -> float:
    """Least signed distance of the skin: rings all along, then finer about the best place."""
    across = np.cross(seg[6:9], seg[9:12])  # square to every flow of a plane curve
    s, t, reach_s, reach_t, best = 0.5, 0.0, 0.5, np.pi, np.inf
    for _ in range(6):
        at = np.clip(np.linspace(s - reach_s, s + reach_s, 81), 0, 1) * (len(points) - 1)
        turns = np.linspace(t - reach_t, t + reach_t, 73)
        k = np.round(at).astype(int)
        other = np.cross(flows[k], across)
        ring = np.cos(turns)[None, :, None] * across + np.sin(turns)[None, :, None] * other[:, None]
        d = signed(row, (points[k][:, None] + seg[2] * ring).reshape(-1, 3))
        low = int(d.argmin())
        best = min(best, float(d[low]))
        s, t = at[low // 73] / (len(points) - 1), turns[low % 73]
        reach_s, reach_t = 0.2 * reach_s, 0.2 * reach_t
    return best


def support(row: np.ndarray, ways: np.ndarray) -> np.ndarray:
    """How far a solid reaches along unit directions (n, 3), from the origin."""
    kind = int(row[0])
    if kind == 3:
        return np.where(ways @ row[1:4] > 1 - 1e-12, row[4], np.inf)
    if kind in (0, 4):
        local = ways @ row[7:16].reshape(3, 3).T
        if kind == 0:
            return ways @ row[1:4] + np.abs(local) @ row[4:7]
        flat = row[16 : 16 + 2 * int(row[5])].reshape(-1, 2)
        return ways @ row[1:4] + (local[:, :2] @ flat.T).max(axis=1) + np.abs(local[:, 2]) * row[4]
    axis = (row[4:7] - row[1:4]) / np.linalg.norm(row[4:7] - row[1:4])
    wide = np.sqrt(np.maximum(0.0, 1 - (ways @ axis) ** 2)) if kind == 1 else 1.0
    return np.maximum(ways @ row[1:4], ways @ row[4:7]) + row[7] * wide


def _way_out(centre: np.ndarray, flow: np.ndarray, r: float, row: np.ndarray) -> float:
    """Minus the least way a clashing disc must be moved to be out: over directions, finer and finer round the best."""
    rng, reach = np.random.default_rng(0), 2.0
    ways = np.eye(3)[[2]] if row[0] != 3 else row[None, 1:4]
    best, best_way = -np.inf, ways[0]
    for _ in range(14):
        tries = best_way + reach * rng.normal(size=(1500, 3))
        ways = tries / np.linalg.norm(tries, axis=1)[:, None] if row[0] != 3 else ways
        apart = ways @ centre - r * np.sqrt(np.maximum(0.0, 1 - (ways @ flow) ** 2)) - support(row, ways)
        if apart.max() > best:
            best, best_way = float(apart.max()), ways[apart.argmax()]
        reach *= 0.45
    return best


def _disc(centre: np.ndarray, flow: np.ndarray, r: float, row: np.ndarray) -> float:
    u = np.cross(flow, [1.0, 0, 0] if abs(flow[0]) < 0.8 else [0, 1.0, 0])
    u /= np.linalg.norm(u)
    v = np.cross(flow, u)
    best, x0, y0, reach = np.inf, 0.0, 0.0, r
    for _ in range(7):  # a grid on the disc, then finer and finer round its best place
        x, y = np.meshgrid(np.linspace(x0 - reach, x0 + reach, 81), np.linspace(y0 - reach, y0 + reach, 81))
        size = np.maximum(np.hypot(x, y) / r, 1.0)
        x, y = (x / size).ravel(), (y / size).ravel()
        d = signed(row, centre + x[:, None] * u + y[:, None] * v)
        k = int(d.argmin())
        best, x0, y0, reach = min(best, float(d[k])), x[k], y[k], reach * 0.2
    return best if best >= 0 else _way_out(centre, flow, r, row)
