"""The ways of measuring under a vehicle as forms: what is asked, and what the answer is in words and figures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from flask import g

from ...core.records import Survey, Tube
from ...core.space import Vector, heading_deg, inclination_deg
from ...core.survey import (
    Copy,
    Heading,
    OldBend,
    Place,
    Size,
    TapeMark,
    copy_pipe,
    edge_to_edge,
    face_direction,
    from_tapes,
    off_the_rail,
    pipe_direction,
    plumb_and_rule,
    plumb_face_direction,
    rail_underside,
    round_the_pipe,
    stands,
    tape_line,
)
from ...core.units import Length, format_angle, format_length
from ...core.wording import piece_words
from ..page.reader import Reader
from .lists import Field

# what a reading is worth when nobody says: common practice, docs/sources.md
TO_RIDE = "read as the vehicle stands now; given here as it is at ride height"
TAPE_MM, RULE_MM, ANGLE_DEG, ROUND_MM = 2.0, 1.0, 0.3, 1.0
MOST_TAPES, MOST_LEGS = 6, 8
MARK_FIELDS = tuple(f for n in range(1, MOST_TAPES + 1) for f in (f"mark{n}", f"tape{n}"))


@dataclass(frozen=True)
class Answer:
    """One thing a helper found: what it is in words and figures, and what can be put where."""

    title: str
    figures: tuple[tuple[str, str], ...]
    said: tuple[str, ...] = ()
    point: Vector | None = None
    heading: Heading | None = None
    size: Size | None = None
    copy: Copy | None = None
    plus_minus_mm: float = 0.0
    how: str = ""


@dataclass(frozen=True)
class Helper:
    """One way of measuring: where to hold the tape, what is asked, and how it is worked out."""

    key: str
    name: str
    hold: str
    fields: tuple[Field, ...]
    work: Callable[[Reader, Survey], list[Answer]]


# --- (a) tapes to marks ---------------------------------------------------------------------------------------------


def _tapes(reader: Reader, survey: Survey) -> list[Answer]:
    by_name = {m.name: m for m in survey.marks}
    marks, distances = [], []
    for n in range(1, MOST_TAPES + 1):
        if not reader.given(f"tape{n}"):
            continue
        mark = by_name.get(reader.form.get(f"mark{n}", ""))
        if mark is None:
            reader.errors[f"mark{n}"] = "choose the mark this tape was held to"
            continue
        marks.append(TapeMark(mark.name, np.asarray(mark.point, dtype=float), float(mark.plus_minus_mm)))
        distances.append(float(reader.length(f"tape{n}", 1.0, 8000.0)))
    if not reader.errors and len(marks) < 3:
        reader.errors["tape3"] = "three tapes to three marks give a place; a fourth checks it"
    doubt = _doubt(reader, "tape_pm", TAPE_MM)
    reader.finish()
    found = from_tapes(marks, distances, doubt)
    answers = []
    for n, fix in enumerate(found.answers, 1):
        left = ", ".join(f"{m.name} {r:+.1f}" for m, r in zip(marks, fix.residuals_mm, strict=True))
        title = f"answer {n} of {len(found.answers)}: the {'lower' if n == 1 else 'higher'} one"
        figures = (*_place_figures(fix.point, fix.plus_minus_mm), ("tape less distance", f"{left} mm"))
        said = fix.said + (() if found.checked else ("three tapes leave nothing to check with: a fourth would",))
        how = f"tapes to {len(marks)} marks"
        answers.append(
            Answer(
                title if len(found.answers) > 1 else "the place",
                figures,
                said,
                point=fix.point,
                plus_minus_mm=fix.plus_minus_mm,
                how=how,
            )
        )
    return answers


def _place_figures(point: Vector, doubt: float) -> tuple[tuple[str, str], ...]:
    names = ("back", "right", "up")
    places = tuple((name, format_length(float(v), g.unit)) for name, v in zip(names, point, strict=True))
    return (*places, ("known to", f"± {format_length(doubt, g.unit)}"))


def _doubt(reader: Reader, field: str, otherwise: float) -> float:
    value = reader.optional(field)
    return otherwise if value is None else float(value)


def _angle_doubt(reader: Reader) -> float:
    return reader.angle("angle_pm", "doubt of the angle finder", 0.01, 10.0) if reader.given("angle_pm") else ANGLE_DEG


def _placed(place: Place) -> list[Answer]:
    figures = _place_figures(place.point, place.plus_minus_mm)
    return [
        Answer("the place", figures, place.said, point=place.point, plus_minus_mm=place.plus_minus_mm, how=place.how)
    ]


# --- (b), (c): floor and rail ---------------------------------------------------------------------------------------


def _plumb(reader: Reader, survey: Survey) -> list[Answer]:
    values = reader.point("back", "right", "up")
    doubt = _doubt(reader, "rule_pm", RULE_MM)
    reader.finish()
    back, right, up = (float(v) for v in values)
    place, now = plumb_and_rule(back, right, up, doubt), stands(survey)
    if not now.moved:
        return _placed(place)
    return _placed(replace(place, point=now.at_ride(place.point), said=(TO_RIDE,)))


def _rail(reader: Reader, survey: Survey) -> list[Answer]:
    back, out, down = (float(reader.length(k)) for k in ("along", "out", "down"))
    left = reader.choice("rail", ("left", "right"), "left") == "left"
    doubt = _doubt(reader, "rule_pm", RULE_MM)
    rails = survey.rails
    if rails is None:
        reader.errors["rail"] = "the rails have no place yet: enter them under Stance and lines"
    height = _rail_height(reader, survey, back)
    reader.finish()
    assert rails is not None  # finish raised otherwise
    y = float(rails.left_y_mm if left else rails.right_y_mm)
    return _placed(off_the_rail(back, out, down, y, height, 1.0 if left else -1.0, doubt))


def _rail_height(reader: Reader, survey: Survey, back: float) -> float:
    """Height of the rail's underside at a place: as typed, or between the two heights at ride."""
    if reader.given("rail_z"):
        return float(reader.length("rail_z"))
    height = rail_underside(survey.rails, back)
    if height is None:
        reader.errors["rail_z"] = "how high is the rail's underside there? Or enter its two heights under Stance"
    return height or 0.0


