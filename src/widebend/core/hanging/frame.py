"""A frame of round members in space on springs: what it carries, how far it goes, how it swings.

Twelve-degree-of-freedom Euler-Bernoulli beams with consistent masses (Przemieniecki, Theory of Matrix Structural
Analysis, from memory). Round tubes bend alike in every direction, so a member needs no orientation but its own line.
Units: N, mm, kg for what is given; inside t and mm, so that forces are N and frequencies come out in rad/s.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import eigh
from scipy.sparse import coo_matrix, csc_matrix
from scipy.sparse.linalg import LinearOperator, eigsh, splu

from ..errors import InputError
from ..space import Vector

GRAVITY_MM_S2 = 9806.65
T_PER_KG = 1e-3
DOWN = np.array([0.0, 0.0, -1.0])
LEAST_LENGTH_MM = 1e-6
LEAST_HELD = 1e-12  # of a node's own stiffness what must be left when all that it leans on has given way
SMALL = 60  # so few degrees of freedom are solved whole
LUMP_MM2 = 60.0**2  # a part's mass lies about so far from its middle: a can of 200 by 100 mm, in round figures
HELD_BY_NOTHING = "something of it is held by nothing"


@dataclass(frozen=True)
class Member:
    """A straight between two nodes (by number): axial EA [N], bending EI and twisting GJ [N mm2], mass [kg/mm]."""

    a: int
    b: int
    ea: float
    ei: float
    gj: float
    kg_mm: float = 0.0


@dataclass(frozen=True)
class Spring:
    """Something that holds a node against the ground: stiffness (6, 6), N and mm, about the node."""

    node: int
    stiffness: Vector


@dataclass(frozen=True)
class Frame:
    """Nodes (n, 3) [mm], members, springs to the ground, and what hangs at single nodes: node -> mass [kg]. `rigid` are
    pairs of nodes on one stiff body; `fixed` are nodes that stay where they are, one to a body.
    """

    nodes: Vector
    members: tuple[Member, ...]
    springs: tuple[Spring, ...] = ()
    lumps: tuple[tuple[int, float], ...] = ()
    rigid: tuple[tuple[int, int], ...] = ()
    fixed: tuple[int, ...] = ()


@dataclass(frozen=True)
class Hung:
    """A frame under load: how far each node goes and turns (n, 6) [mm, rad]; `ends` (members, 12) what each member's
    ends are pushed with, along the ground's axes [N, N mm]; `held` (springs, 6) what each spring does to its node, and
    `fixed` (fixed, 6) what holds those nodes does.
    """

    moved: Vector
    ends: Vector
    held: Vector
    fixed: Vector


@dataclass(frozen=True)
class Mode:
    """A way the frame swings by itself: its frequency [Hz] and its shape (n, 3), its greatest move 1."""

    hz: float
    shape: Vector


class Solved:
    """A frame made ready once, for any number of loads and for its modes. Raises InputError where something is held by
    nothing.
    """

    def __init__(self, frame: Frame) -> None:
        self.frame = frame
        self._lines = _lines(frame)
        self._own = _stiffness(frame, self._lines)
        self._body, self._arms = _bodies(frame)
        free = sorted(set(self._body) - {self._body[n] for n in frame.fixed})
        self._place = np.full(len(frame.nodes) + 1, len(free))  # what is fixed goes to a place that is thrown away
        self._place[free] = np.arange(len(free))
        self._size = 6 * len(free)
        if not self._size:
            raise InputError("all of it is fixed: there is nothing to hang")
        arms = [(s.node, self._arms[s.node].T @ s.stiffness @ self._arms[s.node]) for s in frame.springs]
        self.stiffness = self._assembled(self._own, arms)
        try:
            self._factor = splu(
                self.stiffness, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
            )
        except RuntimeError as exc:  # what it says of a matrix that has no inverse
            raise InputError(HELD_BY_NOTHING) from exc
        pivots = self._factor.U.diagonal()[self._factor.perm_c]
        if np.min(pivots / self.stiffness.diagonal()) < LEAST_HELD:
            raise InputError(HELD_BY_NOTHING)

    def under(self, loads: Vector) -> Hung:
        """Return the movement under loads (n, 6) [N, N mm] at the nodes."""
        at_bodies = np.zeros((self._size // 6 + 1, 6))
        np.add.at(at_bodies, self._place[self._body], np.einsum("nij,ni->nj", self._arms, loads))
        asked = at_bodies[:-1].ravel()
        found = self._factor.solve(asked)
        found += self._factor.solve(asked - self.stiffness @ found)  # refined once
        moved = self._at_nodes(found)
        pairs = _pairs(self.frame)
        ends = np.einsum("mij,mj->mi", self._own, moved[pairs].reshape(-1, 12))
        held = np.array([-s.stiffness @ moved[s.node] for s in self.frame.springs]).reshape(-1, 6)
        return Hung(moved, ends, held, self._reactions(ends, loads, held))

    def each(self, loads: Vector) -> Vector:
        """Return the movement of the nodes under each of several loads at them (n, 6, loads): (n, 6, loads)."""
        count = loads.shape[2]
        at_bodies = np.zeros((self._size // 6 + 1, 6, count))
        np.add.at(at_bodies, self._place[self._body], np.einsum("nij,nik->njk", self._arms, loads))
        found = self._factor.solve(at_bodies[:-1].reshape(self._size, count)) if count else np.zeros((self._size, 0))
        whole = np.concatenate([found.reshape(self._size // 6, 6, count), np.zeros((1, 6, count))])
        return np.asarray(np.einsum("nij,njk->nik", self._arms, whole[self._place[self._body]]))

    def carried_along(self, moved: Vector) -> tuple[Vector, Vector]:
        """Return the effect of moves of the fixed nodes (n, 6) [mm, rad]: how far all nodes on their bodies go, all
        else at rest (n, 6), and the loads at the nodes (n, 6) that the rest then feels.
        """
        by_body = np.zeros((len(self.frame.nodes), 6))
        for node in self.frame.fixed:
            by_body[self._body[node]] = moved[node]
        everywhere = np.einsum("nij,nj->ni", self._arms, by_body[self._body])
        pairs = _pairs(self.frame)
        ends = np.einsum("mij,mj->mi", self._own, everywhere[pairs].reshape(-1, 12))
        loads = np.zeros((len(self.frame.nodes), 6))
        np.add.at(loads, pairs[:, 0], -ends[:, :6])
        np.add.at(loads, pairs[:, 1], -ends[:, 6:])
        return everywhere, loads

    def own(self, members: Sequence[int]) -> Vector:
        """The stiffness of some members by number (members, 12, 12)."""
        return np.asarray(self._own[list(members)])

    def _reactions(self, ends: Vector, loads: Vector, held: Vector) -> Vector:
        """Return the reactions at the fixed nodes: all that the rest does to their bodies, turned round."""
        every = np.zeros((len(self.frame.nodes), 6))
        pairs = _pairs(self.frame)
        np.add.at(every, pairs[:, 0], ends[:, :6])
        np.add.at(every, pairs[:, 1], ends[:, 6:])
        every -= loads
        for spring, force in zip(self.frame.springs, held, strict=True):
            every[spring.node] -= force
        own = np.einsum("nij,ni->nj", self._arms, every)
        return np.array([own[self._body == self._body[n]].sum(axis=0) for n in self.frame.fixed]).reshape(-1, 6)

    def modes(self, count: int) -> list[Mode]:
        """The first ways of swinging, slowest first (Lanczos, the stiffness inverted; of a small frame all at once)."""
        lumps = []
        for node, kg in self.frame.lumps:
            arm = self._arms[node]
            own = kg * T_PER_KG * np.diag([1.0] * 3 + [LUMP_MM2] * 3)
            lumps.append((node, arm.T @ own @ arm))
        mass = self._assembled(_masses(self.frame, self._lines), lumps)
        if self._size <= SMALL:
            shares, every = eigh(mass.toarray(), self.stiffness.toarray(), check_finite=False)
            slow = [k for k in np.argsort(-shares)[:count] if shares[k] > 0]
            squares, ways = 1.0 / shares[slow], every[:, slow]
        else:
            inverse = LinearOperator((self._size, self._size), matvec=self._factor.solve)
            start = np.random.default_rng(5).standard_normal(self._size)  # the same every time
            squares, ways = eigsh(self.stiffness, count, mass, sigma=0.0, OPinv=inverse, v0=start)
        found = []
        for square, way in sorted(zip(squares, ways.T, strict=True), key=lambda one: float(one[0])):
            shape = self._at_nodes(way)[:, :3]
            biggest = float(np.abs(shape).max())
            found.append(Mode(math.sqrt(max(0.0, float(square))) / (2 * math.pi), shape / (biggest or 1.0)))
        return found

    def _at_nodes(self, found: Vector) -> Vector:
        """Return the bodies' movement (6 bodies) as the nodes' (n, 6)."""
        whole = np.vstack([found.reshape(-1, 6), np.zeros((1, 6))])
        return np.asarray(np.einsum("nij,nj->ni", self._arms, whole[self._place[self._body]]))

    def _assembled(self, own: Vector, blocks: Sequence[tuple[int, Vector]]) -> csc_matrix:
        """The bodies' whole matrix of member matrices (members, 12, 12) and of what is at single nodes (6, 6)."""
        pairs = _pairs(self.frame)
        arms = np.zeros((len(pairs), 12, 12))
        arms[:, :6, :6], arms[:, 6:, 6:] = self._arms[pairs[:, 0]], self._arms[pairs[:, 1]]
        moved = np.swapaxes(arms, 1, 2) @ own @ arms
        places = (6 * self._place[self._body[pairs]][:, :, None] + np.arange(6)).reshape(-1, 12)
        single = 6 * self._place[self._body[[node for node, _ in blocks]]][:, None] + np.arange(6) if blocks else None
        rows, columns, values = [_spread(places, 1)], [_spread(places, 0)], [moved.ravel()]
        if single is not None:
            rows.append(_spread(single, 1))
            columns.append(_spread(single, 0))
            values.append(np.array([block for _, block in blocks]).ravel())
        row, column, value = (np.concatenate(each) for each in (rows, columns, values))
        kept = (row < self._size) & (column < self._size)  # what is fixed is thrown away
        return coo_matrix((value[kept], (row[kept], column[kept])), shape=(self._size, self._size)).tocsc()


