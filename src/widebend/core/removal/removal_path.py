"""Trying a section out: a search for moves and turns that bring it from where it hangs to clear below the vehicle.

The section is a rigid set of tubes and bodies. From where it is it is slid along and turned about the vehicle's axes
as far as it goes free, the most promising place first (how much lower it got for how much moving); never through a
thing, however thin: the whole of every slide and turn is checked. That no way is found is no proof; what was hit most
is said. Scans are not looked at.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..geometry import (
    WIDTH,
    chords,
    highest,
    lowest,
    met_between,
    rotation_about,
    rows_of,
    solid_rows,
    standing_gaps,
)
from ..laying import ENGINE_GROUP, Obstacle, Position, System, body_rods, obstacles, spaced
from ..records import Capsule, Design, HalfSpace, Rock
from ..review import Section, bodies_of, packed, sections, solid_of
from ..space import Vector
from ..survey import bounds
from ..units import Length

STEP_MM = 20.0  # it is let down by whole steps
SLIDES_MM, TURNS_DEG = (20.0, 80.0, 240.0, 480.0), (8.0, 24.0)
FREE_MM = 1.0  # nearer than this on the way is called touching; what is nearer where it hangs may stay as near
MOST_TRIED, AT_ONCE = 1500, 150  # places gone on from: in a long search, and while a page waits
TELL_EVERY = 50
MOST_TAKEN_OFF = 3
CELL_MM = 30.0
BELOW_MM = 30.0  # it is out when its highest point is this far below everything it hung among
MM_A_DEGREE = 4.0  # what a degree of turning counts for against a millimetre of sliding
TILTS_DEG = (3.0, 6.0, 10.0)
UP = np.array([0.0, 0.0, 1.0])
NAMES = ("back", "forward", "to the right", "to the left", "up", "down")


OnProgress = Callable[[str, float], None]  # words and the share that is done


def say_nothing(_words: str, _share: float) -> None:
    """Nobody waits for word."""


@dataclass(frozen=True)
class Move:
    """A slide along an axis of the vehicle [mm], or a right-handed turn about it through the section's middle [deg]."""

    axis: int
    by: float
    turns: bool


@dataclass(frozen=True)
class WayOut:
    """The outcome of a search. `places` has one position more than there are moves, the first where it hangs."""

    section: Section
    moves: tuple[Move, ...]
    places: tuple[Position, ...]
    hit: tuple[str, ...]

    @property
    def found(self) -> bool:
        return bool(self.moves)


@dataclass(frozen=True)
class _Rig:
    """The moved section (rows (n, 14) in chains rows[firsts[c] : firsts[c + 1]], with their middle), and among what
    (solids, whose each is, how near it may come).
    """

    rows: Vector
    firsts: Vector
    middle: Vector
    solids: Vector
    owner: Vector
    allowed: Vector
    names: tuple[str, ...]
    floor: float


def way_out(
    system: System,
    section: Section,
    around: Sequence[Obstacle],
    others: Sequence[Section] = (),
    removed: Sequence[str] = (),
    most: int = MOST_TRIED,
    tell: OnProgress = say_nothing,
) -> WayOut:
    """Try a section out among the things, each in the first position of its travel, past other sections left in place.

    `removed` are ids of things taken away for it; `most` places are gone on from. `tell` hears how far it is and may
    raise to end it.
    """
    kept = [
        o for o in {o.thing.id: o for o in reversed(around) if not o.is_low_line}.values() if o.thing.id not in removed
    ]
    return _search(_rig(system, section, kept, others), section, most, tell)


def out_or_helped(
    design: Design, system: System, section: Section, around: Sequence[Obstacle], tell: OnProgress = say_nothing
) -> tuple[WayOut, str]:
    """The way a section comes out as it is, or with the one change that lets it out, in words; or no way.

    First the engine tilted about its rock axis, a little and then more; then each of the things hit most taken off.
    """
    way = way_out(system, section, around, tell=_shared(tell, "as everything stands", 0.0, 0.2))
    if way.found:
        return way, ""
    freed = _helped(design, system, section, around, way, tell)
    return (freed[1], freed[0]) if freed else (way, "")


