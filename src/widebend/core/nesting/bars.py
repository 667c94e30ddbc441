"""Pieces laid into bars: the one-dimensional cutting stock problem with a saw's kerf, solved to the proven optimum.

n pieces from one bar take the sum of their lengths and n - 1 kerfs: the last cut is free where the bar ends there. Few
kinds of pieces are solved by patterns (Gilmore and Gomory 1961): every way to fill a bar, and how often each is used.
Many are solved bar by bar. Both are integer programs for CP-SAT, kept deterministic: the same question has the same
answer.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

from ..errors import InputError

if TYPE_CHECKING:
    from ortools.sat.python.cp_model import CpModel, IntVar, LinearExprT

Aim = Literal["least bought", "least cost", "tidy shelf"]
AIMS: tuple[Aim, ...] = ("least bought", "least cost", "tidy shelf")
PER_MM = 100  # a hundredth of a millimetre is the model's unit
MOST_PATTERNS = 4000
MOST_STEPS = 100_000  # of looking for them: a fifth of a second
MOST_PIECES = 5000
SECONDS = 5.0


@dataclass(frozen=True)
class Bar:
    """A kind of bar: `count` are on the shelf, or as many as wanted can be bought (None), at `cost` each."""

    id: str
    length_mm: float
    count: int | None = None
    cost: float = 0.0
    is_offcut: bool = False

    @property
    def is_bought(self) -> bool:
        return self.count is None


@dataclass(frozen=True)
class Cut:
    """A length wanted, this many times."""

    id: str
    length_mm: float
    count: int = 1


@dataclass(frozen=True)
class Saw:
    """The allowances of cutting. Lengths mm.

    `facing_mm` is left on every piece to be dressed square; a rest shorter than `usable_mm` is scrap; of what is cut
    apart one part must be at least `hold_mm` long for the vice; `most` pieces come from one bar, None for any number.
    """

    kerf_mm: float = 1.5
    facing_mm: float = 0.0
    usable_mm: float = 150.0
    hold_mm: float = 0.0
    most: int | None = None


@dataclass(frozen=True)
class Problem:
    """A question: which bars there are, what is wanted from them, with which saw, and what counts most."""

    bars: tuple[Bar, ...]
    cuts: tuple[Cut, ...]
    saw: Saw
    aim: Aim


@dataclass(frozen=True)
class Layout:
    """One bar as it is cut: the pieces in order, longest last, and what is left of it [mm]."""

    bar: Bar
    pieces: tuple[str, ...]
    rest_mm: float


@dataclass(frozen=True)
class Nest:
    """All bars as they are cut. `short` are pieces that no bar is left for; `gap` is how much better, as a share of the
    objective, an answer could still be: 0 when this one is proven best.
    """

    layouts: tuple[Layout, ...]
    short: tuple[str, ...] = ()
    gap: float = 0.0

    @property
    def proven(self) -> bool:
        return self.gap == 0.0

    @property
    def bought_mm(self) -> float:
        return sum(one.bar.length_mm for one in self.layouts if one.bar.is_bought)

    @property
    def cost(self) -> float:
        return sum(one.bar.cost for one in self.layouts if one.bar.is_bought)


Solve = Callable[[Problem], "Nest"]


def within(seconds: float) -> Solve:
    """An answer to each question, looked for about so long."""
    return lambda asked: nest(asked.bars, asked.cuts, asked.saw, asked.aim, seconds)


def nest(
    bars: Sequence[Bar], cuts: Sequence[Cut], saw: Saw, aim: Aim = "least bought", seconds: float = SECONDS
) -> Nest:
    """Lay pieces into bars. What does not fit any bar, or for which the shelf has no bar left, is named in `short`.

    *least bought* buys the least length, *least cost* spends the least, *tidy shelf* first uses up offcuts (bars of the
    shelf, shortest first) as long as that buys no more. Raises InputError for counts and lengths that are none.
    """
    _check(bars, cuts, saw)
    fits = [c for c in cuts if c.count and any(c.length_mm + saw.facing_mm <= b.length_mm + 1e-9 for b in bars)]
    never = [c.id for c in cuts if c not in fits for _ in range(c.count)]
    if not fits:
        return Nest((), tuple(never))
    alike, names = _alike(fits)
    patterns = _patterns(bars, alike, saw)
    program = _by_bar(bars, alike, saw) if patterns is None else _by_pattern(bars, alike, patterns)
    found = _named(_solved(program, alike, aim, saw, seconds) or _laid_by_hand(bars, alike, saw), names)
    return replace(found, short=(*never, *found.short))


def _alike(cuts: Sequence[Cut]) -> tuple[list[Cut], dict[str, list[str]]]:
    """Pieces of one length as one cut, this many times: which of them goes where makes no difference. With their names,
    to be given back.
    """
    names: dict[str, list[str]] = {}
    lengths: dict[str, float] = {}
    for cut in cuts:
        key = str(_units(cut.length_mm))
        names.setdefault(key, []).extend([cut.id] * cut.count)
        lengths[key] = max(lengths.get(key, 0.0), cut.length_mm)
    return [Cut(key, lengths[key], len(every)) for key, every in names.items()], names


def _named(found: Nest, names: Mapping[str, list[str]]) -> Nest:
    """A nest of lengths with the pieces' own names, in the order they were asked for."""
    left = {key: list(every) for key, every in names.items()}

    def given(keys: Sequence[str]) -> tuple[str, ...]:
        return tuple(left[key].pop(0) for key in keys)

    layouts = tuple(replace(one, pieces=given(one.pieces)) for one in found.layouts)
    return replace(found, layouts=layouts, short=given(found.short))


