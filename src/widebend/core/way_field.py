"""How much room there is at a place, compiled: solids and scans behind one question, the near ones listed by cell.

What a place keeps over what is needed is the least, over solids and scans, of the signed distance less what the centre
line must keep from it. Each of those is 1-Lipschitz, so in a cell of half diagonal h only those can be the least that
are at its middle within 2 h of the least there. The list is made for blocks of cells first, then for the cells.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numba import njit

from .frame import Vector
from .mesh_gap import is_inside, nearest_within
from .obstacles import PlacedMesh
from .solids import BOX, HALFSPACE, PRISM, WIDTH, signed_distance

CELL_MM, BLOCK = 32.0, 4  # a block is this many cells long, wide and high
MOST_LISTED = 24  # a cell with more to look at has no list: everything is looked at
OPEN_MM = 90.0  # where a cell's middle has so much to spare, what is left of it at a place is near enough
FAR = 1e9

# lowest corner, counts; for each cell: what is listed (MOST_LISTED), how many, what its middle has to spare, and its
# signed distance to each scan
Cells = tuple[Vector, Vector, Vector, Vector, Vector, Vector]
Scans = tuple[Vector, Vector, Vector, Vector, Vector]  # triangles, low, high, table (m, 5), place (m, 12)
Field = tuple[Vector, Vector, Cells, Scans]  # solids (n, WIDTH), keep (n + m), cells, scans


def field_of(rows: Vector, keep: Vector, low: Vector, high: Vector, scans: Sequence[PlacedMesh] = ()) -> Field:
    """Solids (n, WIDTH) and scans (m) with what the centre line keeps from each, (n + m) [mm], listed in a box.

    Outside the box there is no room: the search does not look there.
    """
    packed = _packed(scans)
    counts = np.maximum(np.ceil((high - low) / (CELL_MM * BLOCK)).astype(np.int64), 1) * BLOCK
    rows = np.ascontiguousarray(rows, dtype=float).reshape(-1, WIDTH)
    return rows, keep, (low, counts, *list_cells(rows, keep, packed, low, counts)), packed


def _packed(scans: Sequence[PlacedMesh]) -> Scans:
    """Scans one after the other: their triangles and boxes, where each begins, and how each is placed."""
    table: Vector = np.zeros((len(scans), 5), dtype=np.int64)
    place: Vector = np.zeros((len(scans), 12))
    triangles, boxes = 0, 0
    for k, scan in enumerate(scans):
        n, b = len(scan.mesh.rows), len(scan.mesh.low)
        table[k] = triangles, triangles + n, boxes, boxes + b, scan.mesh.closed
        place[k, :9], place[k, 9:] = scan.turn.ravel(), scan.shift
        triangles, boxes = triangles + n, boxes + b
    rows: Vector = np.concatenate([s.mesh.rows for s in scans]) if scans else np.zeros((0, 10))
    low = np.concatenate([s.mesh.low for s in scans]) if scans else np.zeros((0, 3))
    high = np.concatenate([s.mesh.high for s in scans]) if scans else np.zeros((0, 3))
    return rows, low, high, table, place


@njit(cache=True, nogil=True)
def _to_scan(k, x, y, z, scans, known, off):
    """Signed distance [mm] of a place to the k-th scan; `known` is that of a place `off` from it (nan for none).

    Farther than `off` from the skin there, it is on the same side of it here, and no farther than both together.
    """
    triangles, low, high, table, place = scans
    p = np.empty(3)
    dx, dy, dz = x - place[k, 9], y - place[k, 10], z - place[k, 11]
    for c in range(3):  # into the scan's own frame: the transposed turn
        p[c] = place[k, c] * dx + place[k, 3 + c] * dy + place[k, 6 + c] * dz
    a, b = table[k, 2], table[k, 3]
    own = triangles[table[k, 0] : table[k, 1]]
    far = FAR if math.isnan(known) else abs(known) + off + 1e-6
    d, _ = nearest_within(own, low[a:b], high[a:b], p[0], p[1], p[2], far)
    if table[k, 4] == 0:
        return d
    if abs(known) > off:  # never where it is not a number
        return math.copysign(d, known)
    return -d if is_inside(own, low[a:b], high[a:b], p) else d


@njit(cache=True, nogil=True)
def spare_at(x, y, z, field, grad):
    """How much more than needed a centre-line point keeps from the nearest thing [mm], and which (-1: none near).

    Where there is plenty it may be said less than it is. grad (3,) is scratch: making it here would cost more than the
    looking.
    """
    rows, keep = field[0], field[1]
    low, counts, listed, many, spare, known = field[2]
    i, j, k = int((x - low[0]) // CELL_MM), int((y - low[1]) // CELL_MM), int((z - low[2]) // CELL_MM)
    if not (0 <= i < counts[0] and 0 <= j < counts[1] and 0 <= k < counts[2]):
        out = 1.0
        for c, v in ((0, x), (1, y), (2, z)):
            out += max(0.0, low[c] - v, v - low[c] - counts[c] * CELL_MM)
        return -out, -1
    cell = (i * counts[1] + j) * counts[2] + k
    dx, dy, dz = (x - low[0] - (i + 0.5) * CELL_MM, y - low[1] - (j + 0.5) * CELL_MM, z - low[2] - (k + 0.5) * CELL_MM)
    off = math.sqrt(dx * dx + dy * dy + dz * dz)
    if spare[cell] >= OPEN_MM:
        return spare[cell] - off, -1
    n, found = rows.shape[0], many[cell]
    best, which = FAR, -1
    for q in range(found if found >= 0 else keep.shape[0]):
        one = listed[cell, q] if found >= 0 else q
        if one < n:
            d = signed_distance(rows[one], x, y, z, grad) - keep[one]
        else:
            d = _to_scan(one - n, x, y, z, field[3], known[cell, one - n], off) - keep[one]
        if d < best:
            best, which = d, one
    return best, which


@njit(cache=True, nogil=True)
def list_cells(rows, keep, scans, low, counts):  # noqa: C901 — one walk over blocks and cells
    """For each cell what can be the nearest in it, how many those are (-1 for too many to list), what its middle has to
    spare, and its signed distance to each scan.
    """
    cells = counts[0] * counts[1] * counts[2]
    m, n = keep.shape[0], rows.shape[0]
    listed, many = np.zeros((cells, MOST_LISTED), dtype=np.int16), np.zeros(cells, dtype=np.int16)
    spare, known = np.empty(cells), np.full((cells, m - n), FAR)
    near, values, block_known = np.empty(m, dtype=np.int64), np.empty(m), np.empty(m - n)
    middle, grad = np.empty(3), np.empty(3)
    reach = BLOCK * CELL_MM * 0.8660254037844386
    for bi in range(counts[0] // BLOCK):
        for bj in range(counts[1] // BLOCK):
            for bk in range(counts[2] // BLOCK):
                middle[0] = low[0] + (bi + 0.5) * BLOCK * CELL_MM
                middle[1] = low[1] + (bj + 0.5) * BLOCK * CELL_MM
                middle[2] = low[2] + (bk + 0.5) * BLOCK * CELL_MM
                best = FAR
                for q in range(m):
                    if q < n:
                        values[q] = signed_distance(rows[q], middle[0], middle[1], middle[2], grad) - keep[q]
                    else:
                        d = _to_scan(q - n, middle[0], middle[1], middle[2], scans, math.nan, 0.0)
                        block_known[q - n], values[q] = d, d - keep[q]
                    best = min(best, values[q])
                block = 0
                for q in range(m):
                    if values[q] <= best + 2.0 * reach:
                        near[block] = q
                        block += 1
                for i in range(bi * BLOCK, bi * BLOCK + BLOCK):
                    for j in range(bj * BLOCK, bj * BLOCK + BLOCK):
                        for k in range(bk * BLOCK, bk * BLOCK + BLOCK):
                            cell = (i * counts[1] + j) * counts[2] + k
                            x, y, z = (low[0] + (i + 0.5) * CELL_MM, low[1] + (j + 0.5) * CELL_MM,
                                       low[2] + (k + 0.5) * CELL_MM)  # fmt: skip
                            off = math.sqrt((x - middle[0]) ** 2 + (y - middle[1]) ** 2 + (z - middle[2]) ** 2)
                            best = FAR
                            for q in range(block):
                                one = near[q]
                                if one < n:
                                    values[q] = signed_distance(rows[one], x, y, z, grad) - keep[one]
                                else:
                                    d = _to_scan(one - n, x, y, z, scans, block_known[one - n], off)
                                    known[cell, one - n], values[q] = d, d - keep[one]
                                best = min(best, values[q])
                            spare[cell], many[cell] = best, _listed(near[:block], values, best, listed[cell])
    return listed, many, spare, known


@njit(cache=True, nogil=True)
def _listed(near, values, best, out):
    """What can be the nearest in a cell whose middle has these values; how many, or -1."""
    found = 0
    for q in range(near.shape[0]):
        if values[q] <= best + 2.0 * CELL_MM * 0.8660254037844386:
            if found == MOST_LISTED:
                return -1
            out[found] = near[q]
            found += 1
    return found


def solid_boxes(rows: Vector) -> Vector:
    """The lowest and highest corner of the box round each solid, (n, 2, 3) [mm]; nan for a half-space."""
    return np.array([_box(row) for row in rows]).reshape(-1, 2, 3)


def _box(row: Vector) -> Vector:
    if row[0] == HALFSPACE:
        return np.full((2, 3), np.nan)
    if row[0] == BOX:
        reach = np.abs(row[7:16].reshape(3, 3).T) @ row[4:7]
        return np.array([row[1:4] - reach, row[1:4] + reach])
    if row[0] == PRISM:
        across, up, along = row[7:16].reshape(3, 3)
        flat = row[16 : 16 + 2 * int(row[5])].reshape(-1, 2)
        points = row[1:4] + flat[:, :1] * across + flat[:, 1:] * up
        points = np.concatenate([points - row[4] * along, points + row[4] * along])
        return np.array([points.min(axis=0), points.max(axis=0)])
    ends = row[1:7].reshape(2, 3)
    return np.array([ends.min(axis=0) - row[7], ends.max(axis=0) + row[7]])


def scan_box(scan: PlacedMesh) -> Vector:
    """The box round a placed scan, (2, 3) [mm]."""
    low, high = scan.mesh.low[0], scan.mesh.high[0]
    corners = np.array([[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)])
    placed = corners @ scan.turn.T + scan.shift
    return np.array([placed.min(axis=0), placed.max(axis=0)])
