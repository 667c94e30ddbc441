"""The Fit step: planned grey, found in ink; what was measured, what is to be expected, and the answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from flask import Blueprint, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.fitting import (
    Answer,
    AsBuilt,
    Outlook,
    Reading,
    answers,
    as_built,
    closing_places,
    outlook_of,
    reading_of,
    tack_order,
    tells_most,
    to_come,
    without_tail,
)
from ...core.laying import LaidRun, centre_line, fitted_of, lay_pieces, planned_pieces
from ...core.records import Design, FitKind, InLine, Measured
from ...core.review import GapChance, gap_chances, review
from ...core.units import format_length
from ...core.wording import ANGLE_KINDS, FIT_WORDS, USUAL_DOUBT, piece_words, say, say_change, say_measure
from ...store import ticks
from ..drawing.strip import PLANNED, Ghost, Shadow
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState
from ..page.figures import is_htmx, number
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request

room = Blueprint("fit", __name__, url_prefix="/jobs/<int:job_id>/fit")

LEAST_CLOSING_MM = 40.0
LEAST_SHARE = 0.01
CLOCKED = ("line to line", "to the vehicle")
MOST_CHANCES, MOST_SHARES, MOST_TELLING = 5, 4, 3
# what is not asked of an end by itself: a gap belongs to what is still out, and a clock is seen only where a line is
ASKED: tuple[FitKind, ...] = (
    "angle finder",
    "heading",
    "height",
    "left rail",
    "right rail",
    "tape",
    "clock",
    "back",
    "right",
    "up",
)


@dataclass(frozen=True)
class PieceRow:
    """A piece on the Fit step: its number and words; on, welded or still out; how far off it was found, with its ±."""

    id: str
    number: int
    words: str
    state: str
    off_mm: float
    off_deg: float
    plus_minus_mm: float
    measures: int
    odd: bool


@dataclass(frozen=True)
class MeasureRow:
    """A measure: what it is, what was read, what the plan and all measures together say it should be, its doubt."""

    which: int
    words: str
    read: str
    planned: str
    found: str
    plus_minus: str
    odd: str
    by: str


@dataclass(frozen=True)
class AnswerRow:
    """An answer as it is offered: how, whether it fits, what to do at the bench, what is wrong with it then."""

    at: int
    way: str
    fits: bool
    changes: list[str]
    miss: str
    worse: list[str]
    overlap: float | None


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState(piece=request.args.get("piece")))


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    name = "fit/_bench.html" if is_htmx() else "fit/page.html"
    return render_template(name, **panel(here, said)), code


def run_shown(here: AtHand) -> LaidRun | None:
    """The run at hand: as asked, else the first with pieces."""
    runs = [r for r in here.system.runs if r.pieces]
    asked = request.values.get("run")
    return next((r for r in runs if r.run.id == asked), runs[0] if runs else None)


def panel(here: AtHand, said: FormState) -> dict[str, Any]:
    """All that the page and the card show."""
    design, laid = here.design, run_shown(here)
    frame: dict[str, Any] = {
        "here": here,
        "step": "fit",
        "said": said,
        "revision": here.number,
        "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
        "laid": laid,
        "now": None,
        "runs": [(r.run.id, r.run.name or r.run.id) for r in here.system.runs if r.pieces],
    }
    if laid is None:
        return frame | {"picture": _picture(here, None, None, ())}
    now = solved(design, ("as built", laid.run.id), lambda: as_built(design, laid.run.id))
    assert now is not None  # it has pieces and lies
    found, refusal = _answers(here, now) if request.values.get("find") == "yes" else ([], "")
    at = int(number(request.values.get("at"), _best(found)))
    shown = found[at] if 0 <= at < len(found) else None
    rows = _rows(here, laid, now)
    chosen = next((r for r in rows if r.id == said.piece), None) or _next_piece(rows, now)
    return frame | {
        "now": now,
        "rows": rows,
        "chosen": chosen,
        "measured": _measures(here, now, chosen) if chosen else [],
        "telling": _telling(here, now, chosen) if chosen and chosen.state else [],
        "picture": _picture(here, laid, chosen, (_ghost(shown, laid),) if shown else ()),
        "found": [_answer_row(here, k, one) for k, one in enumerate(found)],
        "at": at,
        "refusal": refusal,
        "none_fits": bool(found) and not any(one.correction.fits for one in found),
        "outlook": _outlook(design, now),
        "clocked_ways": CLOCKED,
        "tighten": _tightens(here, now),
        "chances": _chances(here, now),
        "closing": _closing(design, now),
        "order": _order(design, now),
        "kinds": [(k, FIT_WORDS[k]) for k in ASKED],
        "marks_named": [(key, name) for key, (name, _) in marks_of(here).items()],
        "usual": USUAL_DOUBT,
        "fitted": fitted_of(design, laid.run.id).get(chosen.id) if chosen else None,
        "gap_here": chosen is not None and chosen.number - 1 == now.tail == now.front + 1,
        "in_tail": chosen is not None and chosen.number > now.tail,
        "lacks": _lacks(laid, now),
        "touching": [say(f, design, g.unit) for f in here.found.findings if f.spoils and f.run == laid.run.id][:2],
        "any_on": bool(fitted_of(design, laid.run.id)),
        "has_tail": now.tail < len(laid.pieces),
    }


def marks_of(here: AtHand) -> dict[str, tuple[str, tuple[float, float, float]]]:
    """Return the places that can be taped to: marks of the underbody, hang points, ports of parts that stand by
    themselves; by key, each with its name and place. What a run carries goes with the run and is no mark.
    """
    survey = here.design.survey
    found: list[tuple[str, str, Any]] = [(f"mark:{m.id}", m.name, m.point) for m in survey.marks]
    found += [(f"point:{p.id}", p.name, p.point) for p in survey.hang_points]
    found += [(f"port:{p.name}", p.name.replace(".", ", "), p.pose.point) for p in here.system.ports if p.part.placed]
    return {key: (name, (float(p[0]), float(p[1]), float(p[2]))) for key, name, p in found}


def _next_piece(rows: list[PieceRow], now: AsBuilt) -> PieceRow | None:
    """The piece to look at where none was chosen: the next that goes on, or the last where all are."""
    return rows[min(now.front, len(rows) - 1)] if rows else None


def _rows(here: AtHand, laid: LaidRun, now: AsBuilt) -> list[PieceRow]:
    fitted, odd = fitted_of(here.design, laid.run.id), {piece for piece, _ in now.odd}
    planned, out = planned_pieces(here.design, laid.run), []
    for k, piece in enumerate(planned):
        one = fitted.get(piece.id)
        off, deg = now.off(k) if one else (np.zeros(3), 0.0)
        doubt = 2 * float(np.sqrt(np.trace(now.found.place_spread(now.plan.step_of(k))))) if one else 0.0
        out.append(
            PieceRow(
                piece.id,
                k + 1,
                _words(here.design, piece),
                one.state if one else "",
                float(np.linalg.norm(off)),
                deg,
                doubt,
                len(one.measured) if one else 0,
                piece.id in odd,
            )
        )
    return out


def _words(design: Design, piece: Any) -> str:
    part = design.part(piece.part) if isinstance(piece, InLine) else None
    return (part.name or part.item.kind) if part else piece_words(piece, g.unit)


def _measures(here: AtHand, now: AsBuilt, chosen: PieceRow) -> list[MeasureRow]:
    one = fitted_of(here.design, now.run.id).get(chosen.id)
    return [
        _measure_row(here, now, chosen.number - 1, chosen.id, which, m)
        for which, m in enumerate(one.measured if one else ())
    ]


def _measure_row(here: AtHand, now: AsBuilt, piece: int, piece_id: str, which: int, one: Measured) -> MeasureRow:
    reading = reading_of(one, piece, here.design.survey, in_tail=piece >= now.tail)
    odd = now.odd.get((piece_id, which))
    at = f" at {one.clock_deg / 30 or 12:g} o'clock" if one.kind == "gap" else ""
    words = FIT_WORDS[one.kind] + (f", to {one.mark}" if one.mark else "") + at
    why = ""
    if odd:
        should = say_measure(one.kind, odd.should_read, g.unit)
        why = (
            f"cannot be: about {should} is possible here"
            if odd.absurd
            else f"the others speak against it: they say {should}"
        )
    said = f"±{one.plus_minus:g}°" if one.kind in ANGLE_KINDS else f"±{format_length(one.plus_minus, g.unit)}"
    return MeasureRow(
        which,
        words,
        say_measure(one.kind, one.value, g.unit),
        say_measure(one.kind, now.expected(reading, planned=True), g.unit),
        say_measure(one.kind, now.expected(reading), g.unit),
        said,
        why,
        ", ".join(part for part in (one.by, one.when) if part),
    )


def candidates(here: AtHand, now: AsBuilt, piece: int) -> list[tuple[FitKind, str, Reading]]:
    """Every measure that can be taken at a piece's end: its kind, what a tape goes to, and as a reading."""
    found: list[tuple[FitKind, str, Reading]] = []
    for kind in ASKED:
        if kind.endswith("rail") and here.design.survey.rails is None:
            continue
        for name, place in marks_of(here).values() if kind == "tape" else [("", None)]:
            one = Measured(kind=kind, value=0.0, plus_minus=USUAL_DOUBT[kind], to=place, mark=name[:80])
            found.append((kind, name, reading_of(one, piece, here.design.survey, in_tail=piece >= now.tail)))
    return found