def _check(bars: Sequence[Bar], cuts: Sequence[Cut], saw: Saw) -> None:
    if any(b.length_mm <= 0 or (b.count or 0) < 0 for b in bars) or any(c.length_mm <= 0 or c.count < 0 for c in cuts):
        raise InputError("a bar or a piece needs a length of more than nothing, and a count that is not minus")
    if min(saw.kerf_mm, saw.facing_mm, saw.usable_mm, saw.hold_mm) < 0:
        raise InputError("kerf, facing and rests cannot be minus")
    if sum(c.count for c in cuts) > MOST_PIECES:
        raise InputError(f"more than {MOST_PIECES} pieces at once: nest a part of them")
    known = [b.id for b in bars]
    if len(set(known)) < len(known) or len({c.id for c in cuts}) < len(cuts):
        raise InputError("two bars or two pieces have the same name")


def _units(mm: float) -> int:
    return round(mm * PER_MM)


def _long(cut: Cut, saw: Saw) -> int:
    """Return the length a piece takes of a bar, its kerf with it: a bar has one kerf more than it is long."""
    return _units(cut.length_mm + saw.facing_mm) + _units(saw.kerf_mm)


def _room(bar: Bar, saw: Saw) -> int:
    return _units(bar.length_mm) + _units(saw.kerf_mm)


Pattern = tuple[int, ...]  # how many of each cut


def _patterns(bars: Sequence[Bar], cuts: Sequence[Cut], saw: Saw) -> list[list[Pattern]] | None:
    """Every full way to cut each bar; None where there are too many, or where the vice wants a say."""
    if any(_units(c.length_mm + saw.facing_mm) < _units(saw.hold_mm) for c in cuts):
        return None
    longs, counts = [_long(c, saw) for c in cuts], [c.count for c in cuts]
    steps = itertools.count()
    ways = itertools.chain.from_iterable(
        ((j, way) for way in _ways(steps, _room(bar, saw), longs, counts, _most_in_one(cuts, saw)))
        for j, bar in enumerate(bars)
    )
    found = list(itertools.islice(ways, MOST_PATTERNS + 1))
    if len(found) > MOST_PATTERNS or next(steps) > MOST_STEPS:
        return None
    return [[way for of, way in found if of == j] for j in range(len(bars))]