def _shared(tell: OnProgress, words: str, low: float, high: float) -> OnProgress:
    """Return the progress of a part as a share of the whole."""
    return lambda _words, share: tell(words, low + share * (high - low))


def _helped(
    design: Design, system: System, section: Section, around: Sequence[Obstacle], first: WayOut, tell: OnProgress
) -> tuple[str, WayOut] | None:
    tilted = _tilted(design, system, section, tell)
    if tilted:
        return tilted
    ids = {o.thing.name: o.thing.id for o in around if not isinstance(o.thing.shape, HalfSpace)}
    for k, name in enumerate([n for n in first.hit if n in ids][:MOST_TAKEN_OFF]):
        low = 0.6 + 0.4 * k / MOST_TAKEN_OFF
        told = _shared(tell, f"with the {name} taken off", low, low + 0.4 / MOST_TAKEN_OFF)
        freed = way_out(system, section, around, removed=(ids[name],), tell=told)
        if freed.found:
            return f"with the {name} taken off", freed
    return None


def _tilted(design: Design, system: System, section: Section, tell: OnProgress) -> tuple[str, WayOut] | None:
    group = design.survey.group(ENGINE_GROUP)
    if group is None or not isinstance(group.motion, Rock):
        return None
    for k, deg in enumerate(TILTS_DEG):
        told = _shared(tell, f"with the engine tilted by {deg:g}°", 0.2 + 0.4 * k / 3, 0.2 + 0.4 * (k + 1) / 3)
        rock = group.replace(motion=group.motion.replace(deg=deg))
        groups = tuple(rock if g.id == group.id else g for g in design.survey.groups)
        around = obstacles(design.survey.replace(groups=groups), design.settings.rules)
        for way in ("rocked one way", "rocked the other way"):
            some = [o for o in around if o.thing.moves_with != ENGINE_GROUP or o.state == way]
            found = way_out(system, section, some, tell=told)
            if found.found:
                return f"with the engine {way.replace('rocked', 'tilted')} by {deg:g}°", found
    return None


def order_out(
    design: Design, system: System, around: Sequence[Obstacle], tell: OnProgress = say_nothing
) -> list[WayOut]:
    """Sections in an order in which each comes out past those still in place; those that do not come last.

    Going in is the other way round.
    """
    left, out = sections(design, system), list[WayOut]()
    whole = len(left)
    while left:
        done = len(out) / whole
        told = _shared(tell, f"{len(out)} of {whole} sections are out", done, done + 1 / whole)
        tried = (way_out(system, s, around, [o for o in left if o is not s], tell=told) for s in reversed(left))
        way = next((w for w in tried if w.found), None)
        if way is None:
            return out + [way_out(system, s, around, tell=told) for s in left]
        out.append(way)
        left = [s for s in left if s is not way.section]
    return out


def deepest_mm(system: System, way: WayOut) -> float:
    """How far under the vehicle the room must reach for a way out: the lowest point of the section on it, below where
    its lowest point hangs [mm].
    """
    rows = section_rows(system, way.section)
    return lowest(rows) - min(lowest(place.rows(rows)) for place in way.places)


def section_rows(system: System, section: Section) -> Vector:
    """The tubes of a section as kernel segments (n, 14), and its parts' bodies as rods that together fill them."""
    return np.concatenate([rows_of([]), *_chains(system, section)])


def _chains(system: System, section: Section) -> list[Vector]:
    """The tubes of a section, and the rods of its parts, each as segments that are joined."""
    tubes = [
        tube.rows[[k for k, i in enumerate(tube.piece) if (run.run.id, int(i)) in section.pieces]]
        for run, tube in zip(system.runs, system.tubes, strict=True)
    ]
    rods = [rod[None] for body in bodies_of(system, section.parts) for rod in body_rods(body)]
    return [chain for chain in (*tubes, *rods) if len(chain)]