# --- (d), (g): sizes ------------------------------------------------------------------------------------------------


def _sized(size: Size, what: str) -> list[Answer]:
    figures = ((what, format_length(size.mm, g.unit)), ("known to", f"± {format_length(size.plus_minus_mm, g.unit)}"))
    return [Answer(what, figures, size.said, size=size, plus_minus_mm=size.plus_minus_mm, how=size.how)]


def _edges(reader: Reader, _survey: Survey) -> list[Answer]:
    left = float(reader.length("left_edges", 1.0))
    right = reader.optional("right_edges", 1.0)
    first, second = float(reader.length("first_od", 1.0)), float(reader.length("second_od", 1.0))
    doubt = _doubt(reader, "rule_pm", RULE_MM)
    reader.finish()
    found = edge_to_edge(left, None if right is None else float(right), first, second, doubt)
    return _sized(found, "centre to centre")


def _round(reader: Reader, _survey: Survey) -> list[Answer]:
    around = float(reader.length("round", 10.0, 3000.0))
    thick = float(reader.optional("thick") or 0.0)
    doubt = _doubt(reader, "round_pm", ROUND_MM)
    reader.finish()
    return _sized(round_the_pipe(around, thick, doubt), "outside diameter")


# --- (e), (f): directions -------------------------------------------------------------------------------------------


def _headed(heading: Heading) -> list[Answer]:
    turn = "plumb" if heading.heading_deg is None else format_angle(heading.heading_deg)
    figures = [
        ("slope, up is plus", format_angle(heading.slope_deg)),
        ("off the rail, right is plus", turn),
        ("known to", f"± {format_angle(heading.plus_minus_deg)}"),
    ]
    if heading.length_mm is not None:
        figures.insert(0, ("length", format_length(heading.length_mm, g.unit)))
    return [Answer("the direction", tuple(figures), heading=heading, how=heading.how)]


def _line(reader: Reader, _survey: Survey) -> list[Answer]:
    first, second = reader.point("ax", "ay", "az"), reader.point("bx", "by", "bz")
    doubt = _doubt(reader, "tape_pm", TAPE_MM)
    reader.finish()
    return _headed(tape_line(np.array(first, dtype=float), np.array(second, dtype=float), doubt))


PIPE, FACE, PLUMB_FACE = "along a pipe", "on a flat face, two ways", "a face that stands plumb"


