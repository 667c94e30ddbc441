"""A system hung: what each hanger carries, how far everything sags, what flex joints and the engine end are asked to
bear, and how it swings.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..laying import System
from ..records import Design, Hanger
from ..space import Vector
from .frame import GRAVITY_MM_S2, T_PER_KG, Mode, Solved, as_kg, weight
from .model import Eye, HangState, Model, model_of, pre_load, pre_loads
from .rubbers import RubberStiffness, rubber_of, stiffness_of

MODES = 5
WET_KG_M = 0.4  # a puddle a fifth of the bore deep over the whole length: common practice, no source
SIDE_G = 0.4  # of its weight to the side, in a brisk turn: common practice, no source


@dataclass(frozen=True)
class Carried:
    """One hanger: its load down [N], its share of the whole, sideways pull [N], how far its rubber is stretched [mm];
    where its rod's eye and its pin are (3,) [mm].
    """

    hanger: Hanger
    load_n: float
    share: float
    side_n: float
    stretch_mm: float
    stiff: RubberStiffness
    place: Vector
    eye: Vector
    pin: Vector

    @property
    def kg(self) -> float:
        """Its load as a mass."""
        return as_kg(self.load_n)


@dataclass(frozen=True)
class Strained:
    """The load on a flex joint or a held end: along it or down, across [N], bent [N m]."""

    name: str
    pull_n: float
    across_n: float
    bend_nm: float


@dataclass(frozen=True)
class HungSystem:
    """A system as it hangs. `moved` is how far each of `nodes` goes and turns (n, 6) [mm, rad]; `pieces` and `parts`
    how far the ends of pieces (run id, index) and the middles of parts go (3,), parts with their turn (6,).
    """

    mass_kg: float
    guessed: tuple[str, ...]
    carried: tuple[Carried, ...]
    flexes: tuple[Strained, ...]
    held: tuple[Strained, ...]
    nodes: Vector
    moved: Vector
    pieces: Mapping[tuple[str, int], tuple[Vector, Vector]]
    parts: Mapping[str, Vector]
    modes: tuple[Mode, ...]
    model: Model

    def swung(self, mode: Mode) -> tuple[dict[tuple[str, int], tuple[Vector, Vector]], dict[str, Vector]]:
        """How far the ends of pieces and the middles of parts go in a way of swinging, its greatest move 1."""
        return ends_moved(self.model, mode.shape), {
            part: mode.shape[self.model.nodes[("mass", part, "")]] for part in self.model.masses
        }

    def stillest(self, mode: Mode) -> Carried | None:
        """The hanger whose place moves least in a way of swinging."""
        nearest = {id(one): int(np.argmin(np.linalg.norm(self.nodes - one.place, axis=1))) for one in self.carried}
        return min(self.carried, key=lambda one: float(np.linalg.norm(mode.shape[nearest[id(one)]])), default=None)

    @property
    def sag_mm(self) -> float:
        """How far the lowest-going place goes down."""
        return float(max(0.0, -self.moved[:, 2].min())) if len(self.moved) else 0.0


def hang(design: Design, system: System, how: HangState | None = None, *, modes: int = MODES) -> HungSystem:
    """How a laid system hangs. Raises InputError where something of it is held by nothing."""
    model = model_of(design, system, how)
    solved = Solved(model.frame)
    loads = weight(model.frame, model.water, np.array([0.0, (how or HangState()).side_g, -1.0]))
    found = solved.under(loads + pre_loads(model))
    mass = _mass(model)
    whole = mass * T_PER_KG * GRAVITY_MM_S2
    pulls = [held + pre_load(model, eye) for eye, held in zip(model.eyes, found.held, strict=True)]
    carried = tuple(_carried(eye, pull, whole) for eye, pull in zip(model.eyes, pulls, strict=True))
    flexes = tuple(
        Strained(part, *strained(model, member, found.ends[member])) for part, member in model.flexes.items()
    )
    held = tuple(_end(name, found.fixed[k]) for k, name in enumerate(model.held))
    pieces = ends_moved(model, found.moved)
    parts = {part: found.moved[model.nodes[("mass", part, "")]] for part in model.masses}
    return HungSystem(
        mass,
        model.guessed,
        carried,
        flexes,
        held,
        model.frame.nodes,
        found.moved,
        pieces,
        parts,
        tuple(solved.modes(modes)) if modes else (),
        model,
    )


def ends_moved(model: Model, moved: Vector) -> dict[tuple[str, int], tuple[Vector, Vector]]:
    """How far both ends of every piece go (3,), of what all nodes do."""
    found = {}
    for run, index in model.pieces:
        name = f"{run}:{index}"
        if ("piece", name, "in") in model.nodes:
            first, last = (moved[model.nodes[("piece", name, end)]][:3] for end in ("in", "out"))
            found[(run, index)] = (first, last)
    return found


def _mass(model: Model) -> float:
    return -float(weight(model.frame, model.water)[:, 2].sum()) / (T_PER_KG * GRAVITY_MM_S2)


def _carried(eye: Eye, load: Vector, whole_n: float) -> Carried:
    rubber = rubber_of(eye.hanger)
    stiff = stiffness_of(rubber)
    down = float(load[2])
    side = float(np.hypot(load[0], load[1]))
    each = stiff.across if eye.hanger.way == "bobbin sheared" else stiff.along
    stretch = 0.0 if eye.hanger.way == "solid" else down / (each * eye.hanger.rubbers)
    return Carried(
        eye.hanger, down, down / whole_n if whole_n else 0.0, side, stretch, stiff, eye.place, eye.eye, eye.pin
    )


def strained(model: Model, member: int, ends: Vector) -> tuple[float, float, float]:
    """Return the load on a member by its ends (12,): along and across [N], bent [N m]."""
    one = model.frame.members[member]
    way = model.frame.nodes[one.b] - model.frame.nodes[one.a]
    way /= np.linalg.norm(way)
    pull = float(ends[6:9] @ way)
    across = float(np.linalg.norm(ends[6:9] - pull * way))
    bend = max(float(np.linalg.norm(m - (m @ way) * way)) for m in (ends[3:6], ends[9:12])) / 1000.0
    return pull, across, bend


def _end(name: str, force: Vector) -> Strained:
    """Return the load on a held end: its share of the weight, what it is pushed sideways with, and the couple on it."""
    return Strained(
        name, float(force[2]), float(np.hypot(force[0], force[1])), float(np.linalg.norm(force[3:])) / 1000.0
    )
