"""Where to hang a system: which points of the vehicle, where on pipe or part, on which rubber, so that rules hold.

Sets of hangers are compared by the rules themselves, the fewest first; the best are then hung and looked at as any
other.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from ..errors import InputError
from ..hanging import SPOILS, HangCode, HangFault, HungSystem, hang, hang_faults, old_rod_wants, rubber_of, stiffness_of
from ..laying import System
from ..records import Design, Hanger, Rubber
from .new_points import NewPoint, new_points
from .schools import in_school
from .trying import CLEAN, Places
from .where import candidates

Weigh = Literal["fewest", "stillest", "no drilling", "easiest off"]
WEIGHS: tuple[Weigh, ...] = get_args(Weigh)
SAID_ONLY = ("guessed-mass", "no-engine")
SHORT_LIST, MOST_HUNG = 5, 24
# no way of hanging it is offered as good with these
NEEDS: tuple[HangCode, ...] = (*SPOILS, "long-span", "no-rod", "sags")
LITTLE_LONG = 1.2  # common practice, no source
UNMEASURED = 0.2  # what a fault weighs that has no share of a limit


@dataclass(frozen=True)
class HangProposal:
    """One way to hang it: the hangers, how it hangs by them, what is still wrong; what it was weighed by."""

    weigh: Weigh
    hangers: tuple[Hanger, ...]
    hung: HungSystem
    faults: tuple[HangFault, ...]

    @property
    def holds(self) -> bool:
        """Whether it keeps every rule that a way of hanging is offered by."""
        return not any(fault.code in NEEDS for fault in self.faults)


@dataclass(frozen=True)
class HangAnswer:
    """Ways to hang it, best first; and where no way holds all rules, the new points that would. One that holds by its
    ends alone `needs_none`.
    """

    found: tuple[HangProposal, ...] = ()
    points: tuple[NewPoint, ...] = ()
    needs_none: bool = False


@dataclass(frozen=True)
class _Try:
    """One set of hangers, front first, and what ranks it."""

    hangers: tuple[Hanger, ...]
    wrong: float
    strain: float
    sag_mm: float
    flex_n: float


def propose_hangers(
    design: Design, system: System, own: Sequence[Rubber] = (), thickest_mm: float | None = None
) -> HangAnswer:
    """Two to four ways to hang a system from the points that are known, on the shop's `own` rubbers with two holes
    before those of the list, on rods no thicker than it bends. Raises InputError where it is not laid.
    """
    if not any(run.pieces for run in system.runs):
        raise InputError("there is no pipe to hang yet")
    places = Places.of(design, system, candidates(design, system, design.survey.hang_points), own, thickest_mm)
    if _ends_hold(design, system):
        return HangAnswer(needs_none=True)
    sets, made = list(_sets(places)), dict[int, HangProposal]()

    def proposal(one: _Try, weigh: Weigh) -> HangProposal:
        return made.setdefault(id(one), _proposal(design, system, one.hangers, weigh))

    found: list[HangProposal] = []
    for weigh in WEIGHS:
        ranked = sorted(sets, key=lambda one: (one.wrong >= CLEAN, round(one.wrong, 2), *_way(design, one, weigh)))
        # what a frame alone does not say (how it swings, what a school asks) tells sets apart that are as good
        short = [proposal(one, weigh) for one in ranked[:SHORT_LIST]]
        if weigh == "fewest" and not any(one.holds for one in short):
            short += [proposal(one, weigh) for one in ranked[SHORT_LIST:MOST_HUNG]]
        best = min(short, key=lambda one: (not one.holds, _ill(one), short.index(one)), default=None)
        if best is not None and all(best.hangers != one.hangers for one in found):
            found.append(replace(best, weigh=weigh))
        if weigh == "stillest" and best is not None and design.settings.hang_school == "as it comes":
            found += _doubled(design, system, best)
    if any(one.holds for one in found):
        return HangAnswer(tuple(sorted(found, key=lambda one: not one.holds)))
    return HangAnswer(tuple(found), tuple(new_points(design, system, own, thickest_mm)))


def _ends_hold(design: Design, system: System) -> bool:
    """Whether it keeps every rule by its ends alone. A span a little long does not matter: a hanger there would
    carry nothing.
    """
    bare = design.replace(hangers=())
    try:
        faults = hang_faults(bare, system, hang(bare, system, modes=0))
    except InputError:  # held by nothing
        return False
    wrong = [f for f in faults if f.code in NEEDS]
    return all(f.code == "long-span" and f.figure < LITTLE_LONG * f.limit for f in wrong)


def _sets(places: Places) -> Iterator[_Try]:
    """Sets of hangers worth a look, the fewest first; when some keep every rule, those of one hanger more besides."""
    more = 2
    for tries in places.best_sets():
        for k in tries.best(len(tries.which)):
            hangers = places.hangers(tries.which[k], tries.rubbers[k], tries.loads[k])
            yield _Try(
                tuple(hangers),
                float(tries.wrong[k]),
                float(tries.strain[k]),
                float(tries.sag_mm[k]),
                float(tries.flex_n[k]),
            )
        if float(tries.wrong.min(initial=np.inf)) < CLEAN:
            more -= 1
        if not more:
            return


def _way(design: Design, one: _Try, weigh: Weigh) -> tuple[float, ...]:
    """Return the sort key of a set; the least is best."""
    count = float(len(one.hangers))
    if weigh == "fewest":
        return count, one.strain
    if weigh == "stillest":
        return one.sag_mm + one.flex_n / 10.0, -sum(stiffness_of(rubber_of(h)).along for h in one.hangers)
    if weigh == "no drilling":
        return _brackets(design, one.hangers), count, one.sag_mm
    return float(sum(h.part is None for h in one.hangers)), count, one.sag_mm


def _brackets(design: Design, hangers: Sequence[Hanger]) -> float:
    """How many points need a bracket of their own; a bolt that holds something else too counts for three."""
    points = [p for h in hangers for p in design.survey.hang_points if p.id == h.hang_point]
    return float(sum((p.kind != "existing rubber") + 2 * bool(p.holds) for p in points))


def _ill(one: HangProposal) -> float:
    """By how much a way of hanging it breaks the rules: each fault as a share over its limit."""
    total = 0.0
    for fault in one.faults:
        if fault.code in SAID_ONLY:
            continue
        share = fault.figure / fault.limit - 1.0 if fault.limit and fault.figure > fault.limit else UNMEASURED
        total += share if fault.code in NEEDS else 0.1 * min(share, 1.0)
    return round(total, 2)


def _doubled(design: Design, system: System, one: HangProposal) -> list[HangProposal]:
    """The same with two rubbers at each point that carries enough for two: a school of its own, for it cannot swing."""
    two = tuple(
        h.replace(rubbers=2) if c.load_n >= 2 * rubber_of(h).least_n else h
        for h, c in zip(one.hangers, one.hung.carried, strict=True)
    )
    if two == one.hangers:
        return []
    design = design.replace(hangers=two)
    hung = hang(design, system)
    return [HangProposal("stillest", two, hung, tuple(hang_faults(design, system, hung)))]


def _proposal(design: Design, system: System, hangers: Sequence[Hanger], weigh: Weigh) -> HangProposal:
    plain = tuple(h.replace(id=f"hanger-{k}") for k, h in enumerate(hangers, 1))
    loads = [one.load_n for one in hang(design.replace(hangers=plain), system, modes=0).carried]
    settings = design.settings
    for schooled in in_school(plain, loads, settings.hang_school, float(settings.rules.rod_pull_mm)):
        hung_design = design.replace(hangers=schooled)
        hung = hang(hung_design, system)
        reused = _reused(hung_design, system, hung)
        made = HangProposal(weigh, reused, hung, tuple(hang_faults(hung_design, system, hung)))
        if not any(f.code == "flex-carries" for f in made.faults):
            break
    return made


def _reused(design: Design, system: System, hung: HungSystem) -> tuple[Hanger, ...]:
    """The hangers, with the vehicle's old rod on each whose point has one that reaches."""
    reach = {p.id: float(p.old_rod_mm) for p in design.survey.hang_points}
    return tuple(
        c.hanger.replace(hold="old rod")
        if c.hanger.way == "rubber" and reach.get(c.hanger.hang_point or "", 0.0) >= old_rod_wants(system, c)
        else c.hanger
        for c in hung.carried
    )
