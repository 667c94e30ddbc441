"""How the vehicle stands, its rails and its low lines: read, shown, and told for now and for ride height."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import ValidationError

from ...core.errors import InputError
from ...core.records import LowLine, Rails, Stance, Survey
from ...core.survey import line_through, standing, stands
from ...core.units import Length, format_angle, format_length
from ...formats.design_json import first_fault
from ..page.reader import Reader
from .lists import text


def read_stance(reader: Reader, survey: Survey) -> Survey:
    """The survey with its stance, rails and low lines as typed. Raises Faults."""
    rails = _rails(reader)
    stance = Stance(
        on="lift" if reader.choice("on", ("lift", "wheels"), "wheels") == "lift" else "wheels",
        suspension="droop" if reader.choice("suspension", ("droop", "ride"), "ride") == "droop" else "ride",
        rail_pitch_deg=reader.angle("pitch", "rail's slope", -30, 30) if reader.given("pitch") else None,
        rail_roll_deg=reader.angle("roll", "side slope", -30, 30) if reader.given("roll") else 0.0,
        front_rail_now_mm=reader.optional("front_now"),
        rear_rail_now_mm=reader.optional("rear_now"),
    )
    try:
        standing(stance, rails)
    except InputError as exc:
        reader.errors["front_now"] = str(exc)
    update: dict[str, Any] = {
        "rails": rails,
        "stance": stance,
        "low_line": _line(reader, "low", survey.low_line),
        "lowered_line": _line(reader, "lowered", survey.lowered_line),
    }
    reader.finish()
    return survey.replace(**update)


def _rails(reader: Reader) -> Rails | None:
    if not reader.given("left") and not reader.given("right"):
        return None
    values: dict[str, Any] = {"left_y_mm": reader.length("left"), "right_y_mm": reader.length("right")}
    for key in ("front_at", "rear_at"):
        if reader.given(key):
            values[f"{key}_mm"] = reader.length(key)
    for key in ("front_height", "rear_height"):
        values[f"{key}_mm"] = reader.optional(key)
    if reader.errors:
        return None
    try:
        return Rails.model_validate(values)
    except ValidationError as exc:
        words = first_fault(exc)[1]
        reader.errors["rear_at" if "two places" in words else "right"] = words
        return None


def _line(reader: Reader, key: str, before: LowLine | None) -> LowLine | None:
    """A level line by its height, or a string through points: back, right, up, one a line."""
    points = _points(reader, f"{key}_through")
    if points:
        try:
            return line_through(points)
        except InputError as exc:
            reader.errors[f"{key}_through"] = str(exc)
            return None
    if not reader.given(key):
        return None
    height = reader.length(key, 0.0, 1500.0)
    if before and not before.through and tuple(before.n) == (0.0, 0.0, 1.0) and before.d == height:
        return before
    return LowLine(d=height)


def _points(reader: Reader, field: str) -> list[tuple[Length, Length, Length]]:
    out = []
    for n, line in enumerate(filter(str.strip, reader.form.get(field, "").splitlines()), 1):
        parts = dict(zip(("back", "right", "up"), line.split(","), strict=False))
        inner = Reader({k: v.strip() for k, v in parts.items()}, reader.unit)
        point = inner.point("back", "right", "up")
        if inner.errors or line.count(",") != 2:
            why = next(iter(inner.errors.values()), "write back, right, up with commas between them")
            reader.errors[field] = f"point {n}: {why}"
            return []
        out.append(point)
    return out


def show_stance(survey: Survey, unit: str) -> dict[str, str]:
    """The fields as they stand."""
    stance, rails = survey.stance, survey.rails
    out = {
        "on": stance.on,
        "suspension": stance.suspension,
        "pitch": "" if stance.rail_pitch_deg is None else f"{stance.rail_pitch_deg:g}",
        "roll": f"{stance.rail_roll_deg:g}" if stance.rail_roll_deg else "",
        "front_now": text(stance.front_rail_now_mm, unit),
        "rear_now": text(stance.rear_rail_now_mm, unit),
    }
    if rails:
        out |= {"left": text(rails.left_y_mm, unit), "right": text(rails.right_y_mm, unit)}
        for key in ("front_at", "rear_at", "front_height", "rear_height"):
            out[key] = text(getattr(rails, f"{key}_mm"), unit)
    for key, line in (("low", survey.low_line), ("lowered", survey.lowered_line)):
        if line is not None:
            out[key] = "" if line.through else text(line.d, unit)
            out[f"{key}_through"] = "\n".join(", ".join(text(c, unit) for c in p) for p in line.through)
    return out


def standing_words(survey: Survey, unit: str) -> list[str]:
    """Describe the stance's effect on a reading taken now, in words; first what is odd about it."""
    now = stands(survey)
    if not now.moved:
        return [*now.said, "As read, the vehicle stands as it rides: heights now are heights at ride."]
    words = list(now.said)
    words.append(
        f"The angle finder reads {format_angle(now.pitch_deg)} more along the vehicle now than at ride"
        + (f", and {format_angle(now.roll_deg)} across." if now.roll_deg else ".")
    )
    for name, back in (("front axle line", 0.0), ("3 m back", 3000.0)):
        at = np.array([back, 0.0, 300.0])
        lift = float(now.now(at)[2] - at[2])
        words.append(
            f"At the {name} everything is {format_length(abs(lift), unit, 0)} "
            f"{'higher' if lift > 0 else 'lower'} now than at ride."
        )
    return words
