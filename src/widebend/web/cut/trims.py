"""Trims, darts and slices at the bench: how much comes off where. Nothing is kept here."""

from __future__ import annotations

from urllib.parse import urlencode

from flask import Blueprint, g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import (
    dart,
    off_at,
    slice_bend,
    stepped,
    tilt_by_cut,
    tilt_by_flip,
    tilt_by_reclocking,
    tilt_from_gap,
    tilt_from_offset,
)
from ...core.errors import InputError
from ...core.laying import LaidPiece, LaidRun
from ...core.records import Bend, SegmentedBend, Straight
from ...core.units import format_angle, format_clock, format_length
from ..page.at_hand import at_hand, transaction
from ..page.edits import Faults, FormState
from ..page.helpers import Answer, Figures, Helper, HelperField

room = Blueprint("trims", __name__, url_prefix="/jobs/<int:job_id>/cut/trims")

WHOLE, HALVES = "whole slices, tube beside them cut square", "half slices at both ends"
_OD, _CLR = HelperField("od", "tube outside diameter", 63.5), HelperField("clr", "radius of the bend", 95.25)
_TOWARD = HelperField("clock", "toward o'clock", 4.0, "count", 1.0, 12.0)


def _mm(value: float, digits: int = 1) -> str:
    return format_length(value, g.unit, digits)


def _tilt(od: float, tilt: float, toward: float, lead: list[tuple[str, str]], rest: float) -> Answer:
    """Every way to tilt an end, and what comes off round it, hour by hour."""
    cut, flip = tilt_by_cut(od, tilt), tilt_by_flip(od, tilt)
    figures = [
        *lead,
        ("saw off square by", format_angle(tilt, 2)),
        (f"most comes off, at {toward:g} o'clock", _mm(cut.most_mm, 2)),
        ("the middle line gets shorter by", _mm(cut.middle_mm, 2)),
        ("or cut through and flip: saw off square by", format_angle(flip.cut_deg, 2)),
        ("its slant over the tube", f"{_mm(flip.most_mm, 2)}; only the saw's cut is lost"),
    ]
    if rest > 0:
        try:
            turned = tilt_by_reclocking(od, rest, tilt)
            words = (
                f"{format_angle(turned.turn_deg, 2)}, {_mm(turned.tape_mm)} round the tube; tilts sideways of the bend"
            )
        except InputError as exc:
            words = str(exc)
        figures.append((f"or cut the bend square, {rest:g}° behind the cut, and turn the rest by", words))
    rows: list[tuple[str, ...]] = []
    for k in range(7):
        one, other = (format_clock(30.0 * (toward + sign * k)) for sign in (1, -1))
        where = f"{one} and {other}" if 0 < k < 6 else one
        rows.append((where, _mm(off_at(od, tilt, 30.0 * k), 2), _mm(off_at(od, flip.cut_deg, 30.0 * k), 2)))
    return Answer(
        figures=figures,
        heads=("at o'clock", "comes off, one cut", "slant of the flip's cut"),
        table=rows,
        note="The face then looks toward the hour that loses most. For the flip, what stays is cut short at that hour; "
        "turn the loose end half round, line in line.",
    )


def _by_tilt(v: Figures) -> Answer:
    return _tilt(v["od"], v["tilt"], v["clock"], [], v["rest"])


def _by_foul(v: Figures) -> Answer:
    tilt = tilt_from_offset(v["off"], v["behind"])
    lead = [("tilt that moves it clear", format_angle(tilt, 2))]
    return _tilt(v["od"], tilt, v["clock"], lead, v["rest"])


def _by_gap(v: Figures) -> Answer:
    tilt = tilt_from_gap(v["widest"], v["opposite"], v["face"])
    toward = (v["clock"] + 6 - 1) % 12 + 1  # what stands proud comes off: opposite the widest gap
    lead = [("the faces stand open by", format_angle(tilt, 2))]
    return _tilt(v["od"], tilt, toward, lead, 0.0)


def _dart(v: Figures) -> Answer:
    slot = dart(v["od"], v["turn"], v["left"])
    return Answer(
        figures=[
            ("slot, widest at the heel", _mm(slot.wide_mm, 2)),
            ("how deep, across the tube", _mm(slot.deep_mm)),
            ("each way round from its middle", _mm(slot.round_mm)),
            ("weld to close it", _mm(slot.weld_mm)),
        ],
        note="Drill the ends of the slot, close it, weld all of it. The hinge is creased and the tube there weaker"
        " than whole: not beside a flex, a hanger or a turbine. Where class rules or an inspector forbid it, "
        "use a slice.",
    )


def _bend(v: Figures) -> Answer:
    made = slice_bend(v["od"], v["clr"], v["turn"], int(v["count"]), v["kerf"], half_ends=v.chosen["ends"] == HALVES)
    half = [("half slice at its middle, one face square", _mm(made.half_mm, 2))] if made.half_mm else []
    return Answer(
        figures=[
            ("whole slices", str(made.slices)),
            ("saw off square by", format_angle(made.cut_deg, 3)),
            ("heel of a slice", _mm(made.heel_mm, 2)),
            ("throat of a slice", _mm(made.throat_mm, 2)),
            ("middle of a slice", _mm(made.middle_mm, 2)),
            *half,
            ("straight tube it takes, turned over each cut", _mm(made.tube_mm, 0)),
            ("welds", f"{made.welds}, {_mm(made.weld_mm, 0)} in all"),
        ],
        note="Saw at one angle and turn the tube half round for each cut: heel lies beside throat, nothing is wasted.",
    )