def _spread(places: Vector, axis: int) -> Vector:
    """The row (1) or column (0) of every entry of matrices whose places are (n, k), one after the other."""
    count = places.shape[1]
    return np.asarray(np.repeat(places, count, axis=1) if axis else np.tile(places, (1, count))).ravel()


def _bodies(frame: Frame) -> tuple[Vector, Vector]:
    """The node that stands for each node's stiff body (n,), a fixed one where there is one, and what each node does of
    what that does (n, 6, 6).
    """
    count, fixed = len(frame.nodes), set(frame.fixed)
    root = list(range(count))

    def find(n: int) -> int:
        while root[n] != n:
            n = root[n]
        return n

    for a, b in frame.rigid:
        one, other = find(a), find(b)
        if one != other:
            first, last = (other, one) if other in fixed else (one, other)
            root[last] = first
    body = np.array([find(n) for n in range(count)], dtype=int)
    arms = np.tile(np.eye(6), (count, 1, 1))
    for n, off in enumerate(frame.nodes - frame.nodes[body]):
        arms[n, :3] = lever(off)
    return body, arms


def _pairs(frame: Frame) -> NDArray[np.intp]:
    return np.array([(m.a, m.b) for m in frame.members], dtype=int).reshape(-1, 2)


def weight(frame: Frame, water: Vector | None = None, way: Vector = DOWN) -> Vector:
    """The weight of members and lumps as loads (n, 6): of a member half at each end, with the couples that its bending
    needs. `way` (3,) is down and one long, or longer and aslant in a turn of the road.
    """
    loads, pairs = np.zeros((len(frame.nodes), 6)), _pairs(frame)
    long, ways = _lines(frame)
    kg_mm = np.array([m.kg_mm for m in frame.members]) + (0.0 if water is None else water)
    each = kg_mm * T_PER_KG * GRAVITY_MM_S2  # N/mm
    force = (each * long / 2)[:, None] * way
    couple = (each * long**2 / 12)[:, None] * np.cross(ways, way)
    np.add.at(loads, pairs[:, 0], np.hstack([force, couple]))
    np.add.at(loads, pairs[:, 1], np.hstack([force, -couple]))
    for node, kg in frame.lumps:
        loads[node, :3] += kg * T_PER_KG * GRAVITY_MM_S2 * way
    return loads


