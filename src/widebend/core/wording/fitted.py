"""Fit readings and their consequences in the bench's words."""

from __future__ import annotations

import math

from ..cutting import roll_mark
from ..fitting import Change
from ..records import FitKind
from ..units import format_angle, format_clock, format_length

# what a measure at a piece's end is called, and what its value is
FIT_WORDS: dict[FitKind, str] = {
    "angle finder": "angle finder, up is plus",
    "heading": "heading off the rail, right is plus",
    "height": "underside over ground",
    "left rail": "to the left rail's inner face",
    "right rail": "to the right rail's inner face",
    "tape": "tape to a mark or port",
    "clock": "clock of its line, clockwise from 12",
    "back": "middle, back of the front axle",
    "right": "middle, right of the vehicle's middle",
    "up": "middle over ground",
    "gap": "gap to what is on behind it",
}
ANGLE_KINDS: tuple[FitKind, ...] = ("angle finder", "heading", "clock")
# what a careful reading is good for, both ways: common practice, no source
USUAL_DOUBT: dict[FitKind, float] = {
    "angle finder": 0.3,
    "heading": 0.5,
    "height": 1.5,
    "left rail": 1.5,
    "right rail": 1.5,
    "tape": 1.5,
    "clock": 2.0,
    "back": 3.0,
    "right": 3.0,
    "up": 3.0,
    "gap": 1.0,
}


def say_change(change: Change, unit: str) -> str:
    """One change at the bench: which piece, what it becomes instead of what."""
    piece = f"piece {change.piece + 1}"
    if change.what == "length":
        off = f", {format_length(change.was - change.now, unit)} off what is cut already" if change.made else ""
        was = format_length(change.was, unit, suffix=False)
        return f"{piece}: {format_length(change.now, unit)} instead of {was}{off}"
    if change.what == "overlap":
        by = change.now - change.was
        return f"{piece}: {format_length(abs(by), unit)} {'less' if by > 0 else 'further'} in its slip"
    if change.what == "angle":
        return f"{piece}: {format_angle(change.now)} instead of {format_angle(change.was)}"
    if change.what == "clock":
        way = "clockwise" if change.round_mm > 0 else "anticlockwise"
        return (
            f"{piece}: {format_length(abs(change.round_mm), unit)} {way} round the tube "
            f"({format_angle(abs(change.now - change.was))}), seen against the flow"
        )
    if change.what == "flex":
        return f"{piece}, the flex: {format_angle(change.now)} askew toward {format_clock(change.at_deg)}, nothing cut"
    if change.what == "turn":
        way = "clockwise" if change.round_mm > 0 else "anticlockwise"
        return (
            f"{piece} and all behind it: turned {format_length(abs(change.round_mm), unit)} {way} round the tube "
            f"({format_angle(abs(change.now))}) in its joint, seen against the flow, nothing cut"
        )
    od = change.round_mm / math.radians(change.now)  # what comes off is the tilt across the whole tube
    mark, off = roll_mark(od, change.at_deg), format_length(change.round_mm, unit)
    at = f"{format_length(mark.tape_mm, unit)} {mark.way} of the line" if mark.tape_mm else "on the line"
    return f"{piece}, its front face: {off} off {at}, nothing opposite ({format_angle(change.now)} askew)"


def say_measure(kind: FitKind, value: float, unit: str) -> str:
    """A measure's value with its unit."""
    return f"{value:+.1f}°" if kind in ANGLE_KINDS else format_length(value, unit)