def _finder(reader: Reader, survey: Survey) -> list[Answer]:
    """A direction from the finder; read while the vehicle stands otherwise than it rides, it is turned to ride."""
    heading, now = _read_finder(reader), stands(survey)
    if not now.moved:
        return _headed(heading)
    way = now.way_at_ride(heading.direction)
    turned = replace(heading, direction=way, slope_deg=inclination_deg(way), heading_deg=heading_deg(way))
    return [replace(answer, said=(TO_RIDE,)) for answer in _headed(turned)]


def _read_finder(reader: Reader) -> Heading:
    on = reader.choice("on", (PIPE, FACE, PLUMB_FACE), PIPE)
    doubt = _angle_doubt(reader)
    if on == FACE:
        along, across = reader.angle("lengthwise", "reading", -90, 90), reader.angle("crosswise", "reading", -90, 90)
        reader.finish()
        return face_direction(along, across, doubt)
    off = reader.angle("off_rail", "angle off the rail", -180, 180) if reader.given("off_rail") else None
    if on == PLUMB_FACE:
        if off is None:
            reader.errors["off_rail"] = "how far does the face's edge run off the rail? 90 is square across"
        reader.finish()
        return plumb_face_direction(off or 0.0, doubt)
    slope = reader.angle("slope", "reading", -90, 90)
    reader.finish()
    return pipe_direction(slope, off, doubt)


# --- (h) the old pipe -----------------------------------------------------------------------------------------------


def _old_pipe(reader: Reader, _survey: Survey) -> list[Answer]:
    first, clr = float(reader.length("first", 0.0)), float(reader.length("clr", 5.0, 2000.0))
    od = float(reader.length("od", 5.0, 400.0))
    bends = []
    for n in range(1, MOST_LEGS + 1):
        if reader.given(f"turn{n}"):
            angle = reader.angle(f"turn{n}", "angle of the bend", 0.1, 180.0)
            roll = reader.angle(f"roll{n}", "roll from the bend before", -180.0, 180.0) if n > 1 else 0.0
            bends.append(OldBend(angle, roll, float(reader.length(f"then{n}", 0.0))))
        elif reader.given(f"then{n}"):
            reader.errors[f"turn{n}"] = "what does the bend before this straight turn?"
    ends = reader.optional("ends", 1.0)
    mirrored = reader.form.get("mirrored", "") == "yes"
    if not reader.errors and not bends:
        reader.errors["turn1"] = "an old pipe worth copying has a bend: what does the first one turn?"
    reader.finish()
    tube = Tube(od_mm=Length(od), wall_mm=Length(1.5))
    taped = None if ends is None else float(ends)
    return [_copied(copy_pipe(first, bends, clr, tube, taped_ends_mm=taped, doubt_mm=TAPE_MM, mirrored=mirrored))]


def _copied(copy: Copy) -> Answer:
    figures = [
        ("pieces", ", ".join(piece_words(p, g.unit) for p in copy.pieces)),
        (
            "between the ends, worked out",
            f"{format_length(copy.ends_mm, g.unit)} ± {format_length(copy.doubt_mm, g.unit)}",
        ),
    ]
    said: tuple[str, ...] = ()
    if copy.taped_mm is not None:
        figures.append(("between the ends, taped", format_length(copy.taped_mm, g.unit)))
        off = abs(copy.taped_mm - copy.ends_mm)
        if copy.agrees:
            figures.append(("the tape", "agrees"))
        else:
            said = (
                f"the tape between the ends says {format_length(off, g.unit)} otherwise: one reading is wrong. "
                "Look at the rolls first",
            )
    return Answer("the old pipe", tuple(figures), said, copy=copy, how="copied from the old pipe")


# --- the helpers ----------------------------------------------------------------------------------------------------

TAPE_PM = Field("tape_pm", "one tape is good to ±", hint="empty = 2 mm")
RULE_PM = Field("rule_pm", "one reading is good to ±", hint="empty = 1 mm")
ANGLE_PM = Field("angle_pm", "the finder is good to ±", "angle", hint="empty = 0.3°")


def _tape_fields() -> tuple[Field, ...]:
    pairs = []
    for n in range(1, MOST_TAPES + 1):
        pairs += [Field(f"mark{n}", f"mark {n}", "choice"), Field(f"tape{n}", f"tape {n}", "distance")]
    return (*pairs, TAPE_PM)


