"""Props under a system while it is mocked up: nothing hangs yet and every joint is a few tacks.

A prop pushes up and nothing else. Props are added one at a time where they relieve the worst tack most, until none is
bent by more than the shop lets tacks carry and nothing is far out of place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..hanging import Model, as_kg, lever, model_of, weight
from ..laying import System
from ..records import Design, Hanger
from ..space import Vector
from .trying import loosely_held
from .where import places_to_hang

MOST_PROPS = 6
PROP_N_MM = 5_000.0  # a jack stand with a block of wood on it, in round figures
WORST_FIRST = 4  # the norm by which props are chosen
NO_WORSE = 0.97  # a prop that leaves more than this of the worst is not worth its place


@dataclass(frozen=True)
class Prop:
    """One prop: under which piece of a run, or which part; where (3,) [mm] and what stands on it [N]."""

    run: str
    piece: str
    part: str
    place: Vector
    load_n: float

    @property
    def kg(self) -> float:
        """Return its mass."""
        return as_kg(self.load_n)


@dataclass(frozen=True)
class MockUp:
    """Props front first; the tacks that are bent most with them, at the end of which piece (run id, index); how far the
    lowest place is down [mm].
    """

    props: tuple[Prop, ...]
    tack_nm: float
    at: tuple[str, int] | None
    down_mm: float


def mock_up(design: Design, system: System) -> MockUp:
    """How a laid system is propped. Raises InputError where there is no pipe."""
    over = list(places_to_hang(design, system))
    places = [h.replace(id=f"prop-{k}") for k, (_, h) in enumerate(over)]
    tried = _Propped.of(design.replace(hangers=tuple(places)), system)
    rules = design.settings.rules
    which: tuple[int, ...] = ()
    sag = max(1.0, float(rules.sag_mm))

    def strain(some: tuple[int, ...]) -> float:
        """One figure to choose by: the worst tacks count most, but all count, or two ends would hide each other."""
        shares = [nm / rules.tack_nm for nm, _ in tried.tacks(some)] + [tried.down(some) / sag]
        return float(np.linalg.norm(shares, WORST_FIRST))

    while len(which) < MOST_PROPS and (tried.worst(which)[0] > rules.tack_nm or tried.down(which) > sag):
        more = [(*which, k) for k in range(len(tried.hangers)) if k not in which]
        best = min((some for some in more if (tried.pushes(some) > 0).all()), key=strain, default=None)
        if best is None or strain(best) > NO_WORSE * strain(which):
            break
        which = best
    worst, at = tried.worst(which)
    loads = tried.pushes(which)
    props = [
        Prop(h.run or "", h.piece or "", h.part or "", tried.places[k], float(load))
        for k, load, h in ((k, load, tried.hangers[k]) for k, load in zip(which, loads, strict=True))
    ]
    return MockUp(tuple(sorted(props, key=lambda p: float(p.place[0]))), worst, at, tried.down(which))


@dataclass(frozen=True)
class _Propped:
    """The system with nothing under it: how far nodes go (n, 6), and what a newton up at each place does (n, 6, k)."""

    model: Model
    hangers: Sequence[Hanger]
    places: Vector
    moved: Vector
    moves: Vector
    free: Vector
    gives: Vector
    own: Vector

    @classmethod
    def of(cls, design: Design, system: System) -> _Propped:
        model = model_of(design, system)
        frame = replace(model.frame, springs=())
        solved = loosely_held(frame)
        ups = np.array([lever(eye.place - frame.nodes[eye.node])[2] for eye in model.eyes]).reshape(-1, 6)
        columns = np.zeros((len(frame.nodes), 6, len(ups)))
        for k, (eye, up) in enumerate(zip(model.eyes, ups, strict=True)):
            columns[eye.node, :, k] = up
        moved, moves = solved.under(weight(frame)).moved, solved.each(columns)
        at = np.array([eye.node for eye in model.eyes], dtype=int)
        return cls(
            model,
            [eye.hanger for eye in model.eyes],
            np.array([eye.place for eye in model.eyes]),
            moved,
            moves,
            np.einsum("kj,kj->k", ups, moved[at]),
            np.einsum("ij,ijk->ik", ups, moves[at]),
            solved.own(range(len(frame.members))),
        )

    def pushes(self, which: tuple[int, ...]) -> Vector:
        """The load on each prop [N]; less than nothing where it would have to pull."""
        rows = list(which)
        soft = np.eye(len(rows)) / PROP_N_MM
        if not rows:
            return np.zeros(0)
        return np.asarray(np.linalg.solve(self.gives[np.ix_(rows, rows)] + soft, -self.free[rows]))

    def _at(self, which: tuple[int, ...]) -> Vector:
        return np.asarray(self.moved + self.moves[:, :, list(which)] @ self.pushes(which))

    def down(self, which: tuple[int, ...]) -> float:
        return float(max(0.0, -self._at(which)[:, 2].min()))

    def worst(self, which: tuple[int, ...]) -> tuple[float, tuple[str, int] | None]:
        """The largest moment on the tacks [N m], and at which piece (run id, index)."""
        return max(self.tacks(which), key=lambda one: one[0], default=(0.0, None))

    def tacks(self, which: tuple[int, ...]) -> list[tuple[float, tuple[str, int]]]:
        """Return the moments on the tacks at both ends of every piece [N m]."""
        moved = self._at(which)
        found = []
        for key, members in self.model.pieces.items():
            for member, side in ((members[0], 3), (members[-1], 9)) if members else ():
                one = self.model.frame.members[member]
                ends = self.own[member] @ np.concatenate([moved[one.a], moved[one.b]])
                found.append((float(np.linalg.norm(ends[side : side + 3])) / 1000.0, key))
        return found