HELPERS = (
    Helper(
        "tilt",
        "tilt a face",
        (
            _OD,
            HelperField("tilt", "it must tilt", 3.0, "deg"),
            _TOWARD,
            HelperField("rest", "bend behind the cut, 0 = straight pipe", 0.0, "deg"),
        ),
        _by_tilt,
    ),
    Helper(
        "fouls",
        "it fouls by",
        (
            _OD,
            HelperField("off", "it must move by", 4.0),
            HelperField("behind", "so far behind the cut", 400.0),
            _TOWARD,
            HelperField("rest", "bend behind the cut, 0 = straight pipe", 0.0, "deg"),
        ),
        _by_foul,
    ),
    Helper(
        "gap",
        "a gap between faces",
        (
            _OD,
            HelperField("widest", "gap where it is widest", 3.5),
            HelperField("opposite", "gap opposite", 0.0),
            HelperField("face", "face is so far across", 100.0),
            HelperField("clock", "widest at o'clock", 4.0, "count", 1.0, 12.0),
        ),
        _by_gap,
    ),
    Helper(
        "dart",
        "dart",
        (_OD, HelperField("turn", "it turns", 5.0, "deg"), HelperField("left", "left as the hinge", 16.0)),
        _dart,
    ),
    Helper(
        "slices",
        "bend of slices",
        (
            _OD,
            _CLR,
            HelperField("turn", "it turns", 90.0, "deg"),
            HelperField("count", "slices, or joints with half ends", 6.0, "count", 1.0, 60.0),
            HelperField("kerf", "saw cut", 1.5, most=20.0),
            HelperField("ends", "its ends", WHOLE, (WHOLE, HALVES)),
        ),
        _bend,
    ),
)
STEPPED = Helper(
    "stepped",
    "ready-cut slices on a run",
    (
        _CLR,
        HelperField("turn", "one slice turns", 9.0, "deg", 1.0, 45.0),
        HelperField("first", "from piece, 0 = as many as follow", 0.0, "count", 0.0, 200.0),
        HelperField("last", "to piece", 0.0, "count", 0.0, 200.0),
    ),
    lambda v: Answer(),
)


def _plain(laid: LaidRun) -> list[LaidPiece]:
    """The longest stretch of a run's pipe without a part in it."""
    best: list[LaidPiece] = []
    now: list[LaidPiece] = []
    for piece in laid.pieces:
        now = [*now, piece] if isinstance(piece.piece, Straight | Bend | SegmentedBend) else []
        best = max(best, now, key=lambda pieces: sum(p.length_mm for p in pieces))
    return best


def _stepped(v: Figures, laid: LaidRun | None) -> Answer:
    pieces = _plain(laid) if laid else []
    if laid and v["first"] > 0:
        pieces = list(laid.pieces[int(v["first"]) - 1 : int(v["last"] or v["first"])])
        if not pieces or not all(isinstance(p.piece, Straight | Bend | SegmentedBend) for p in pieces):
            raise InputError(f"slices follow pipe only; the run has {len(laid.pieces)} pieces", "first")
    if not pieces:
        raise InputError("the run has no pipe to follow yet: close it first")
    found = stepped(pieces, v["clr"], v["turn"])
    way = ("on the line", "clockwise", "anticlockwise")
    rows: list[tuple[str, ...]] = [
        (str(k), f"{_mm(abs(mm))} {way[0 if abs(deg) < 0.5 else 1 if deg > 0 else 2]}", format_angle(deg))
        for k, (mm, deg) in enumerate(zip(found.steps_mm, found.steps_deg, strict=True), 1)
    ]
    return Answer(
        figures=[
            ("follows pieces", f"{pieces[0].index + 1} to {pieces[-1].index + 1}"),
            ("slices", str(len(rows))),
            ("leaves the drawn middle line by", _mm(found.away_mm)),
            ("its end misses by", f"{_mm(found.misses_mm)} and {format_angle(found.askew_deg)}"),
        ],
        heads=("slice", "its line from the last one's, round the tube", "turned"),
        table=rows,
        note="The first from the run's reference line; clockwise looking toward the engine end. Trim the last face to "
        "meet what comes next. Stepped faces are a hair off round to each other: dress them before tacking.",
    )


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    helper = next((h for h in (*HELPERS, STEPPED) if h.key == request.args.get("helper")), HELPERS[0])
    runs = [r for r in here.system.runs if r.pieces]
    run = next((r for r in runs if r.run.id == request.args.get("run")), runs[0] if runs else None)
    said, answer = FormState(typed=dict(request.args)), None
    try:
        figures = helper.read()
        answer = _stepped(figures, run) if helper is STEPPED else helper.work(figures)
    except Faults as faults:
        said.errors = faults.errors
    except InputError as exc:
        said.errors = {exc.field: str(exc)}
    return render_template(
        "cut/trims.html",
        here=here,
        step="cut",
        sheet="trims.show",
        helper=helper,
        helpers=(*HELPERS, STEPPED),
        said=said,
        shown=helper.shown(),
        answer=answer,
        runs=runs if helper is STEPPED else [],
        run=run,
        side=360.0,
        template=_template(job_id, helper) if answer else "",
    ), 422 if said.errors else 200


def _template(job_id: int, helper: Helper[Answer]) -> str:
    """Where the wrap of what was asked is drawn; nothing for what has none."""
    typed = {k: v for k, v in request.args.items() if k != "helper"}
    kinds = {
        "tilt": ("mitre", {"od": "od", "tilt": "cut"}),
        "dart": ("dart", {"od": "od", "turn": "turn", "left": "left"}),
    }
    if helper.key not in kinds:
        return ""
    kind, names = kinds[helper.key]
    asked = {there: typed[here] for here, there in names.items() if typed.get(here)}
    return f"{url_for('templates.show', job_id=job_id, kind=kind)}&{urlencode(asked)}"