def _rig(system: System, section: Section, kept: Sequence[Obstacle], others: Sequence[Section]) -> _Rig:
    chains = _chains(system, section)
    rows = section_rows(system, section)
    firsts = np.cumsum([0, *(len(chain) for chain in chains)])
    ends = chords(rows)
    things = packed(kept)
    names = [o.thing.name for o in kept]
    theirs = [row for other in others for row in _other_rows(system, other)]
    solids = np.concatenate([things.rows, np.array(theirs).reshape(-1, WIDTH)])
    owner = np.concatenate([things.owner, np.full(len(theirs), len(names))]).astype(int)
    now = standing_gaps(rows, firsts, solids, FREE_MM)
    boxes = [b for o in kept if (b := bounds(o.thing.shape)) is not None]
    low = min([float(ends[:, 2].min()), *(float(b[0][2]) for b in boxes)]) - BELOW_MM
    middle = (ends.min(axis=0) + ends.max(axis=0)) / 2
    return _Rig(rows, firsts, middle, solids, owner, np.minimum(now, FREE_MM) - 0.5, (*names, "another section"), low)


def _other_rows(system: System, other: Section) -> Iterator[Vector]:
    """Another section as solids: its pipe as round-ended bars, its hardware as it is."""
    for run in system.runs:
        for piece in run.pieces:
            if (run.run.id, piece.index) in other.pieces:
                radius = Length(float(piece.tube.od_mm) / 2 - 0.5)
                for a, b in itertools.pairwise(spaced(piece, 60.0)):
                    way = (b - a) * min(0.5, radius / max(float(np.linalg.norm(b - a)), 1e-9))
                    yield solid_rows(Capsule(a=tuple(a + way), b=tuple(b - way), radius=radius))[0]
    for body in bodies_of(system, other.parts):
        yield solid_of(body)


Tree = dict[tuple[int, ...], tuple[float, tuple[int, ...] | None, Move | None, "_State"]]


# --- the search -----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _State:
    turn: Vector
    shift: Vector

    def key(self) -> tuple[int, ...]:
        """Places much alike share a key: one of them is enough to go on from."""
        return (*np.rint(self.shift / CELL_MM).astype(int), *np.rint(self.turn.ravel() * 5).astype(int))


def _search(rig: _Rig, section: Section, most: int, tell: OnProgress) -> WayOut:
    if not len(rig.rows):
        return WayOut(section, (), (), ())
    start = _State(np.eye(3), np.zeros(3))
    best: Tree = {start.key(): (0.0, None, None, start)}
    fallen, above = _fallen(rig, start)
    if above <= 0:
        return _told(rig, section, best, start.key(), (Move(2, float(fallen.shift[2]), turns=False), fallen), Counter())
    queue: list[tuple[float, int, tuple[int, ...]]] = [(0.0, 0, start.key())]
    hits: Counter[str] = Counter()
    count, tried = itertools.count(1), 0
    while queue and tried < most:
        if tried % TELL_EVERY == 0:
            tell("", tried / most)
        _, _, key = heapq.heappop(queue)
        tried += 1
        cost, _, _, state = best[key]
        for move, there in _reached(rig, state, hits):
            far = cost + abs(move.by) * (MM_A_DEGREE if move.turns else 1.0)
            if there.key() in best:
                continue
            best[there.key()] = (far, key, move, there)
            fallen, above = _fallen(rig, there)
            if above <= 0:
                drop = Move(2, float(fallen.shift[2] - there.shift[2]), turns=False)
                return _told(rig, section, best, there.key(), (drop, fallen), hits)
            heapq.heappush(queue, (above + 0.1 * far, next(count), there.key()))
    return WayOut(section, (), (), tuple(name for name, _ in hits.most_common()))


def _fallen(rig: _Rig, state: _State) -> tuple[_State, float]:
    """A state let straight down until something is hit or it is out, and how far it is above being out [mm]."""
    above = _top(rig, state) - rig.floor
    wanted = max(0, math.ceil(above / STEP_MM))
    steps = _free_steps(rig, state, wanted) if wanted else 0
    return _State(state.turn, state.shift - [0.0, 0.0, steps * STEP_MM]), above - steps * STEP_MM


def _free_steps(rig: _Rig, state: _State, wanted: int) -> int:
    """How many steps a state can be let straight down: ever longer stretches, and then halves of what is not free."""
    sweep = _sweep(rig, state, wanted * STEP_MM * -UP)
    free, stretch = 0, 1
    while free < wanted:
        stretch = min(stretch, wanted - free)
        if _met(rig, sweep, free / wanted, (free + stretch) / wanted) < 0:
            free, stretch = free + stretch, 2 * stretch
        elif stretch == 1:
            break
        else:
            stretch //= 2
    return free


