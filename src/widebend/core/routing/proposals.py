"""Close it, for a run in its design: the answers, each checked against everything, those that keep their gaps first."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..closing import Answer, BendOptions, Change, changes_that_work, close, why_not
from ..cutting import cut_list, tube_mass_per_metre
from ..editing import kept_pieces, last_tube, mitred, take_answer
from ..errors import EditError
from ..flow import as_straight_mm
from ..heat import obstacles_of
from ..laying import LaidPiece, LaidRun, behind, lay_pieces, lay_run, system_of, tube_segments
from ..records import Design, Mitre, Part, Piece, Rules, Run, Straight, Tube
from ..review import (
    CLOSES_DEG,
    CLOSES_MM,
    NOT_WORTH_SAYING_MM,
    Finding,
    Worst,
    gap_finding,
    list_findings,
    review,
    worst_over,
)
from ..space import Pose, Vector
from ..units import Length
from .remedy import ways_of

MOST_SHOWN = 8
ITSELF = "pipe itself"


@dataclass(frozen=True)
class Side:
    """Which side of a thing a way passes: over, under, left of, right of or through it."""

    side: str
    thing: str
    name: str

    @property
    def words(self) -> str:
        return f"{self.side} the {self.name}"


@dataclass(frozen=True)
class Made:
    """The work to make a run as the bench would cut it, kept pieces and all: its joints, and its weld [mm]."""

    joints: int
    weld_mm: float
    cannot: tuple[Finding, ...] = ()  # what of it the bench cannot make


@dataclass(frozen=True)
class Proposal:
    """One checked way to close a run. `worst_margin_mm` is capped at what is worth saying.

    `sides`: which side of what it passes; `buried`: how many of its joints a hand and a torch cannot reach from half of
    all sides; `lacks`: the things it comes too near to, and by how much [mm], worst first; `own_spare_mm`: what it
    keeps over the wanted gap from the system itself, 0 at most.
    """

    answer: Answer
    pieces: tuple[Piece, ...]
    laid: tuple[LaidPiece, ...]
    worst_margin_mm: float
    worst_thing: str
    worst_state: str
    goes: str = ""
    sides: tuple[Side, ...] = ()
    buried: int = 0
    price: float | None = None
    lacks: tuple[tuple[str, float], ...] = ()
    own_spare_mm: float = 0.0
    made: Made | None = None  # none before it is looked at: `as_made`

    @property
    def keeps_gaps(self) -> bool:
        return self.worst_margin_mm >= -1e-6

    @property
    def cannot(self) -> tuple[Finding, ...]:
        """Return the faults of making it, where they were looked at."""
        return self.made.cannot if self.made else ()

    @property
    def bends(self) -> int:
        return len(self.answer.bends)

    @property
    def mitres_deg(self) -> list[float]:
        """Turns so small that they are mitres: a straight cut through at half of it, one side turned half round."""
        return [p.turn_deg for p in self.pieces if isinstance(p, Mitre)]

    @property
    def straight_mm(self) -> float:
        """Straight tube that it takes."""
        return sum(p.length_mm for p in self.laid if isinstance(p.piece, Straight))

    @property
    def loss_mm(self) -> float:
        """The straight pipe that would cost the flow as much."""
        return as_straight_mm(self.laid)

    @property
    def mass_kg(self) -> float:
        """Mass of the new pipe."""
        return sum(tube_mass_per_metre(p.tube) * p.length_mm / 1000.0 for p in self.laid)


@dataclass(frozen=True)
class Proposals:
    """The outcome of `propose`: proposals, or why there are none and which solved changes would help.

    Pieces before `kept` stay, and those from `until` on where there is one. `miss` is the nearest miss where there is
    no proposal, `opens` what was solved and would open a way; `drawn` what the pieces between are now, to compare with.
    `tries` is how many searches that did not know of each other were made, `agreeing` how many of them came to the
    best.
    """

    kept: int
    found: tuple[Proposal, ...]
    why_not: str = ""
    changes: tuple[Change, ...] = ()
    until: int | None = None
    miss: Proposal | None = None
    opens: tuple[str, ...] = ()
    drawn: Proposal | None = None
    tries: int = 0
    agreeing: int = 0


def propose(design: Design, run_id: str, keep: int | None = None, ways: BendOptions | None = None) -> Proposals:
    """Close a run from where it is now to its aim. `keep` pieces stay (none given: all); locked ones always do.

    Raises EditError when there is nothing to start from or to aim for.
    """
    run, laid = ready(design, run_id)
    kept = len(kept_pieces(run, len(run.pieces) if keep is None else keep))
    if kept == len(run.pieces) and kept and laid.miss_mm < CLOSES_MM and laid.miss_deg < CLOSES_DEG:
        raise EditError(
            "the end is on its aim already; to find another way, choose a piece and press again from there"
            if keep is None
            else "everything up to the end is locked or carried by a part: unlock a piece to find another way"
        )
    start = laid.pieces[kept - 1].outlet if kept else laid.start
    target = laid.aim
    assert target is not None  # ready saw to it
    ways = ways or ways_of(design.settings)
    answers = close(start, target, ways)
    first_locked = len(kept_pieces(run, 0))
    if keep is None and first_locked < kept and all(a.goes_round for a in answers):
        # what is drawn leads nowhere but round: from the last piece that has to stay there may be better
        again = propose(design, run_id, first_locked, ways)
        if any(not p.answer.goes_round for p in again.found):
            return again
    if answers:
        return Proposals(kept, _ranked(design, laid, kept, start, answers))
    od = float(run.tube.od_mm)
    return Proposals(kept, (), why_not(start, target, ways), tuple(changes_that_work(start, target, ways, od)))


def ready(design: Design, run_id: str) -> tuple[Run, LaidRun]:
    """A run with somewhere to start and something to aim for. Raises EditError."""
    run = design.run(run_id)
    if run is None:
        raise EditError("there is no such run in this design")
    laid = lay_run(design, run)
    if laid is None:
        raise EditError("the run has nothing to start from: place its start first")
    if laid.aim is None:
        raise EditError("the run has nothing to aim for: place its finish first")
    return run, laid


def _ranked(design: Design, laid: LaidRun, kept: int, start: Pose, answers: list[Answer]) -> tuple[Proposal, ...]:
    """Checked, those that keep their gaps first, then gentlest; a few of each bend count."""
    around, run = obstacles_of(design), laid.run
    system = system_of(design)
    mover, positions = behind(design, system, laid, kept, last_tube(run, kept))

    def worst(rows: Vector) -> Worst:
        return worst_over(rows, mover, around, positions)

    tube = last_tube(run, kept)
    proposals = [_checked(design, run, tube, start, a, worst) for a in answers[:160]]
    proposals.sort(
        key=lambda p: (not p.keeps_gaps, p.answer.goes_round, p.answer.rank if p.keeps_gaps else -p.worst_margin_mm)
    )
    shown: list[Proposal] = []
    for proposal in proposals:
        if sum(p.bends == proposal.bends for p in shown) < 4 and not _much_alike(proposal, shown):
            shown.append(proposal)
    made = [
        as_reviewed(design, run.id, kept, None, as_made(design, run.id, kept, None, proposal))
        for proposal in shown[:MOST_SHOWN]
    ]
    return tuple(sorted(made, key=lambda p: (not p.keeps_gaps, len(p.cannot))))


def _much_alike(proposal: Proposal, shown: list[Proposal]) -> bool:
    """Within 3 deg in every bend and 25 mm in length of one already shown: the same way to a fabricator."""
    return any(
        p.bends == proposal.bends
        and abs(p.answer.length_mm - proposal.answer.length_mm) < 25.0
        and all(abs(p.answer.angles_deg - proposal.answer.angles_deg) < 3.0)
        and p.bends > 0
        for p in shown
    )


def _checked(
    design: Design, run: Run, tube: Tube, start: Pose, answer: Answer, worst_of: Callable[[Vector], Worst]
) -> Proposal:
    pieces = makeable(answer.pieces(), design.settings.rules)
    laid = lay_pieces(start, pieces, design, tube)
    worst = worst_of(tube_segments(LaidRun(run, start, laid, None)).rows)
    name, state = named(worst)
    return Proposal(answer, pieces, laid, worst.margin_mm, name, state)


def as_made(design: Design, run_id: str, kept: int, until: int | None, proposal: Proposal) -> Proposal:
    """A proposal with what its run takes to make once it is taken, by the cut list: the same that the bench is told."""
    changed = take_answer(design, run_id, kept, proposal.pieces, until)
    run = changed.run(run_id)
    laid = lay_run(changed, run) if run else None
    if laid is None:
        return proposal
    cuts = cut_list(changed, laid)
    new = _its_pieces(design, changed, run_id, kept, until)
    cannot = tuple(f for f in list_findings(run_id, cuts, design.settings.rules) if f.piece in new)
    return replace(proposal, made=Made(cuts.joints, cuts.weld_mm, cannot))


def as_reviewed(design: Design, run_id: str, kept: int, until: int | None, proposal: Proposal) -> Proposal:
    """A proposal with what the review says of its pieces once it is taken: the least that they leave over every gap,
    to what, and what they lack.
    """
    changed = take_answer(design, run_id, kept, proposal.pieces, until)
    after, new = review(changed), _its_pieces(design, changed, run_id, kept, until)
    leaves: list[tuple[float, str, str]] = []
    for gap in after.gaps:
        found = gap_finding(gap)
        if gap.run == run_id and gap.piece in new and not (gap.together and (not found or found.code == "together")):
            leaves.append((gap.margin_mm, *named(Worst(gap.margin_mm, gap.obstacle, gap.position))))
    own = [
        (f.margin_mm or 0.0, _other(changed, f, run_id), f.position)
        for f in after.findings
        if _is_own(changed, f) and _is_of(f, run_id, new)
    ]
    margin, name, state = min((*leaves, *own), default=(NOT_WORTH_SAYING_MM, "", ""))
    if margin >= NOT_WORTH_SAYING_MM:
        margin, name, state = NOT_WORTH_SAYING_MM, "", ""
    lacks: dict[str, float] = {}
    for short, thing, _ in (*leaves, *own):
        if short < -1e-6:
            lacks[thing] = max(lacks.get(thing, 0.0), -short)
    return replace(
        proposal,
        worst_margin_mm=margin,
        worst_thing=name,
        worst_state=state,
        lacks=tuple(sorted(lacks.items(), key=lambda item: -item[1])),
        own_spare_mm=min((spare for spare, _, _ in own), default=0.0),
    )


def _its_pieces(design: Design, changed: Design, run_id: str, kept: int, until: int | None) -> range:
    """Which pieces of a run an answer put in; the last that was kept is one of them where it was made longer."""
    before, after = design.run(run_id), changed.run(run_id)
    assert before is not None and after is not None  # it was just taken
    grew = bool(kept) and len(after.pieces) >= kept and after.pieces[kept - 1] != before.pieces[kept - 1]
    behind = 0 if until is None else len(before.pieces) - until
    return range(kept - grew, len(after.pieces) - behind)


def _is_own(design: Design, finding: Finding) -> bool:
    """Whether a finding is about the system against itself."""
    return finding.code in ("own", "touches") and (
        design.run(finding.thing) is not None or design.part(finding.thing) is not None
    )


def _other(design: Design, finding: Finding, run_id: str) -> str:
    """Return the parts of the system that a run is too near to."""
    if finding.run == run_id == finding.thing:
        return ITSELF
    other = finding.thing if finding.run == run_id else finding.part or finding.run
    run, part = design.run(other), design.part(other)
    return f"{run.name or run.id} pipe" if run else part.name or part.item.kind if part else finding.thing_name


def _is_of(finding: Finding, run_id: str, pieces: range) -> bool:
    one = finding.run == run_id and finding.piece in pieces
    return one or (finding.thing == run_id and finding.thing_piece in pieces)


def makeable(pieces: Sequence[Piece], rules: Rules) -> tuple[Piece, ...]:
    """An answer's pieces as the bench makes them: a slight turn is a mitre where straights beside it can be held."""
    return tuple(mitred(pieces, rules.trim_deg, float(rules.least_ring_mm)))