def _telling(here: AtHand, now: AsBuilt, chosen: PieceRow) -> list[tuple[str, str, int]]:
    """Which further measures here would tell most of where this piece's end is: words, what each should read, how much
    of the doubt it takes away [%].
    """
    every = candidates(here, now, chosen.number - 1)
    best = tells_most(now.found, chosen.number - 1, [reading for _, _, reading in every])
    out: list[tuple[str, str, int]] = []
    for reading, share in best:
        kind, name = next((k, n) for k, n, r in every if (r.kind, r.to) == (reading.kind, reading.to))
        if any(words.startswith(FIT_WORDS[kind]) for words, _, _ in out) or share < 0.02:
            continue
        out.append(
            (
                FIT_WORDS[kind] + (f", to {name}" if name else ""),
                say_measure(kind, now.expected(reading), g.unit),
                round(100 * share),
            )
        )
    return out[:MOST_TELLING]


def _answers(here: AtHand, now: AsBuilt) -> tuple[list[Answer], str]:
    """The answers for what is not on yet; or why there are none."""
    try:
        return found_answers(here, now.run.id), ""
    except EditError as exc:
        return [], str(exc)


def found_answers(here: AtHand, run_id: str) -> list[Answer]:
    """The same, for an edit; what is ticked as cut is used as it is where that can be. Raises EditError."""
    with transaction() as connection:
        ticked = ticks.of_run(connection, here.job.design_id, run_id)
    made = frozenset(piece for piece, mark in ticked.items() if mark["outcome"] == "done")
    return solved(here.design, ("fit answers", run_id, made), lambda: answers(here.design, run_id, made))


