"""Sets of hangers tried by the rules themselves: what they carry, how far it sags, what flexes and rods bear.

The frame is solved once without any hanger. What a hanger does to it follows from how its place gives (its compliance),
so a set of hangers costs a small system of equations, and many sets are solved at once.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from ..hanging import (
    RODS_MM,
    RUBBERS,
    YIELD_MPA,
    Carried,
    Eye,
    Frame,
    Model,
    Solved,
    Spring,
    far_from,
    hold,
    lever,
    model_of,
    rod_for,
    stiffness_of,
    weight,
)
from ..laying import System
from ..records import Design, Hanger, HangSchool, HangWay, Rubber
from ..space import Vector
from ..units import Length

MOST_HANGERS = 6
EXHAUSTIVE = 2  # sets of one and two hangers are tried at every place; larger ones are bettered place by place
BEAM = 24  # sets of one size that grow by one hanger more
MOST_CHOICES = 500  # choices of points that are all looked at
CLEAN = 0.005  # so little over its limits is within what the figures are known to
SPARE = 0.75  # a rubber is chosen that carries no more than this of what it may: it softens when warm
LIGHT = ("two-hole", "two-hole-stiff", "bobbin-70")
BOBBINS = ("bobbin-50", "bobbin-70")
WAYS: dict[HangSchool, HangWay] = {"bobbins": "bobbin pulled", "solid": "solid"}
SOFT = Spring(0, np.diag([0.01] * 3 + [100.0] * 3))  # what nothing holds is held by this while places are compared


@dataclass(frozen=True)
class Tries:
    """Several sets of as many hangers (sets, hangers) by their numbers, each on a rubber by its number, with what was
    found of them: loads down [N], the greatest sag [mm], by how much the rules are broken, each as a share of its
    limit, and one figure for how well it hangs besides.
    """

    which: Vector
    rubbers: Vector
    loads: Vector
    sag_mm: Vector
    flex_n: Vector
    wrong: Vector
    strain: Vector

    def best(self, count: int) -> list[int]:
        """The rows that break the rules least, then hang best."""
        return list(np.lexsort((self.strain, np.round(self.wrong, 2)))[:count])


@dataclass(frozen=True)
class Places:
    """The system without hangers, and how each place gives: `free` (3 n,) where the eyes go [mm], `gives` (3 n, 3 n)
    [mm/N]; `down` (nodes,) and `downs` (nodes, 3 n) how far all nodes go down, `ends` (flexes, 12) and `each_end`
    (flexes, 12, 3 n) what flexes bear at their ends.
    """

    design: Design
    model: Model
    places: tuple[tuple[int, Hanger], ...]
    at: Vector  # (n,): the node of each
    free: Vector
    gives: Vector
    down: Vector
    downs: Vector
    ends: Vector
    each_end: Vector
    along: Vector  # (flexes, 3)
    rods: Vector  # (bars, n): stress of a rod of each bar for a newton on it [MPa]
    off: Vector  # (n + 1, nodes): how far each node is along the pipe from each place, last from what is held [mm]
    kinds: tuple[Rubber, ...]  # the softest first
    held: Vector  # (kinds, 3): what each rubber holds with [N/mm]
    bars: tuple[float, ...]
    count: int  # rubbers at each place

    @classmethod
    def of(
        cls,
        design: Design,
        system: System,
        places: Sequence[tuple[int, Hanger]],
        own: Sequence[Rubber] = (),
        thickest_mm: float | None = None,
    ) -> Places:
        """Every place made ready; one to which no rod can be bent is left out, where the shop hangs by rods."""
        school = design.settings.hang_school
        model = model_of(design.replace(hangers=tuple(h for _, h in places)), system)
        frame = replace(model.frame, springs=())
        solved = loosely_held(frame)
        moved = solved.under(weight(frame)).moved
        by_id = {eye.hanger.id: eye for eye in model.eyes}
        bars = tuple(bar for bar in RODS_MM if thickest_mm is None or bar <= thickest_mm) or RODS_MM[:1]
        reached = {h.id: _rod_of(system, by_id[h.id], bars[0]) for _, h in places if h.id in by_id}
        kept = tuple(
            (k, reached[h.id][0])
            for k, h in places
            if h.id in reached and (school in WAYS or reached[h.id][1] is not None)
        )
        at = np.array([by_id[h.id].node for _, h in kept], dtype=int)
        arms = np.array([lever(by_id[h.id].eye - frame.nodes[n]) for n, (_, h) in zip(at, kept, strict=True)])
        arms = arms.reshape(-1, 3, 6)
        columns = np.zeros((len(frame.nodes), 6, 3 * len(kept)))
        for n, (_, h) in enumerate(kept):
            columns[by_id[h.id].node, :, 3 * n : 3 * n + 3] = arms[n].T
        moves = solved.each(columns)
        free = np.einsum("nij,nj->ni", arms, moved[at]).ravel()
        gives = np.einsum("nij,njk->nik", arms, moves[at]).reshape(3 * len(kept), 3 * len(kept))
        flexes = [frame.members[k] for k in model.flexes.values()]
        stiff = solved.own(tuple(model.flexes.values()))
        pairs = np.array([(one.a, one.b) for one in flexes], dtype=int).reshape(-1, 2)
        along = (frame.nodes[pairs[:, 1]] - frame.nodes[pairs[:, 0]]).reshape(-1, 3)
        along = along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
        ends = np.einsum("fij,fj->fi", stiff, moved[pairs].reshape(-1, 12))
        each_end = np.einsum("fij,fjk->fik", stiff, moves[pairs].reshape(len(pairs), 12, 3 * len(kept)))
        stress = np.array([reached[h.id][1] or 0.0 for _, h in kept])
        rods = np.array([stress * (bars[0] / bar) ** 3 for bar in bars])
        off = np.array([far_from(model, [node]) for node in at] + [far_from(model, list(model.held.values()))])
        kinds = kinds_of(own, school)
        count = 2 if school == "two rubbers a point" else 1
        held = np.array([np.diag(hold(WAYS.get(school, "rubber"), r, count)) for r in kinds])
        return cls(
            design,
            model,
            kept,
            at,
            free,
            gives,
            -moved[:, 2],
            -moves[:, 2],
            ends,
            each_end,
            along,
            np.zeros_like(rods) if school in WAYS else rods,
            off,
            kinds,
            held,
            bars,
            count,
        )

    def tried(self, which: Vector) -> Tries:
        """Sets (sets, hangers) each on the rubbers that their loads ask for."""
        which = np.asarray(which, dtype=np.int64)
        rubbers = np.zeros(which.shape, dtype=int)
        most = SPARE * self.count * np.array([r.most_n for r in self.kinds])
        for _ in range(3):  # the loads hang a little on the rubbers
            loads = self._pulled(which, rubbers)[:, 2::3]
            rubbers = np.minimum(np.searchsorted(most, loads), len(self.kinds) - 1)
        return self.on(which, rubbers)

    def _pulled(self, which: Vector, rubbers: Vector) -> Vector:
        """Return the pull of each hanger (sets, 3 hangers) [N]."""
        rows = self._rows(which)
        if not rows.shape[1]:
            return np.zeros((len(which), 0))
        soft = (1.0 / self.held[rubbers]).reshape(len(which), -1)
        gives = self.gives[rows[:, :, None], rows[:, None, :]] + soft[:, :, None] * np.eye(rows.shape[1])
        return np.asarray(np.linalg.solve(gives, -self.free[rows][:, :, None])[:, :, 0])

    @staticmethod
    def _rows(which: Vector) -> NDArray[np.int64]:
        return (3 * which[:, :, None] + np.arange(3)).reshape(len(which), 3 * which.shape[1]).astype(np.int64)

    def on(self, which: Vector, rubbers: Vector) -> Tries:
        """The behaviour of sets of hangers on certain rubbers."""
        rules, rows = self.design.settings.rules, self._rows(which)
        pull = self._pulled(which, rubbers)
        loads = pull[:, 2::3]
        every = np.zeros((len(which), self.downs.shape[1]))
        np.put_along_axis(every, rows, pull, axis=1)
        sag = np.maximum(0.0, (self.down[:, None] + self.downs @ every.T).max(axis=0))
        ends = self.ends[None] + np.einsum("fik,sk->sfi", self.each_end, every, optimize=True)
        flex_n, flex_nm = self._strained(ends)
        nearest = (
            np.minimum(self.off[which].min(axis=1), self.off[-1])
            if which.shape[1]
            else (np.repeat(self.off[-1][None], len(which), axis=0))
        )
        span = 2.0 * nearest.max(axis=1)
        beyond = _over(2.0 * nearest / float(rules.span_mm)).mean(axis=1)  # of two long spans one mended is better
        most, least = (
            self.count * np.array([getattr(r, name) for r in self.kinds])[rubbers] for name in ("most_n", "least_n")
        )
        shares = [
            _over(sag / max(1.0, float(rules.sag_mm))),
            _over(flex_n / max(1.0, rules.flex_across_n)),
            _over(flex_nm / max(0.1, rules.flex_bend_nm)),
            _over(span / float(rules.span_mm)) + beyond,
            _over(self.rods[-1][which] * np.abs(loads) / YIELD_MPA).sum(axis=1),
        ]
        if self.design.settings.hang_school != "solid":
            shares += [_over(loads / most).sum(axis=1), np.maximum(0.0, (least - loads) / least).sum(axis=1)]
        # a millimetre of sag weighs as much as 5 N across a flex or 400 of span; what is thicker bent weighs too
        thick = sum(_over(bar[which] * np.abs(loads) / YIELD_MPA).sum(axis=1) for bar in self.rods[:-1])
        strain = sag + flex_n / 5.0 + flex_nm + span / 400.0 + thick
        if which.shape[1]:
            strain = strain + loads.std(axis=1) / 20.0 + 10.0 * (loads < 0).sum(axis=1)
        return Tries(which, rubbers, loads, sag, flex_n, sum(shares), strain)

    def _strained(self, ends: Vector) -> tuple[Vector, Vector]:
        """The greatest across any flex [N] and bending it [N m], of each set."""
        if not ends.shape[1]:
            return np.zeros(len(ends)), np.zeros(len(ends))

        def aside(way: Vector) -> Vector:
            along = np.einsum("sfi,fi->sf", way, self.along)
            return np.asarray(np.linalg.norm(way - along[:, :, None] * self.along[None], axis=2).max(axis=1))

        return aside(ends[:, :, 6:9]), np.maximum(aside(ends[:, :, 3:6]), aside(ends[:, :, 9:12])) / 1000.0

    def hangers(self, one: Sequence[int], rubbers: Sequence[int], loads: Sequence[float]) -> list[Hanger]:
        """The hangers of a set, front first, each on its rubber and on a rod that its load does not bend."""
        out = []
        for n, rubber, load in zip(one, rubbers, loads, strict=True):
            holds = (k for k in range(len(self.bars)) if self.rods[k][n] * abs(load) <= YIELD_MPA)
            bar = self.bars[next(holds, len(self.bars) - 1)]
            hanger = self.places[n][1].replace(rubber=self.kinds[rubber], rod_mm=Length(bar))
            out.append((float(self.model.frame.nodes[self.at[n]][0]), hanger))
        return [hanger for _, hanger in sorted(out, key=lambda pair: pair[0])]

    def best_sets(self, only: Sequence[int] | None = None) -> Iterator[Tries]:
        """For each count of hangers, the fewest first, the best sets of one place each of several points: of one or two
        all that there are; of more every choice of points while they are not too many, and the best smaller sets with
        one more, all bettered place by place. Of all places, or of some `only`.
        """
        by_point: dict[int, list[int]] = {}
        for n in range(len(self.places)) if only is None else only:
            by_point.setdefault(self.places[n][0], []).append(n)
        best = self.tried(np.zeros((1, 0)))
        for size in range(1, min(MOST_HANGERS, len(by_point)) + 1):
            few = math.comb(len(by_point), size) <= MOST_CHOICES
            choices = list(itertools.combinations(by_point.values(), size)) if few else []
            if size <= EXHAUSTIVE:
                rows = np.array([row for some in choices for row in itertools.product(*some)])
            else:
                grown = self.tried(np.array(self._with_one_more(best, by_point)))
                starts = [[there[k] for there in some] for some in choices for k in (0, -1)]
                rows = self._bettered(np.array([*grown.which[grown.best(BEAM)], *starts]), by_point)
            best = self.tried(np.unique(np.sort(rows, axis=1), axis=0))
            best = self.tried(best.which[best.best(BEAM)])
            yield best

    def _with_one_more(self, best: Tries, by_point: Mapping[int, Sequence[int]]) -> list[tuple[int, ...]]:
        """Sets with one hanger more, from a point that they do not use yet."""
        out = []
        for row in best.which[best.best(BEAM)]:
            used = {self.places[n][0] for n in row}
            out += [(*row, n) for point, some in by_point.items() if point not in used for n in some]
        return out

    def _bettered(self, which: Vector, by_point: Mapping[int, Sequence[int]]) -> Vector:
        """Sets of which each hanger in turn goes to that place of its point where it helps most."""
        for _ in range(2):
            for k in range(which.shape[1]):
                places = [by_point[self.places[n][0]] for n in which[:, k]]
                owner = np.repeat(np.arange(len(which)), [len(some) for some in places])
                rows = which[owner]
                rows[:, k] = np.concatenate(places)
                found = self.tried(rows)
                order = np.lexsort((found.strain, np.round(found.wrong, 2), owner))
                which = rows[order[np.unique(owner[order], return_index=True)[1]]]
        return which


def _over(share: Vector) -> Vector:
    return np.maximum(0.0, share - 1.0)


def kinds_of(own: Sequence[Rubber], school: HangSchool) -> tuple[Rubber, ...]:
    """The rubbers to choose from, the softest first; the shop's own in place of the list's where it has any; bobbins
    where it hangs on those.
    """
    if school == "bobbins":
        return tuple(RUBBERS[key] for key in BOBBINS)
    listed = [RUBBERS[key] for key in LIGHT]
    usual = [r for r in own if r.shape == "two holes"]
    return tuple(sorted(usual, key=lambda r: r.most_n)) + tuple(listed[-1:] if usual else listed)


def _rod_of(system: System, eye: Eye, bar: float) -> tuple[Hanger, float | None]:
    """The hanger with its rod bent the way that stresses it least, and that stress for a newton on it [MPa]; None where
    it can be bent in no way.
    """
    stiff, found = stiffness_of(RUBBERS["two-hole"]), list[tuple[float, Hanger]]()
    for left in (False, True):
        for ahead in (False, True):
            hand = {"rod_mm": Length(bar), "rod_left": left, "hook_ahead": ahead}
            turned = eye.hanger.replace(**hand)
            try:
                rod = rod_for(system, Carried(turned, 1.0, 0.0, 0.0, 0.0, stiff, eye.place, eye.eye, eye.pin))
            except InputError:
                continue
            found.append((max(rod.stop_mpa, rod.weld_mpa), turned))
            break  # the other hook changes next to nothing
    least, hanger = min(found, key=lambda one: one[0], default=(None, eye.hanger))
    return hanger, least


def loosely_held(frame: Frame) -> Solved:
    """A frame without springs, made ready; held ever so softly at its front where nothing holds it."""
    try:
        return Solved(frame)
    except InputError:
        return Solved(replace(frame, springs=(replace(SOFT, node=int(np.argmin(frame.nodes[:, 0]))),)))