def named(worst: Worst) -> tuple[str, str]:
    """The thing that is nearest, and in which state of its own and of the pipe; empty for none."""
    name, state = (worst.obstacle.thing.name, worst.obstacle.state) if worst.obstacle else ("", "")
    return name, ", pipe ".join(s for s in (state, worst.position) if s)


def taken(design: Design, run_id: str, proposals: Proposals, index: int) -> Design:
    """The design with one proposal taken. Raises EditError for one that is not there."""
    if not 0 <= index < len(proposals.found):
        raise EditError("that answer is no longer offered: press close it again")
    return take_answer(design, run_id, proposals.kept, proposals.found[index].pieces, proposals.until)


def with_change(design: Design, run_id: str, change: Change) -> Design:
    """The design with a change that works applied: other ways in its settings, or its finish moved."""
    settings = design.settings.replace(
        clr_mm=tuple(change.ways.clr_mm), free_angles=change.ways.free, shortest_straight_mm=change.ways.shortest_mm
    )
    parts = design.parts
    run = design.run(run_id)
    if change.aim_shift_mm and run and run.aim:
        aim_part = run.aim.partition(".")[0]
        _, laid = ready(design, run_id)
        assert laid.aim is not None  # ready saw to it
        shift = change.aim_shift_mm * laid.aim.flow
        parts = tuple(_moved(p, shift) if p.id == aim_part else p for p in parts)
    changed = design.replace(settings=settings, parts=parts)
    return changed.validated()


def _moved(part: Part, shift: Vector) -> Part:
    if part.placed is None:
        return part
    point = tuple(Length(a + b) for a, b in zip(part.placed.point, shift, strict=True))
    return part.replace(placed=part.placed.replace(point=point))
