"""How much room there is at a place, compiled: solids and scans behind one question, asked of a grid where it can be.

What a place keeps over what is needed is the least, over solids and scans, of the signed distance less what the centre
line must keep from it. Each of those is 1-Lipschitz, and so is the least. So between the middles of eight cells it can
be interpolated and is wrong by half a cell's diagonal at most: only where that is not enough to say whether there is
room is it asked of the things themselves. Of those only the ones can be the nearest in a cell of half diagonal h that
are at its middle within 2 h of the least there; they are listed, for blocks of cells first, then for the cells.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numba import njit

from ..geometry import BOX, HALFSPACE, PRISM, WIDTH, is_inside, leaf, nearest_within, signed_distance
from ..laying import PlacedMesh
from ..space import Vector

CELL_MM, BLOCK = 24.0, 4  # a block is this many cells long, wide and high
HALF_DIAGONAL = 0.8660254037844386  # of a cell with edges of 1
NEAR_MM = HALF_DIAGONAL * CELL_MM  # between cells' middles the room is known to so much
MOST_LISTED = 24  # a cell with more to look at has no list: everything is looked at
HEAD = 6  # before a grid's values: its lowest corner, how many cells long, wide, high
FAR = 1e9

# One array holds a grid, head and all, and few arrays make a field: compiled code counts the references to each array
# it is handed, and two threads that count the same ones wait for each other.
Scans = tuple[Vector, Vector, Vector, Vector, Vector, Vector]  # triangles, low, high, (m, 5), (m, 12), (cells, m)
Field = tuple[Vector, Vector, Vector, Vector, Scans]  # grid, solids (n, WIDTH), keep (n + m), lists, scans


def field_of(rows: Vector, keep: Vector, low: Vector, high: Vector, scans: Sequence[PlacedMesh] = ()) -> Field:
    """Solids (n, WIDTH) and scans (m) with what the centre line keeps from each, (n + m) [mm], listed in a box.

    Outside the box there is no room: the search does not look there.
    """
    counts = np.maximum(np.ceil((high - low) / (CELL_MM * BLOCK)).astype(np.int64), 1) * BLOCK
    cells = int(np.prod(counts))
    grid = np.concatenate([low, counts, np.zeros(cells)])
    lists: Vector = np.zeros((cells, 1 + MOST_LISTED), dtype=np.int16)  # how many, and which
    rows = np.ascontiguousarray(rows, dtype=float).reshape(-1, WIDTH)
    field = grid, rows, keep, lists, _packed(scans, cells)
    middle = int(counts[0]) // BLOCK // 2
    with ThreadPoolExecutor(2) as beside:
        list(beside.map(lambda span: list_cells(field, *span), ((0, middle), (middle, int(counts[0]) // BLOCK))))
    return field


def _packed(scans: Sequence[PlacedMesh], cells: int) -> Scans:
    """Scans one after the other: their triangles and boxes, where each begins, how each is placed, and room for the
    signed distance of each cell's middle to each.
    """
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
    return rows, low, high, table, place, np.full((cells, len(scans)), FAR)


@njit(cache=True, nogil=True, error_model="numpy")
def _to_scan(k, x, y, z, scans, known, off):
    """Signed distance [mm] of a place to the k-th scan; `known` is that of a place `off` from it (nan for none).

    Farther than `off` from the skin there, it is on the same side of it here, and no farther than both together.
    """
    triangles, low, high, table, place, _ = scans
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


@leaf(forceinline=True)
def spare_at(x, y, z, field, grad):
    """How much more than needed a centre-line point keeps from the nearest thing [mm].

    Exact within NEAR_MM of what is needed, interpolated further off and further in. grad (3,) is scratch: making it
    here would cost more than the looking.
    """
    room, cell = about(x, y, z, field[0])
    if cell < 0 or room > NEAR_MM or room < -NEAR_MM:
        return room
    return _nearest(x, y, z, cell, field, grad)


@leaf(forceinline=True)
def about(x, y, z, grid):
    """The room interpolated between the middles of eight cells [mm], and the cell a place is in; -1 outside of all."""
    ny, nz = int(grid[4]), int(grid[5])
    u, v, w = (x - grid[0]) / CELL_MM - 0.5, (y - grid[1]) / CELL_MM - 0.5, (z - grid[2]) / CELL_MM - 0.5
    if not (-0.5 <= u < grid[3] - 0.5 and -0.5 <= v < grid[4] - 0.5 and -0.5 <= w < grid[5] - 0.5):
        out = max(-0.5 - u, u - grid[3] + 0.5, 0.0) + max(-0.5 - v, v - grid[4] + 0.5, 0.0)
        return -1.0 - CELL_MM * (out + max(-0.5 - w, w - grid[5] + 0.5, 0.0)), -1
    u, v, w = min(max(u, 0.0), grid[3] - 1.001), min(max(v, 0.0), grid[4] - 1.001), min(max(w, 0.0), grid[5] - 1.001)
    i, j, k = int(u), int(v), int(w)
    u, v, w = u - i, v - j, w - k
    first = (i * ny + j) * nz + k
    cell = first + (ny * nz if u > 0.5 else 0) + (nz if v > 0.5 else 0) + (1 if w > 0.5 else 0)
    a = HEAD + first
    b = a + ny * nz
    near = (grid[a] * (1 - w) + grid[a + 1] * w) * (1 - v) + (grid[a + nz] * (1 - w) + grid[a + nz + 1] * w) * v
    far = (grid[b] * (1 - w) + grid[b + 1] * w) * (1 - v) + (grid[b + nz] * (1 - w) + grid[b + nz + 1] * w) * v
    return near * (1 - u) + far * u, cell


@leaf()
def _nearest(x, y, z, cell, field, grad):
    """Exactly how much more than needed a place in a cell keeps [mm], of those listed there."""
    grid, rows, keep, lists, scans = field
    n, found, best = rows.shape[0], lists[cell, 0], FAR
    for q in range(found if found >= 0 else keep.shape[0]):
        one = lists[cell, q + 1] if found >= 0 else q
        if one < n:
            d = signed_distance(rows[one], x, y, z, grad) - keep[one]
        else:
            off = _from_middle(x, y, z, cell, grid)
            d = _to_scan(one - n, x, y, z, scans, scans[5][cell, one - n], off) - keep[one]
        best = min(best, d)
    return best


@leaf()
def _from_middle(x, y, z, cell, grid):
    """How far a place is from the middle of a cell [mm]."""
    ny, nz = int(grid[4]), int(grid[5])
    dx = x - grid[0] - (cell // (ny * nz) + 0.5) * CELL_MM
    dy = y - grid[1] - (cell // nz % ny + 0.5) * CELL_MM
    dz = z - grid[2] - (cell % nz + 0.5) * CELL_MM
    return math.sqrt(dx * dx + dy * dy + dz * dz)


@njit(cache=True, nogil=True, error_model="numpy")
def list_cells(field, first, last):
    """For the blocks from `first` to `last` along: what can be the nearest in each cell, how many those are (-1 for too
    many to list), what its middle has to spare, and its signed distance to each scan.
    """
    grid, rows, keep, _, scans = field
    m, n, size = keep.shape[0], rows.shape[0], BLOCK * CELL_MM
    near, values, known = np.empty(m, dtype=np.int64), np.empty(m), np.empty(m - n)
    middle, grad = np.empty(3), np.empty(3)
    for bi in range(first, last):
        for bj in range(int(grid[4]) // BLOCK):
            for bk in range(int(grid[5]) // BLOCK):
                middle[0], middle[1] = grid[0] + (bi + 0.5) * size, grid[1] + (bj + 0.5) * size
                middle[2] = grid[2] + (bk + 0.5) * size
                best = FAR
                for q in range(m):
                    if q < n:
                        values[q] = signed_distance(rows[q], middle[0], middle[1], middle[2], grad) - keep[q]
                    else:
                        known[q - n] = _to_scan(q - n, middle[0], middle[1], middle[2], scans, math.nan, 0.0)
                        values[q] = known[q - n] - keep[q]
                    best = min(best, values[q])
                block = 0
                for q in range(m):
                    if values[q] <= best + 2.0 * HALF_DIAGONAL * size:
                        near[block] = q
                        block += 1
                _list_block(field, bi * BLOCK, bj * BLOCK, bk * BLOCK, near[:block], values, known, grad)


@njit(cache=True, nogil=True, error_model="numpy")
def _list_block(field, i0, j0, k0, near, values, known, grad):
    """The cells of a block whose middle has `known` signed distances to the scans, from what is near it."""
    grid, rows, keep, lists, scans = field
    ny, nz, n = int(grid[4]), int(grid[5]), rows.shape[0]
    for c in range(BLOCK**3):
        a, b, d = c // BLOCK**2, c // BLOCK % BLOCK, c % BLOCK
        cell = ((i0 + a) * ny + j0 + b) * nz + k0 + d
        x, y = grid[0] + (i0 + a + 0.5) * CELL_MM, grid[1] + (j0 + b + 0.5) * CELL_MM
        z = grid[2] + (k0 + d + 0.5) * CELL_MM
        # a neighbour's distance to a scan says how far to look: the cell before, and at first the block's middle
        back = 1 if d > 0 else nz if b > 0 else ny * nz if a > 0 else 0
        off = CELL_MM if back else CELL_MM * HALF_DIAGONAL * (BLOCK - 1)
        best = FAR
        for q in range(near.shape[0]):
            one = near[q]
            if one < n:
                values[q] = signed_distance(rows[one], x, y, z, grad) - keep[one]
            else:
                before = scans[5][cell - back, one - n] if back else known[one - n]
                scans[5][cell, one - n] = _to_scan(one - n, x, y, z, scans, before, off)
                values[q] = scans[5][cell, one - n] - keep[one]
            best = min(best, values[q])
        grid[HEAD + cell] = best
        lists[cell, 0] = _listed(near, values, best, lists[cell, 1:])


@leaf()
def _listed(near, values, best, out):
    """Return the solids that can be nearest in a cell whose middle has these values; how many, or -1."""
    found = 0
    for q in range(near.shape[0]):
        if values[q] <= best + 2.0 * NEAR_MM:
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


@njit(cache=True, nogil=True, error_model="numpy")
def spares(points, field):
    """How much more than needed each point (n, 3) keeps from the nearest solid (n,) [mm]."""
    out, grad = np.empty(points.shape[0]), np.empty(3)
    for i in range(points.shape[0]):
        out[i] = spare_at(points[i, 0], points[i, 1], points[i, 2], field, grad)
    return out