def _best(found: list[Answer]) -> int:
    """The answer that is shown where none was asked for: the last looked for where that fits, else the nearest."""
    if not found or found[-1].correction.fits:
        return len(found) - 1
    return min(range(len(found)), key=lambda k: found[k].correction.miss_mm + found[k].correction.miss_deg)


def _answer_row(here: AtHand, at: int, one: Answer) -> AnswerRow:
    looked = solved(one.design, ("review", g.sight.view), lambda: review(one.design, g.sight.view))
    before = {(f.code, f.run, f.piece, f.thing) for f in here.found.findings}
    new = [f for f in looked.findings if f.spoils or f.code in ("tight", "own")]
    worse = [say(f, one.design, g.unit) for f in new if (f.code, f.run, f.piece, f.thing) not in before]
    miss = f"{format_length(one.correction.miss_mm, g.unit)} and {one.correction.miss_deg:.1f}°"
    changes = [say_change(c, g.unit) for c in one.correction.changes]
    return AnswerRow(at, one.correction.way, one.correction.fits, changes, miss, worse, one.overlap_mm)


def _ghost(answer: Answer, laid: LaidRun) -> Ghost:
    run = answer.design.run(laid.run.id)
    pieces = lay_pieces(laid.start, run.pieces if run else (), answer.design, laid.run.tube)
    return Ghost(0, pieces, chosen=True, misses=not answer.correction.fits)


