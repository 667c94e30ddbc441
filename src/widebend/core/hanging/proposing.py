"""Where to hang a system: which points of the vehicle, where on pipe or part, on which rubber, so that rules hold.

The frame is solved once without any hanger. What a hanger does to it follows from how its place gives (its compliance),
so each set of hangers costs a small system of equations and thousands can be tried.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from ..errors import InputError
from ..laying import ENGINE, HUNG, System, along_piece, goes_as, movement, part_axes
from ..records import Design, Hanger, HangPoint, InLine, Rubber
from ..space import Vector
from ..units import Length
from .faults import HangFault, far_from, hang_faults
from .frame import Frame, Solved, Spring, lever, weight
from .hardware_of import old_rod_wants
from .hung import HungSystem, hang, strained
from .model import Model, model_of
from .rods import SHOCK, YIELD_MPA, bending_mpa
from .rubbers import RUBBERS, hold, rubber_of, stiffness_of
from .schools import in_school

Weigh = Literal["fewest", "stillest", "no drilling", "easiest off"]
WEIGHS: tuple[Weigh, ...] = get_args(Weigh)
REACH_MM = 260.0  # a rod of this much to the side is bent and welded with no brace: common practice, no source
UNDER_MM = 60.0  # a pin stands so far over the middle of a pipe at least: room for the rubber
BESIDE_MM = 10.0  # and over the top of a can: the rod may come up beside it
STEP_MM = 80.0  # how close together places along a pipe are tried
CANS = ("muffler", "resonator", "cat", "tip")
MOST_PLACES, MOST_SETS, MOST_POINTS, MOST_HANGERS = 14, 160, 9, 6
SAID_ONLY = ("guessed-mass", "no-engine")
SHORT_LIST = 5
NEXT_TO_NOTHING = 0.06  # so little over its limits is not worth another point
NEEDS = ("sags", "flex-carries", "overloaded", "slack")  # no way of hanging it is offered as good with these
SPARE = 0.75  # a rubber is chosen that carries no more than this of what it may: it softens when warm
ROD_MM = 10.0  # usual
LIGHT = ("two-hole", "two-hole-stiff", "bobbin-70")
SOFT = Spring(0, np.diag([0.01] * 3 + [100.0] * 3))  # what nothing holds is held by this while places are compared


@dataclass(frozen=True)
class HangProposal:
    """One way to hang it: the hangers, how it hangs by them, what is still wrong; what it was weighed by."""

    weigh: Weigh
    hangers: tuple[Hanger, ...]
    hung: HungSystem
    faults: tuple[HangFault, ...]


@dataclass(frozen=True)
class NewPoint:
    """Where a point of the vehicle would help: over which place (3,) [mm], and what it would carry [N]."""

    place: Vector
    run: str
    part: str
    load_n: float


@dataclass(frozen=True)
class HangAnswer:
    """Ways to hang it, best first; and where no way holds all rules, the new points that would. One that holds by its
    ends alone `needs_none`.
    """

    found: tuple[HangProposal, ...] = ()
    points: tuple[NewPoint, ...] = ()
    needs_none: bool = False


def propose_hangers(design: Design, system: System, own: Sequence[Rubber] = ()) -> HangAnswer:
    """Two to four ways to hang a system from the points that are known, on the shop's `own` rubbers with two holes
    before those of the list. Raises InputError where it is not laid.
    """
    if not any(run.pieces for run in system.runs):
        raise InputError("there is no pipe to hang yet")
    tried = _Tried.of(design, system, _candidates(design, system, design.survey.hang_points), own)
    if tried.wrong(tried.of_set(()), ()) < NEXT_TO_NOTHING:
        return HangAnswer(needs_none=True)
    sets, made = tried.sets(), dict[tuple[int, ...], HangProposal]()
    found: list[HangProposal] = []
    for weigh in WEIGHS:
        short = [one.which for one in sorted(sets, key=lambda one: tried.rank(one, weigh))[:SHORT_LIST]]
        for which in short:
            made.setdefault(which, _proposal(design, system, tried, which, weigh))
        # sets that are as good by the rules are told apart by what a frame alone does not say: how they swing
        best = min(short, key=lambda which: (_ill(made[which]), short.index(which)), default=None)
        if best is not None and all(made[best].hangers != one.hangers for one in found):
            found.append(replace(made[best], weigh=weigh))
        if weigh == "stillest" and best is not None and design.settings.hang_school == "as it comes":
            found += _doubled(design, system, made[best])
    good = [p for p in found if not any(f.code in NEEDS for f in p.faults)]
    if good:
        return HangAnswer(tuple(sorted(found, key=lambda p: p not in good)))
    return HangAnswer(tuple(found), tuple(_new_points(design, system)))


def _ill(one: HangProposal) -> int:
    """How much is wrong with a way of hanging it: what spoils it weighs ten times the rest."""
    return sum(10 if f.code in NEEDS else f.code not in SAID_ONLY for f in one.faults)


def _doubled(design: Design, system: System, one: HangProposal) -> list[HangProposal]:
    """The same with two rubbers at each point that carries enough for two: a school of its own, for it cannot swing."""
    two = tuple(h.model_copy(update={"rubbers": 2}) if c.load_n >= 2 * rubber_of(h).least_n else h
                for h, c in zip(one.hangers, one.hung.carried, strict=True))  # fmt: skip
    if two == one.hangers:
        return []
    design = design.model_copy(update={"hangers": two})
    hung = hang(design, system)
    return [HangProposal("stillest", two, hung, tuple(hang_faults(design, system, hung)))]


def _proposal(
    design: Design, system: System, tried: _Tried, which: tuple[int, ...], weigh: Weigh
) -> HangProposal:  # fmt: skip
    plain = tuple(h.model_copy(update={"id": f"hanger-{k}"}) for k, h in enumerate(tried.hangers(which), 1))
    loads = [one.load_n for one in hang(design.model_copy(update={"hangers": plain}), system, modes=0).carried]
    settings = design.settings
    for hangers in in_school(plain, loads, settings.hang_school, float(settings.rules.rod_pull_mm)):
        hung_design = design.model_copy(update={"hangers": hangers})
        hung = hang(hung_design, system)
        hangers = _reused(hung_design, system, hung)
        made = HangProposal(weigh, hangers, hung, tuple(hang_faults(hung_design, system, hung)))
        if not any(f.code == "flex-carries" for f in made.faults):
            break
    return made


def _reused(design: Design, system: System, hung: HungSystem) -> tuple[Hanger, ...]:
    """The hangers, with the vehicle's old rod on each whose point has one that reaches."""
    reach = {p.id: float(p.old_rod_mm) for p in design.survey.hang_points}
    return tuple(c.hanger.model_copy(update={"hold": "old rod"})
                 if c.hanger.way == "rubber" and reach.get(c.hanger.hang_point or "", 0.0) >= old_rod_wants(system, c)
                 else c.hanger for c in hung.carried)  # fmt: skip


