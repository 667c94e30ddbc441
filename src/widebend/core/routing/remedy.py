"""Changes that mend a finding, each tried and reviewed before it is offered."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice, product

from ..closing import BendOptions, close
from ..editing import CARRY, HOLD, changed_pieces, kept_pieces, take_answer, with_pieces
from ..errors import EditError
from ..heat import obstacles_of
from ..laying import REST, LaidRun, lay_pieces, lay_run, run_start, tube_segments
from ..records import Bend, Design, Piece, Run, Settings, Straight
from ..review import Finding, Review, review, worst_over
from ..space import Pose
from ..units import format_angle, format_length

# a remedy follows an edit within half a second, or is not offered: the worst finding gets most of the tries
MOST_TRIES, MOST_REVIEWS = (40, 20, 20), 6
ANGLE_STEPS = (2.0, 4.0, 7.0, 11.0)
LENGTH_STEPS = (8.0, 20.0, 40.0, 80.0)


@dataclass(frozen=True)
class Remedy:
    """A change in words and the design it makes, which was reviewed: the finding is gone and none got worse."""

    words: str
    why: str
    design: Design


def ways_of(settings: Settings) -> BendOptions:
    """Return the bend options of the job's settings."""
    return BendOptions(
        tuple(float(c) for c in settings.clr_mm),
        tuple(settings.angles_deg),
        settings.free_angles,
        float(settings.shortest_straight_mm),
    )


def remedies(design: Design, before: Review, unit: str = "mm", most: int = 3) -> dict[int, Remedy]:
    """A remedy for each of the worst `most` findings that has one, by the finding's index."""
    out: dict[int, Remedy] = {}
    for index, finding in enumerate(before.findings[:most]):
        remedy = _remedy(design, before, finding, unit, MOST_TRIES[min(index, len(MOST_TRIES) - 1)])
        if remedy:
            out[index] = remedy
    return out


def _remedy(design: Design, before: Review, finding: Finding, unit: str, tries: int) -> Remedy | None:
    run = design.run(finding.run)
    if run is None or finding.code not in ("touches", "tight", "misses", "short"):
        return None
    if finding.code == "misses":
        return _close_it(design, before, run)
    if finding.piece is None:
        return None
    if finding.code == "short":
        return _lengthen(design, before, finding, run, unit)
    tried = islice(_shifts(design, run, finding.piece, unit), tries)
    is_clear = _clear_of(design, run, finding, before)
    clear = islice(((words, pieces) for words, pieces in tried if is_clear(pieces)), MOST_REVIEWS)
    made = (Remedy(words, f"remedy: {words}", with_pieces(design, run, pieces)) for words, pieces in clear)
    return next((remedy for remedy in made if _mends(before, remedy.design)), None)


def _mends(before: Review, changed: Design) -> bool:
    """Nothing that spoils or is tight came up or grew worse elsewhere, and all in all it is better."""
    after = review(changed)
    margins = [f.margin_mm or 0.0 for f in before.findings if f.code in ("touches", "tight")]
    worst_now = [f.margin_mm or 0.0 for f in after.findings if f.code in ("touches", "tight")]
    if sum(min(m, 0.0) for m in worst_now) <= sum(min(m, 0.0) for m in margins) + 0.5:
        return False
    missed = sum(f.code == "misses" for f in before.findings)
    return sum(f.code == "misses" for f in after.findings) <= missed


def _clear_of(design: Design, run: Run, finding: Finding, before: Review) -> Callable[[Sequence[Piece]], bool]:
    """A quick look before everything is reviewed: whether pieces of the run keep their gap to the one thing, as what
    the finding is about moves.
    """
    things = [o for o in obstacles_of(design) if o.thing.id == finding.thing]
    mover = before.mover_of(finding)
    places = before.positions.get(mover, (REST,))
    start = run_start(design, run)

    def is_clear(pieces: Sequence[Piece]) -> bool:
        if start is None:
            return True
        laid = lay_pieces(start, pieces, design, run.tube)
        rows = tube_segments(LaidRun(run, start, laid, None)).rows
        return worst_over(rows, mover, things, places).margin_mm >= -1e-6

    return is_clear