def _picture(here: AtHand, laid: LaidRun | None, chosen: PieceRow | None, ghosts: tuple[Ghost, ...]) -> Any:
    window = window_from_request(extent_of(here.system, here.design.survey), LAYOUT_TALL_PX, "w-beside")
    shadows = _planned(here.design, laid) if laid and fitted_of(here.design, laid.run.id) else []
    run_id = laid.run.id if laid else None
    return draw_strips(
        here.design,
        here.found,
        window,
        run_id,
        chosen.number - 1 if chosen else None,
        ghosts,
        sight=g.sight,
        shadows=shadows,
    )


def _planned(design: Design, laid: LaidRun) -> list[Shadow]:
    """The run as it was drawn, in grey."""
    drawn = lay_pieces(laid.start, planned_pieces(design, laid.run), design, laid.run.tube)
    return [Shadow(centre_line(p), float(p.tube.od_mm), PLANNED) for p in drawn if not isinstance(p.piece, InLine)]


def _lacks(laid: LaidRun, now: AsBuilt) -> float:
    """How far what is out and the tail on the finish stand from each other [mm]."""
    offset = laid.pieces[now.tail].piece.offset if now.tail < len(laid.pieces) else None
    return float(np.linalg.norm(offset.shift_mm)) if offset else 0.0


def _outlook(design: Design, now: AsBuilt) -> dict[str, Any] | None:
    """Return the expected error at the end; nothing while a tail hangs on the finish, for it ends there."""
    if now.tail < len(now.run.pieces):
        return None
    seen: Outlook = solved(design, ("outlook", now.run.id), lambda: outlook_of(design, now))
    return {
        "seen": seen,
        "shares": [(f"piece {p + 1}, its {what}", round(100 * share)) for p, what, share in seen.shares[:MOST_SHARES]],
    }


def _tightens(here: AtHand, now: AsBuilt) -> tuple[str, int] | None:
    """The one measure, where it was tacked last, that would tighten the end of the run most: in words, and by how much
    of the doubt [%].
    """
    if not 0 < now.front < len(now.run.pieces) or now.tail < len(now.run.pieces):
        return None
    every = candidates(here, now, now.front - 1)
    best, share = tells_most(now.found, len(now.run.pieces) - 1, [reading for _, _, reading in every])[0]
    kind, name = next((k, n) for k, n, r in every if (r.kind, r.to) == (best.kind, best.to))
    words = FIT_WORDS[kind].partition(",")[0] + (f" to {name}" if name else "")
    return (f"{words}, at piece {now.front}", round(100 * share)) if share >= LEAST_SHARE else None


def _chances(here: AtHand, now: AsBuilt) -> list[tuple[str, GapChance]]:
    """The gaps that are least sure to hold, of what does not hang on the finish already."""
    design, view = _from_the_start(here.design, now)
    every = solved(
        here.design,
        ("gap chances", now.run.id, g.sight.view),
        lambda: gap_chances(here.found.gaps, view, to_come(design, view)),
    )
    every = [one for one in every if (one.gap.piece or 0) < now.tail]
    return [
        (f"piece {(one.gap.piece or 0) + 1} from {one.gap.obstacle.thing.name}", one)
        for one in every[:MOST_CHANCES]
        if one.holds < 0.995
    ]


def _from_the_start(design: Design, now: AsBuilt) -> tuple[Design, AsBuilt]:
    """The design and the run without what hangs on its finish: the gap it leaves has no spread of its own."""
    if now.tail == len(now.run.pieces):
        return design, now
    bare = without_tail(design, now.run.id)
    return bare, as_built(bare, now.run.id) or now


def _closing(design: Design, now: AsBuilt) -> list[Any]:
    """Where the closing joint belongs, among what is still out."""
    bare, view = _from_the_start(design, now)
    places = closing_places(view.plan, to_come(bare, view), LEAST_CLOSING_MM)
    return [one for one in places if now.front <= one.piece < now.tail][:2]


def _order(design: Design, now: AsBuilt) -> list[int]:
    """In which order what is still out is tacked."""
    best = _closing(design, now)
    if not best:
        return []
    order = tack_order(len(now.run.pieces), best[0].piece, from_finish=bool(now.run.aim))
    return [k + 1 for k in order if now.front <= k < now.tail]