def _most_in_one(cuts: Sequence[Cut], saw: Saw) -> int:
    """How many pieces come from one bar at most."""
    every = sum(c.count for c in cuts)
    return every if saw.most is None else min(saw.most, every)


def _ways(
    steps: Iterator[int], room: int, longs: Sequence[int], counts: Sequence[int], left: int, k: int = 0
) -> Iterator[Pattern]:
    """Every way to fill so much room with `left` pieces at most that takes no further piece; given up where that takes
    too many steps.
    """
    if next(steps) > MOST_STEPS:
        return
    if k == len(longs):
        yield ()
        return
    most = min(counts[k], room // longs[k], left)
    for n in range(most, -1, -1):
        for rest in _ways(steps, room - n * longs[k], longs, counts, left - n, k + 1):
            free = room - n * longs[k] - sum(m * long for m, long in zip(rest, longs[k + 1 :], strict=True))
            if n == counts[k] or free < longs[k] or n + sum(rest) == left:
                yield (n, *rest)


@dataclass(frozen=True)
class _Program:
    """An integer program: how often each bar is cut (`times`) with so many of each cut in it, and what is left out."""

    model: CpModel
    used: list[tuple[Bar, Sequence[LinearExprT], IntVar]]
    short: list[IntVar]
    in_offcuts: LinearExprT  # how much of the pieces comes from offcuts
    searches: int  # how many ways of searching take turns


def _by_pattern(bars: Sequence[Bar], cuts: Sequence[Cut], patterns: list[list[Pattern]]) -> _Program:
    """How often each way to fill a bar is used."""
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    most = sum(c.count for c in cuts)
    used: list[tuple[Bar, Sequence[LinearExprT], IntVar]] = []
    for bar, ways in zip(bars, patterns, strict=True):
        times = [model.new_int_var(0, most if bar.count is None else bar.count, "") for _ in ways]
        if bar.count is not None and times:
            model.add(sum(times) <= bar.count)
        used += [(bar, way, t) for way, t in zip(ways, times, strict=True)]
    short = [model.new_int_var(0, c.count, "") for c in cuts]
    for k, cut in enumerate(cuts):
        # more than wanted may come out: that much stays in the rest
        model.add(sum(int(way[k]) * t for _, way, t in used) + short[k] >= cut.count)
    in_offcuts = sum(
        _units(c.length_mm) * int(n) * t
        for bar, way, t in used
        if bar.is_offcut
        for c, n in zip(cuts, way, strict=True)
    )
    return _Program(model, used, short, in_offcuts, 1)


def _most(bar: Bar, cuts: Sequence[Cut], saw: Saw) -> int:
    """How many bars of a kind can be wanted at most: those there are, or of bought ones what holds all by hand."""
    every = sum(c.count for c in cuts)
    if bar.count is not None:
        return min(bar.count, every)
    return sum(any(numbers) for numbers in _by_hand([bar] * every, cuts, saw))


def _by_bar(bars: Sequence[Bar], cuts: Sequence[Cut], saw: Saw) -> _Program:
    """How many of each cut come from each single bar."""
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    used: list[tuple[Bar, Sequence[LinearExprT], IntVar]] = []
    for bar in bars:
        before: IntVar | None = None
        for _ in range(_most(bar, cuts, saw)):
            taken = model.new_bool_var("")
            counts = [model.new_int_var(0, min(c.count, _room(bar, saw) // _long(c, saw)), "") for c in cuts]
            model.add(sum(_long(c, saw) * n for c, n in zip(cuts, counts, strict=True)) <= _room(bar, saw) * taken)
            model.add(sum(counts) <= _most_in_one(cuts, saw))
            _held(model, bar, cuts, counts, taken, saw)
            if before is not None:
                model.add_implication(taken, before)  # bars of a kind are alike: the first ones are taken
            used.append((bar, counts, taken))
            before = taken
    short = [model.new_int_var(0, c.count, "") for c in cuts]
    for k, cut in enumerate(cuts):
        model.add(sum(counts[k] for _, counts, _ in used) + short[k] == cut.count)
    laid = _by_hand([bar for bar, _, _ in used], cuts, saw)
    for (_, variables, taken), numbers in zip(used, laid, strict=True):
        model.add_hint(taken, any(numbers))
        for variable, number in zip(variables, numbers, strict=True):
            model.add_hint(variable, number)
    for k, cut in enumerate(cuts):
        model.add_hint(short[k], cut.count - sum(numbers[k] for numbers in laid))
    in_offcuts = sum(
        _units(c.length_mm) * n for bar, counts, _ in used if bar.is_offcut for c, n in zip(cuts, counts, strict=True)
    )
    return _Program(model, used, short, in_offcuts, 8)


def _held(model: CpModel, bar: Bar, cuts: Sequence[Cut], counts: Sequence[IntVar], taken: IntVar, saw: Saw) -> None:
    """Of a bar that is cut one part is long enough for the vice: a piece, or the rest."""
    hold = _units(saw.hold_mm)
    if hold <= 0:
        return
    long = [n for c, n in zip(cuts, counts, strict=True) if _units(c.length_mm + saw.facing_mm) >= hold]
    by_rest = model.new_bool_var("")
    model.add(sum(long) >= 1).only_enforce_if([taken, by_rest.negated()])
    rest = _room(bar, saw) - sum(_long(c, saw) * n for c, n in zip(cuts, counts, strict=True))
    model.add(rest >= hold).only_enforce_if(by_rest)


def _by_hand(slots: Sequence[Bar], cuts: Sequence[Cut], saw: Saw) -> list[list[int]]:
    """As a person lays them: the longest first, each into the tightest bar begun, else into the shortest of the shelf
    that holds it, else into a bought one. How many of each cut every bar gets; what fits nowhere is left out.
    """
    rooms, held = [_room(bar, saw) for bar in slots], [False] * len(slots)
    out = [[0] * len(cuts) for _ in slots]
    hold, most = _units(saw.hold_mm), _most_in_one(cuts, saw)
    for k, cut in sorted(enumerate(cuts), key=lambda one: -one[1].length_mm):
        long, is_long = _long(cut, saw), _units(cut.length_mm + saw.facing_mm) >= hold
        for _ in range(cut.count):
            fits = [
                j
                for j, room in enumerate(rooms)
                if room >= long and sum(out[j]) < most and (is_long or held[j] or room - long >= hold)
            ]
            if not fits:
                break
            j = min(fits, key=lambda j: (not any(out[j]), slots[j].is_bought, rooms[j], j))
            rooms[j], held[j] = rooms[j] - long, held[j] or is_long
            out[j][k] += 1
    return out


@dataclass(frozen=True)
class _Goal:
    """Something made least; `is_asked` where the answer is only the best when this is."""

    value: LinearExprT
    is_asked: bool


def _goals(program: _Program, cuts: Sequence[Cut], aim: Aim) -> list[_Goal]:
    """Return the sort key of a nest: what is left out, what the aim says, the length taken, the bars."""
    bought, cost, whole, long = [], [], [], []
    for bar, _, times in program.used:
        length = _units(bar.length_mm)
        long.append(length * times)
        if bar.is_bought:
            bought.append(length * times)
            cost.append(round(bar.cost * 100) * times)
        if not bar.is_offcut:
            whole.append(length * times)
    missing = sum(_units(c.length_mm) * n for c, n in zip(cuts, program.short, strict=True))
    first = {"least bought": [bought], "least cost": [cost, bought], "tidy shelf": [bought, whole]}[aim]
    asked = [missing, *(sum(goal) for goal in first)]
    offcuts_first = [-1 * program.in_offcuts] if aim == "tidy shelf" else []
    then = [*offcuts_first, sum(long), sum(times for _, _, times in program.used)]
    return [*(_Goal(goal, True) for goal in asked), *(_Goal(goal, False) for goal in then)]


def _solved(program: _Program, cuts: Sequence[Cut], aim: Aim, saw: Saw, seconds: float) -> Nest | None:
    """Each goal made least with the ones before kept. The gap is the worst of the goals that were asked for; None
    where the time was not enough for any answer.
    """
    from ortools.sat.python import cp_model

    solver = cp_model.CpSolver()
    # several ways of searching take turns in one thread, for so much work and not so long: the same answer every time
    solver.parameters.num_workers, solver.parameters.interleave_search = program.searches, program.searches > 1
    solver.parameters.random_seed = 7
    goals = [goal for goal in _goals(program, cuts, aim) if not isinstance(goal.value, int)]
    gap, found = 0.0, None
    for goal in goals:
        program.model.minimize(goal.value)
        solver.parameters.max_deterministic_time = seconds * (0.6 if goal is goals[1] else 0.4 / len(goals))
        status = solver.solve(program.model)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            gap = max(gap, 1.0 if goal.is_asked else 0.0)
            break
        found = _read(program, cuts, saw, solver.value)
        value, bound = solver.objective_value, solver.best_objective_bound
        if goal.is_asked and status != cp_model.OPTIMAL:
            gap = max(gap, (value - bound) / max(abs(value), 1.0))
        program.model.add(goal.value <= round(value))
        program.model.clear_hints()
        for _, counts, times in program.used:
            for variable in (times, *(n for n in counts if not isinstance(n, int))):
                program.model.add_hint(variable, solver.value(variable))
        for variable in program.short:
            program.model.add_hint(variable, solver.value(variable))
    return replace(found, gap=gap) if found else None


def _read(program: _Program, cuts: Sequence[Cut], saw: Saw, value: Callable[[LinearExprT], int]) -> Nest:
    """The nest of a program's answer."""
    filled = [(bar, [value(n) for n in counts]) for bar, counts, times in program.used for _ in range(value(times))]
    return _laid_out(filled, cuts, [value(n) for n in program.short], saw)


def _laid_by_hand(bars: Sequence[Bar], cuts: Sequence[Cut], saw: Saw) -> Nest:
    """The nest as a person would lay it; nothing is known of how good it is."""
    slots = [bar for bar in bars for _ in range(_most(bar, cuts, saw))]
    laid = _by_hand(slots, cuts, saw)
    short = [c.count - sum(numbers[k] for numbers in laid) for k, c in enumerate(cuts)]
    return replace(_laid_out(list(zip(slots, laid, strict=True)), cuts, short, saw), gap=1.0)


def _laid_out(filled: Sequence[tuple[Bar, list[int]]], cuts: Sequence[Cut], short: Sequence[int], saw: Saw) -> Nest:
    """Layouts of what is wanted; what a bar would yield beyond that stays in its rest."""
    left = [c.count - n for c, n in zip(cuts, short, strict=True)]
    layouts = []
    for bar, counts in filled:
        pieces: list[Cut] = []
        for k, cut in enumerate(cuts):
            n = min(counts[k], left[k])
            left[k] -= n
            pieces += [cut] * n
        if pieces:
            pieces.sort(key=lambda c: (c.length_mm, c.id))
            rest = _room(bar, saw) - sum(_long(c, saw) for c in pieces)
            layouts.append(Layout(bar, tuple(c.id for c in pieces), max(0.0, rest / PER_MM)))
    layouts.sort(key=lambda one: (one.bar.is_bought, one.bar.length_mm, one.bar.id, one.pieces))
    return Nest(tuple(layouts), tuple(c.id for c, n in zip(cuts, short, strict=True) for _ in range(n)))