def as_kg(load_n: float) -> float:
    """A load as a mass [kg].

    >>> as_kg(9.80665)
    1.0
    """
    return load_n / (T_PER_KG * GRAVITY_MM_S2)


def at_arm(stiffness: Vector, arm: Vector) -> Vector:
    """A stiffness (3, 3) at the end of a rigid arm (3,) from its node, as (6, 6) about the node."""
    moves = lever(arm)
    return np.asarray(moves.T @ stiffness @ moves)


def lever(arm: Vector) -> Vector:
    """Return the matrix from a node's movement (6,) to the end of a rigid arm (3,): (3, 6). Turned round, what a force
    at the end does to the node.
    """
    x, y, z = arm
    return np.hstack([np.eye(3), np.array([[0.0, z, -y], [-z, 0.0, x], [y, -x, 0.0]])])


def _lines(frame: Frame) -> tuple[Vector, Vector]:
    """Length (members,) and direction (members, 3) of every member."""
    pairs = _pairs(frame)
    span = frame.nodes[pairs[:, 1]] - frame.nodes[pairs[:, 0]]
    long = np.linalg.norm(span, axis=1)
    if len(long) and long.min() < LEAST_LENGTH_MM:
        raise InputError("a member has no length")
    return long, span / long[:, None]


def _turns(ways: Vector) -> Vector:
    """Each member's own axes as rows (members, 3, 3): along, and two across."""
    helper = np.where(np.abs(ways[:, 2:3]) < 0.9, np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]]))
    across = np.cross(helper, ways)
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    return np.stack([ways, across, np.cross(ways, across)], axis=1)