Trial = tuple[str, list[Piece]]


def _shifts(design: Design, run: Run, piece: int, unit: str) -> Iterator[Trial]:
    """Small changes of the pieces at and before a place, with the finish held, smallest first."""
    near = [i for i in range(piece, max(-1, piece - 4), -1) if not run.pieces[i].locked]
    laid = lay_run(design, run)
    for step in range(len(ANGLE_STEPS)):
        for i in near:
            p = run.pieces[i]
            for sign in (1.0, -1.0):
                if isinstance(p, Bend):
                    turn = p.angle_deg + sign * ANGLE_STEPS[step]
                    yield from _try(
                        design, run, laid, i, {"angle_deg": turn}, f"turn bend {i + 1} {format_angle(turn)}"
                    )
                    roll = p.roll_deg + sign * ANGLE_STEPS[step]
                    words = f"roll bend {i + 1} by {format_angle(sign * ANGLE_STEPS[step])}"
                    yield from _try(design, run, laid, i, {"roll_deg": roll}, words)
                elif isinstance(p, Straight):
                    length = p.length_mm + sign * LENGTH_STEPS[step]
                    word = "longer" if sign > 0 else "shorter"
                    words = f"make piece {i + 1} {format_length(LENGTH_STEPS[step], unit)} {word}"
                    yield from _try(design, run, laid, i, {"length_mm": length}, words)


def _try(
    design: Design, run: Run, laid: LaidRun | None, i: int, values: dict[str, float], words: str
) -> Iterator[Trial]:
    try:
        yield words, changed_pieces(design, run, run.pieces[i].id, values, HOLD if run.aim else CARRY, laid)
    except EditError:
        return


def _lengthen(design: Design, before: Review, finding: Finding, run: Run, unit: str) -> Remedy | None:
    assert finding.piece is not None  # asked by the caller
    wanted = float(finding.needed_mm or 0.0)
    words = f"make piece {finding.piece + 1} {format_length(wanted, unit)}"
    for _, pieces in _try(design, run, lay_run(design, run), finding.piece, {"length_mm": wanted}, words):
        remedy = Remedy(words, f"remedy: {words}", with_pieces(design, run, pieces))
        after = review(remedy.design)
        if sum(f.rank[0] < 4 for f in after.findings) < sum(f.rank[0] < 4 for f in before.findings):
            return remedy
    return None


def _close_it(design: Design, before: Review, run: Run) -> Remedy | None:
    """Close the end from what stands; where that has no answer, from the last piece that must stay. Not by going once
    round, and not by spoiling as much elsewhere.
    """
    laid = lay_run(design, run)
    if laid is None or laid.aim is None:
        return None
    spoiled = sum(f.spoils for f in before.findings)
    keeps = dict.fromkeys((len(run.pieces), len(kept_pieces(run, 0))))
    for most, keep in product((2, 3), keeps):  # two bends first: they are found at once
        start: Pose = laid.pieces[keep - 1].outlet if keep else laid.start
        answers = close(start, laid.aim, replace(ways_of(design.settings), most_bends=most, starts=32))
        best = None
        for answer in [a for a in answers if not a.goes_round][:6]:
            changed = take_answer(design, run.id, keep, answer.pieces())
            score = (sum(f.spoils for f in review(changed).findings), answer.cost)
            if score[0] < spoiled and (best is None or score < best[0]):
                best = (score, changed, answer)
        if best:
            n = len(best[2].bends)
            words = f"close it with {n} bend{'s' if n != 1 else ''}" if n else "close it with a straight"
            return Remedy(words, f"remedy: {words}", best[1])
    return None