# --- where a hanger could be ------------------------------------------------------------------------------------------


def _candidates(design: Design, system: System, points: Sequence[HangPoint]) -> list[tuple[int, Hanger]]:
    """Every hanger that can be reached from a point (by its number): on parts, then on pipe, the nearest first."""
    places = list(places_to_hang(design, system))
    found: list[tuple[int, Hanger]] = []
    for k, point in enumerate(points[:MOST_POINTS]):
        at = np.array(point.point, dtype=float)
        near = []
        for place, hanger in places:
            side = float(np.hypot(*(at - place)[:2]))
            if side <= REACH_MM and at[2] - place[2] >= (BESIDE_MM if hanger.part else UNDER_MM):
                near.append((side, hanger.model_copy(update={"hang_point": point.id})))
        found += [(k, hanger) for _, hanger in sorted(near, key=lambda one: one[0])[:MOST_PLACES]]
    return [(k, h.model_copy(update={"id": f"try-{n}"})) for n, (k, h) in enumerate(found)]


def places_to_hang(design: Design, system: System) -> Iterator[tuple[Vector, Hanger]]:
    """Places on what hangs (not on what rocks with the engine): the top of every can, and along the pipe."""
    moves, _ = movement(design, system)
    for part, at in system.parts:
        bodies = [b for b in system.bodies if b.part.id == part.id]
        if part.item.kind not in CANS or not bodies:
            continue
        if goes_as(moves.parts.get(part.id, HUNG)) == ENGINE and moves.has_flex:
            continue
        biggest = max(bodies, key=lambda b: b.bulk)
        for share in (0.15, 0.5, 0.85):
            middle = biggest.start + share * biggest.length_mm * biggest.flow
            top = middle + np.array([0.0, 0.0, float(biggest.corners[:, 2].max() - middle[2])])
            x, y, z = (Length(round(float(c), 3)) for c in part_axes(at).T @ (top - at.point))
            yield top, Hanger(id="x", part=part.id, at=(x, y, z))
    for run in system.runs:
        for piece in run.pieces:
            mover = goes_as(moves.pieces.get((run.run.id, piece.index), HUNG))
            if isinstance(piece.piece, InLine) or (mover == ENGINE and moves.has_flex) or piece.length_mm < 30.0:
                continue
            count = max(1, int(piece.length_mm // STEP_MM))
            for n in range(count):
                share = (n + 0.5) / count
                along = Length(round(share * piece.length_mm, 1))
                yield along_piece(piece, share)[0], Hanger(id="x", run=run.run.id, piece=piece.piece.id, along_mm=along)


def loosely_held(frame: Frame) -> Solved:
    """A frame without springs, made ready; held ever so softly at its front where nothing holds it."""
    try:
        return Solved(frame)
    except InputError:
        return Solved(replace(frame, springs=(replace(SOFT, node=int(np.argmin(frame.nodes[:, 0]))),)))


# --- trying sets of them ----------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Set:
    """Hangers by their numbers, with what was found of them: loads down [N], the greatest sag, what flexes carry."""

    which: tuple[int, ...]
    loads: Vector
    sag_mm: float
    flex_n: float
    flex_nm: float
    span_mm: float


@dataclass(frozen=True)
class _Tried:
    """The system without hangers, and how each place gives: `free` (3 n,) where the eyes go [mm], `gives` (3 n, 3 n)
    [mm/N]; `moved` (nodes, 6) and `moves` (nodes, 6, 3 n) the same of all nodes.
    """

    design: Design
    model: Model
    places: tuple[tuple[int, Hanger], ...]
    free: Vector
    gives: Vector
    moved: Vector
    moves: Vector
    flexes: tuple[int, ...]
    stiff: Vector
    arms: Vector  # (n,): how far to the side of what it holds each eye is [mm]
    off: Vector  # (n + 1, nodes): how far each node is along the pipe from each place, last from what is held [mm]
    kinds: tuple[Rubber, ...]  # the softest first

    @classmethod
    def of(
        cls, design: Design, system: System, places: Sequence[tuple[int, Hanger]], own: Sequence[Rubber] = ()
    ) -> _Tried:  # fmt: skip
        model = model_of(design.model_copy(update={"hangers": tuple(h for _, h in places)}), system)
        frame = replace(model.frame, springs=())
        solved = loosely_held(frame)
        moved = solved.under(weight(frame)).moved
        by_id = {eye.hanger.id: eye for eye in model.eyes}
        kept = tuple((k, h) for k, h in places if h.id in by_id)
        at = np.array([by_id[h.id].node for _, h in kept], dtype=int)
        arms = np.array([lever(by_id[h.id].eye - frame.nodes[n]) for n, (_, h) in zip(at, kept, strict=True)])
        arms = arms.reshape(-1, 3, 6)
        columns = np.zeros((len(frame.nodes), 6, 3 * len(kept)))
        for n, (_, h) in enumerate(kept):
            columns[by_id[h.id].node, :, 3 * n : 3 * n + 3] = arms[n].T
        moves = solved.each(columns)
        free = np.einsum("nij,nj->ni", arms, moved[at]).ravel()
        gives = np.einsum("nij,njk->nik", arms, moves[at]).reshape(3 * len(kept), 3 * len(kept))
        flexes = tuple(model.flexes.values())
        aside = np.array([np.hypot(*(by_id[h.id].eye - by_id[h.id].place)[:2]) for _, h in kept])
        off = np.array([far_from(model, [node]) for node in at] + [far_from(model, list(model.held.values()))])
        return cls(design, model, kept, free, gives, moved, moves, flexes, solved.own(flexes), aside, off,
                   _kinds(own))  # fmt: skip

    def hangers(self, which: tuple[int, ...]) -> list[Hanger]:
        """The hangers of a set, front first, each on the rubber that its load asks for."""
        rubbers = self.rubbers(which)
        out = [self.places[n][1].model_copy(update={"rubber": r}) for n, r in zip(which, rubbers, strict=True)]
        order = {n: float(self.model.frame.nodes[eye.node][0]) for n, eye in enumerate(self.model.eyes)}
        return [h for _, h in sorted(zip(which, out, strict=True), key=lambda one: order.get(one[0], 0.0))]

    def rubbers(self, which: tuple[int, ...]) -> list[Rubber]:
        rubbers = [RUBBERS["two-hole"]] * len(which)
        for _ in range(3):
            loads = self.of_set(which, rubbers).loads
            rubbers = [_for_load(float(load), self.kinds) for load in loads]
        return rubbers

    def of_set(self, which: tuple[int, ...], rubbers: Sequence[Rubber] | None = None) -> _Set:
        """What a set of hangers does, on these rubbers or on usual ones."""
        rows = np.array([3 * n + k for n in which for k in range(3)], dtype=int)
        on = rubbers or [RUBBERS["two-hole"]] * len(which)
        soft = np.diag(np.concatenate([1.0 / np.diag(hold("rubber", r, 1)) for r in on])) if which else np.zeros((0, 0))
        pull = np.linalg.solve(soft + self.gives[np.ix_(rows, rows)], -self.free[rows]) if which else np.zeros(0)
        moved = self.moved + self.moves[:, :, rows] @ pull
        flex_n = flex_nm = 0.0
        for k, member in enumerate(self.flexes):
            one = self.model.frame.members[member]
            ends = self.stiff[k] @ np.concatenate([moved[one.a], moved[one.b]])
            _, across, bend = strained(self.model, member, ends)
            flex_n, flex_nm = max(flex_n, across), max(flex_nm, bend)
        span = 2.0 * float(self.off[[*which, -1]].min(axis=0).max())
        return _Set(which, pull[2::3], float(max(0.0, -moved[:, 2].min())), flex_n, flex_nm, span)

    def rank(self, one: _Set, weigh: Weigh) -> tuple[float, ...]:
        """How far a set is from what the rules want, then what it is weighed by; the least is best."""
        rubbers = self.rubbers(one.which)
        now = self.of_set(one.which, rubbers)
        count, stiff = len(one.which), sum(stiffness_of(r).along for r in rubbers)
        way = {"fewest": (count, now.sag_mm), "stillest": (now.sag_mm + now.flex_n / 10.0, -stiff),
               "no drilling": (self._brackets(one.which), count, now.sag_mm),
               "easiest off": (self._on_pipe(one.which), count, now.sag_mm)}[weigh]  # fmt: skip
        return (round(self.wrong(now, rubbers), 2), *way)

    def wrong(self, one: _Set, rubbers: Sequence[Rubber]) -> float:
        """By how much a set breaks the rules, each as a share of its limit; a long span is the least of them."""
        rules = self.design.settings.rules
        over = sum(max(0.0, load / r.most_n - 1.0) + max(0.0, r.least_n - load) / r.least_n
                   for load, r in zip(one.loads, rubbers, strict=True))  # fmt: skip
        shares = (one.sag_mm / max(1.0, float(rules.sag_mm)), one.flex_n / max(1.0, rules.flex_across_n),
                  one.flex_nm / max(0.1, rules.flex_bend_nm))  # fmt: skip
        span = max(0.0, one.span_mm / float(rules.span_mm) - 1.0)
        rods = SHOCK * np.abs(one.loads) * self.arms[list(one.which)]
        over += float(np.maximum(bending_mpa(1.0, ROD_MM) * rods / YIELD_MPA - 1.0, 0.0).sum())
        return float(over + sum(max(0.0, share - 1.0) for share in shares) + 0.3 * span)

    def _brackets(self, which: tuple[int, ...]) -> float:
        """How many points need a bracket of their own; a bolt that holds something else too counts for three."""
        points = [p for n in which for p in self.design.survey.hang_points if p.id == self.places[n][1].hang_point]
        return float(sum((p.kind != "existing rubber") + 2 * bool(p.holds) for p in points))

    def _on_pipe(self, which: tuple[int, ...]) -> float:
        """How many hangers hold bare pipe: a can's own comes off with it, one on pipe wants a lever beside it."""
        return float(sum(self.places[n][1].part is None for n in which))

    def sets(self) -> list[_Set]:
        """Sets of hangers worth a look: of every choice of points the places that sag and strain least."""
        by_point: dict[int, list[int]] = {}
        for n, (point, _) in enumerate(self.places):
            by_point.setdefault(point, []).append(n)
        choices = [some for size in range(1, min(MOST_HANGERS, len(by_point)) + 1)
                   for some in itertools.combinations(by_point, size)]  # fmt: skip
        return [self.best_places([by_point[p] for p in some]) for some in choices[:MOST_SETS]]

    def best_places(self, each: Sequence[Sequence[int]]) -> _Set:
        """One place for each point: each is moved in turn to where it helps most."""
        now = [some[0] for some in each]
        best = self.of_set(tuple(now))
        for _ in range(2):
            for k, some in enumerate(each):
                for place in some:
                    tried = self.of_set((*now[:k], place, *now[k + 1 :]))
                    if _strain(tried) < _strain(best) - 1e-9:
                        best, now = tried, [*now[:k], place, *now[k + 1 :]]
        return best


def _strain(one: _Set) -> float:
    """One figure for how ill a set hangs it: a millimetre of sag weighs as much as 5 N across a flex or 400 of span."""
    uneven = float(np.std(one.loads)) if len(one.loads) else 0.0
    lifts = sum(load < 0 for load in one.loads)
    return float(one.sag_mm + one.flex_n / 5.0 + one.flex_nm + one.span_mm / 400.0 + uneven / 20.0 + 10.0 * lifts)


def _kinds(own: Sequence[Rubber]) -> tuple[Rubber, ...]:
    """The rubbers to choose from, the softest first; the shop's own in place of the list's where it has any."""
    listed = [RUBBERS[key] for key in LIGHT]
    usual = [r for r in own if r.shape == "two holes"]
    return tuple(sorted(usual, key=lambda r: r.most_n)) + tuple(listed[-1:] if usual else listed)


def _for_load(load_n: float, kinds: Sequence[Rubber]) -> Rubber:
    """The softest rubber that carries a load with something to spare; the strongest where none does."""
    return next((r for r in kinds if load_n <= SPARE * r.most_n), kinds[-1])


def _worth(tried: _Tried, which: tuple[int, ...]) -> tuple[float, float]:
    """How ill a set hangs it, on the rubbers that it asks for: the least is best."""
    rubbers = tried.rubbers(which)
    now = tried.of_set(which, rubbers)
    return round(tried.wrong(now, rubbers), 2), _strain(now)


# --- where a new point would help -------------------------------------------------------------------------------------


def _new_points(design: Design, system: System) -> Iterator[NewPoint]:
    """As few new points as hold it, straight over the pipe: the least set of a search that adds one at a time."""
    points: list[HangPoint] = list(design.survey.hang_points)
    over = [(place, h) for place, h in places_to_hang(design, system)]
    made: list[tuple[int, Hanger]] = list(_candidates(design, system, points))
    known = len(points)
    new: list[HangPoint] = []
    for n, (place, hanger) in enumerate(over):
        x, y, z = (Length(round(float(c), 1)) for c in place + np.array([0.0, 0.0, 120.0]))
        new.append(HangPoint(id=f"new-{n}", name=f"new {n}", point=(x, y, z)))
        made.append((known + n, hanger.model_copy(update={"id": f"over-{n}", "hang_point": f"new-{n}"})))
    survey = design.survey.model_copy(update={"hang_points": (*points, *new)})
    tried = _Tried.of(design.model_copy(update={"survey": survey}), system, made)
    base: tuple[int, ...] = ()
    kept = [n for n, (k, _) in enumerate(tried.places) if k < known]
    if kept:
        by_point = {k: [n for n in kept if tried.places[n][0] == k] for k, _ in (tried.places[n] for n in kept)}
        base = tried.best_places(list(by_point.values())).which
    fresh = [n for n, (k, _) in enumerate(tried.places) if k >= known]
    for _ in range(MOST_HANGERS):
        if tried.wrong(tried.of_set(base, tried.rubbers(base)), tried.rubbers(base)) < NEXT_TO_NOTHING:
            break
        base = (*base, min((n for n in fresh if n not in base), key=lambda n: _worth(tried, (*base, n))))
    for n in [n for n in base if n in fresh]:  # one that a later one makes idle is left out again
        left = tuple(m for m in base if m != n)
        if _worth(tried, left)[0] <= max(NEXT_TO_NOTHING, _worth(tried, base)[0]):
            base = left
    loads = tried.of_set(base, tried.rubbers(base)).loads if base else np.zeros(0)
    for n, load in zip(base, loads, strict=True):
        point, hanger = tried.places[n]
        if point >= known:
            yield NewPoint(over[point - known][0], hanger.run or "", hanger.part or "", float(load))