def _in_ground_axes(own: Vector, ways: Vector) -> Vector:
    """Member matrices (members, 12, 12) from their own axes to the ground's."""
    turns = _turns(ways)
    whole = np.zeros((len(ways), 12, 12))
    for k in range(4):
        whole[:, 3 * k : 3 * k + 3, 3 * k : 3 * k + 3] = turns
    return np.asarray(np.einsum("mji,mjk,mkl->mil", whole, own, whole, optimize=True))


def _stiffness(frame: Frame, lines: tuple[Vector, Vector]) -> Vector:
    """Stiffness of every member (members, 12, 12) along the ground's axes."""
    long, ways = lines
    ea, ei, gj = (np.array([getattr(m, name) for m in frame.members]) for name in ("ea", "ei", "gj"))
    k = np.zeros((len(long), 12, 12))
    for (i, j), value in (((0, 6), ea / long), ((3, 9), gj / long)):
        k[:, i, i] = k[:, j, j] = value
        k[:, i, j] = k[:, j, i] = -value
    a, b, c, d = 12 * ei / long**3, 6 * ei / long**2, 4 * ei / long, 2 * ei / long
    for y, turn, sign in ((1, 5, 1.0), (2, 4, -1.0)):  # across y it turns about z, across z about y the other way
        far, far_turn = y + 6, turn + 6
        k[:, y, y] = k[:, far, far] = a
        k[:, y, far] = k[:, far, y] = -a
        for one, other, value in ((y, turn, b), (y, far_turn, b), (far, turn, -b), (far, far_turn, -b)):
            k[:, one, other] = k[:, other, one] = sign * value
        k[:, turn, turn] = k[:, far_turn, far_turn] = c
        k[:, turn, far_turn] = k[:, far_turn, turn] = d
    return _in_ground_axes(k, ways)


def _masses(frame: Frame, lines: tuple[Vector, Vector]) -> Vector:
    """Consistent mass of every member (members, 12, 12) [t] along the ground's axes."""
    long, ways = lines
    m = np.zeros((len(long), 12, 12))
    each = np.array([one.kg_mm for one in frame.members]) * T_PER_KG * long
    for i, j in ((0, 6), (3, 9)):
        # a thin tube turns about its own line with so little mass that it only keeps the matrix whole
        share = each if i == 0 else each * 1e-3
        m[:, i, i] = m[:, j, j] = share / 3
        m[:, i, j] = m[:, j, i] = share / 6
    for y, turn, sign in ((1, 5, 1.0), (2, 4, -1.0)):
        far, far_turn = y + 6, turn + 6
        m[:, y, y] = m[:, far, far] = 156 * each / 420
        m[:, y, far] = m[:, far, y] = 54 * each / 420
        m[:, turn, turn] = m[:, far_turn, far_turn] = 4 * long**2 * each / 420
        m[:, turn, far_turn] = m[:, far_turn, turn] = -3 * long**2 * each / 420
        for one, other, value in ((y, turn, 22), (y, far_turn, -13), (far, turn, 13), (far, far_turn, -22)):
            m[:, one, other] = m[:, other, one] = sign * value * long * each / 420
    return _in_ground_axes(m, ways)
