"""Bend cards: a run as a bender makes it from one straight tube, and what its die does not allow."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import InputError
from ..records import Bender, Die, Piece, Tube
from ..units import SAME_SIZE_MM, format_angle, format_length
from .rows import Row, from_the_other_end, rows_from_pieces
from .springback import Springback, creep_steps, learnt

LARGER = "the die's radius is larger than the design's: leave so much more straight there, or make that bend from stock"
FLAT_DEG = 170.0  # a bend nearer to half a turn has no corner its straights could keep


@dataclass(frozen=True)
class Line:
    """One bend of a card. `distance_mm` from the last bend's end (or the tube's), `mark_mm` where it starts on the
    straight tube, `rotation_deg` since the last bend, `set_deg` what the bender is told, `clr_mm` what comes out.
    """

    distance_mm: float
    mark_mm: float
    rotation_deg: float
    angle_deg: float
    set_deg: float
    clr_mm: float
    steps_deg: tuple[float, ...]


@dataclass(frozen=True)
class Card:
    """A run on a die: its bends, the last straight, how long the straight tube is and what is cut off again.

    `front_mm` and `tail_mm` are added at the ends for the clamp and cut off after; `problems` what cannot be made, with
    the way round.
    """

    tube: Tube
    die: Die
    spring: Springback
    lines: tuple[Line, ...]
    last_mm: float
    developed_mm: float
    front_mm: float
    tail_mm: float
    problems: tuple[str, ...]

    @property
    def cut_mm(self) -> float:
        """How long to cut the straight tube."""
        return self.developed_mm + self.front_mm + self.tail_mm

    @property
    def is_possible(self) -> bool:
        """Whether every straight is left: a bend cannot begin before the last one ends."""
        return self.last_mm >= 0 and all(line.distance_mm >= 0 for line in self.lines)


def dies_for(benders: Sequence[Bender], tube: Tube) -> list[tuple[Bender, Die]]:
    """The shop's dies that take a tube."""
    return [(b, d) for b in benders for d in b.dies if abs(d.od_mm - tube.od_mm) < SAME_SIZE_MM]


def card_of(
    pieces: Sequence[Piece], tube: Tube, bender: Bender, die: Die, *, backwards: bool = False, unit: str = "mm"
) -> Card:
    """The card of a run of straights and bends, from its start or, backwards, from its other end.

    Corners stay where they are: a bend that comes out with another radius takes its straights along. Raises InputError
    for pieces no bender makes, or without a bend.
    """
    try:
        rows, last = rows_from_pieces(pieces)
    except ValueError as exc:
        raise InputError(str(exc)) from exc
    if not rows:
        raise InputError("nothing to bend: the run is straight")
    if backwards:
        rows, last = from_the_other_end(rows, last)
    spring = learnt(die)
    grown, last = _on_die(rows, last, die, spring)
    lines: list[Line] = []
    at = 0.0
    front = max(0.0, float(die.grip_mm) - grown[0].distance_mm)
    for row in grown:
        at += row.distance_mm
        set_deg = spring.to_set(row.angle_deg)
        lines.append(
            Line(
                row.distance_mm,
                front + at,
                row.rotation_deg,
                row.angle_deg,
                set_deg,
                row.clr_mm,
                tuple(creep_steps(spring, row.angle_deg)),
            )
        )
        at += _arc(row)
    developed = at + last
    tail = max(0.0, float(die.between_mm) - last)
    problems = _problems(grown, last, developed + front + tail, bender, die, spring, unit)
    return Card(tube, die, spring, tuple(lines), last, developed, front, tail, tuple(problems))


def _on_die(rows: Sequence[Row], last: float, die: Die, spring: Springback) -> tuple[list[Row], float]:
    """The rows with the radius that the die gives, corners kept: the straights give or take tan(angle / 2) of it."""

    def give_of(row: Row) -> float:
        less = row.clr_mm - _radius(die, spring, row.angle_deg)
        return less * math.tan(math.radians(min(row.angle_deg, FLAT_DEG)) / 2)

    give = [0.0, *(give_of(row) for row in rows), 0.0]
    straights = [r.distance_mm for r in rows] + [last]
    made = [s + give[i] + give[i + 1] for i, s in enumerate(straights)]
    on_die = [Row(made[i], r.rotation_deg, r.angle_deg, _radius(die, spring, r.angle_deg)) for i, r in enumerate(rows)]
    return on_die, made[-1]


def _radius(die: Die, spring: Springback, angle_deg: float) -> float:
    return float(die.clr_mm) * spring.growth(angle_deg)


def _arc(row: Row) -> float:
    return row.clr_mm * math.radians(row.angle_deg)


def _problems(
    rows: Sequence[Row], last: float, cut_mm: float, bender: Bender, die: Die, spring: Springback, unit: str
) -> list[str]:
    """Return the limits of die and bender that are broken, each with the way round."""

    def mm(value: float) -> str:
        return format_length(value, unit)

    found = []
    for i, row in enumerate(rows):
        number = i + 1
        if i and 0 <= row.distance_mm < die.between_mm:
            found.append(
                f"bend {number} starts {mm(row.distance_mm)} behind the last; the die needs {mm(die.between_mm)} "
                "between bends: weld a joint there, or make one of the two from stock"
            )
        if row.distance_mm < 0:
            found.append(f"{mm(-row.distance_mm)} of straight are missing ahead of bend {number}: {LARGER}")
        if spring.to_set(row.angle_deg) > bender.most_deg:
            found.append(
                f"bend {number} would be set to {format_angle(spring.to_set(row.angle_deg))}; the bender turns "
                f"{format_angle(bender.most_deg)}: make it of two bends, or take a stock bend"
            )
        if row.angle_deg > FLAT_DEG:
            found.append(f"bend {number} turns {format_angle(row.angle_deg)}: its ends shift with the die's radius")
    if last < 0:
        found.append(f"{mm(-last)} of straight are missing behind the last bend: {LARGER}")
    if cut_mm > bender.longest_mm:
        found.append(f"the tube is {mm(cut_mm)} long, the bender takes {mm(bender.longest_mm)}: cut it at a joint")
    return found