def _leg_fields() -> tuple[Field, ...]:
    legs = []
    for n in range(1, MOST_LEGS + 1):
        legs += [Field(f"turn{n}", f"bend {n} turns", "inclination")]
        legs += [Field(f"roll{n}", f"bend {n} rolled from {n - 1}", "inclination", hint="clockwise")] if n > 1 else []
        legs += [Field(f"then{n}", "then straight", "distance")]
    return tuple(legs)


HELPERS: dict[str, Helper] = {
    helper.key: helper
    for helper in (
        Helper(
            "tapes",
            "tapes to marks",
            "Hook the tape on a mark whose place is known, read it at the point. Three "
            "marks, far apart and not in one line; a fourth checks.",
            _tape_fields(),
            _tapes,
        ),
        Helper(
            "plumb",
            "plumb and rule",
            "Hang the bob from the point to the floor. Along and across from the floor's "
            "lines, up by rule from the floor to the point.",
            (
                Field("back", "along: back", "distance"),
                Field("right", "across: right", "distance"),
                Field("up", "up from the floor", "distance"),
                RULE_PM,
            ),
            _plumb,
        ),
        Helper(
            "rail",
            "square off the rail",
            "Square against the rail's inner edge: along the rail from the front "
            "axle line, out along the square, down from the rail's underside.",
            (
                Field("rail", "which rail", "choice", ("left", "right")),
                Field("along", "along the rail", "distance"),
                Field("out", "out from its inner edge", "distance"),
                Field("down", "down from its underside", "distance"),
                Field("rail_z", "underside of the rail there, up", hint="empty = by its two heights"),
                RULE_PM,
            ),
            _rail,
        ),
        Helper(
            "edges",
            "same edge to same edge",
            "Left edge of the one tube to the left edge of the other; the right "
            "edges check it. Nobody can see a centre.",
            (
                Field("left_edges", "left edge to left edge", "distance"),
                Field("right_edges", "right edge to right edge", "distance", hint="checks it"),
                Field("first_od", "OD of the left tube"),
                Field("second_od", "OD of the right tube"),
                RULE_PM,
            ),
            _edges,
        ),
        Helper(
            "line",
            "tape line",
            "Stretch the tape where the pipe will run. Its two ends' places give the slope and the heading of the leg.",
            (
                Field("ax", "front end, back"),
                Field("ay", "front end, right"),
                Field("az", "front end, up"),
                Field("bx", "rear end, back"),
                Field("by", "rear end, right"),
                Field("bz", "rear end, up"),
                TAPE_PM,
            ),
            _line,
        ),
        Helper(
            "finder",
            "angle finder",
            "Lay it along the pipe, or on a flange's face: fore and aft, then across. "
            "It knows plumb, not north: the heading comes off the rail.",
            (
                Field("on", "it lies", "choice", (PIPE, FACE, PLUMB_FACE)),
                Field("slope", "reading, up to the back is plus", "inclination", only=(PIPE,)),
                Field("lengthwise", "fore and aft, up to the back is plus", "inclination", only=(FACE,)),
                Field("crosswise", "across, up to the right is plus", "inclination", only=(FACE,)),
                Field("off_rail", "angle off the rail", "angle", only=(PIPE, PLUMB_FACE)),
                ANGLE_PM,
            ),
            _finder,
        ),
        Helper(
            "round",
            "around the pipe",
            "Tape once round, tight and square. It beats a caliper on a pipe that is not round.",
            (
                Field("round", "round the pipe"),
                Field("thick", "how thick the tape is", hint="empty = nothing"),
                Field("round_pm", "the reading is good to ±", hint="empty = 1 mm"),
            ),
            _round,
        ),
        Helper(
            "old",
            "copy the old pipe",
            "Lay it on the bench. Straights by tape between bends' ends, angles by the "
            "finder, rolls with the bend before lying flat. Then tape end to end.",
            (
                Field("od", "tube OD"),
                Field("clr", "bends' radius, to the centre line"),
                Field("first", "first straight", "distance"),
                *_leg_fields(),
                Field("ends", "end to end, taped", "distance", hint="checks it"),
                Field("mirrored", "mirror it", "choice", ("no", "yes")),
            ),
            _old_pipe,
        ),
    )
}