def _reached(rig: _Rig, state: _State, hits: Counter[str]) -> Iterator[tuple[Move, _State]]:
    """Return the states reached from one by sliding and turning each way until something is hit."""
    for axis in range(3):
        for sign in (1.0, -1.0):
            yield from _slid(rig, state, axis, sign, hits)
            yield from _turned(rig, state, axis, sign, hits)


def _slid(rig: _Rig, state: _State, axis: int, sign: float, hits: Counter[str]) -> Iterator[tuple[Move, _State]]:
    way = np.zeros(3)
    way[axis] = sign
    sweep = _sweep(rig, state, way * SLIDES_MM[-1])
    for far in _gone(rig, sweep, SLIDES_MM, hits):
        yield Move(axis, sign * far, turns=False), _State(state.turn, state.shift + way * far)


def _turned(rig: _Rig, state: _State, axis: int, sign: float, hits: Counter[str]) -> Iterator[tuple[Move, _State]]:
    about = np.eye(3)[axis]
    sweep = _sweep(rig, state, np.zeros(3), about, sign * TURNS_DEG[-1])
    for far in _gone(rig, sweep, TURNS_DEG, hits):
        there = _State(rotation_about(about, sign * far) @ state.turn, state.shift)
        yield Move(axis, sign * far, turns=True), there


def _gone(rig: _Rig, sweep: Vector, stops: tuple[float, ...], hits: Counter[str]) -> Iterator[float]:
    """The stops on a sweep, which ends at the last, that are reached free."""
    for before, stop in itertools.pairwise((0.0, *stops)):
        met = _met(rig, sweep, before / stops[-1], stop / stops[-1])
        if met >= 0:
            hits[rig.names[int(rig.owner[met])]] += 1
            return
        yield stop


def _met(rig: _Rig, sweep: Vector, start: float, end: float) -> int:
    return int(met_between(rig.rows, rig.firsts, rig.solids, rig.allowed, sweep, start, end))


def _sweep(rig: _Rig, state: _State, slide: Vector, about: Vector = UP, turn_deg: float = 0.0) -> Vector:
    """A slide [mm] from a state, or a turn through the section's middle, as `sweeping` takes it: (22,)."""
    here = _position(rig, state)
    centre = rig.middle + state.shift
    return np.array([*centre, *about, math.radians(turn_deg), *slide, *here.turn.ravel(), *here.shift])


def _position(rig: _Rig, state: _State) -> Position:
    return Position("", state.turn, rig.middle - state.turn @ rig.middle + state.shift)


def _top(rig: _Rig, state: _State) -> float:
    """The highest point of the section: never too low."""
    return highest(_position(rig, state).rows(rig.rows))


def _told(
    rig: _Rig, section: Section, best: Tree, key: tuple[int, ...], last: tuple[Move, _State], hits: Counter[str]
) -> WayOut:
    """The moves that lead to a state and on by a last one, moves of one kind that follow each other put together."""
    chain = [last]
    at: tuple[int, ...] | None = key
    while at is not None:
        _, before, move, state = best[at]
        if move is not None:
            chain.insert(0, (move, state))
        at = before
    moves: list[Move] = []
    places = [_State(np.eye(3), np.zeros(3))]
    for move, state in chain:
        if move.by == 0.0:
            continue
        if moves and (moves[-1].axis, moves[-1].turns) == (move.axis, move.turns):
            moves[-1], places[-1] = replace(move, by=moves[-1].by + move.by), state
        else:
            moves.append(move)
            places.append(state)
    told = tuple(_position(rig, s) for s in places)
    return WayOut(section, tuple(moves), told, tuple(n for n, _ in hits.most_common()))


def move_words(move: Move) -> str:
    """A move in words: "120 mm back", "turn 24°, front down"."""
    if not move.turns:
        return f"{abs(move.by):.0f} mm {NAMES[2 * move.axis + (move.by < 0)]}"
    ways = {
        0: ("left side up", "right side up"),
        1: ("front up", "front down"),
        2: ("front to the left", "front to the right"),
    }
    return f"turn {abs(move.by):.0f}°, {ways[move.axis][int(move.by < 0)]}"
