"""A bender's tube by a card: fed to each mark, turned, bent, let go."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..laying import angle_between, lay_pieces
from ..records import Design, Piece, Tube
from ..space import Pose, pose
from .card import Card
from .rows import Row, from_the_other_end, pieces_from_rows
from .springback import Springback

Noise = Callable[[], float]


@dataclass(frozen=True)
class Bent:
    """The pipe that came out, measured: its rows and the last straight [mm, deg]."""

    rows: tuple[Row, ...]
    last_mm: float


def delete_photo(spring: Springback, die_clr_mm: float, set_deg: float, noise_deg: float = 0.0) -> tuple[float, float]:
    """Angle [deg] and radius [mm] of a bend when the bender lets go: the length round the die stays."""
    got = spring.got(set_deg) + noise_deg
    if spring.measured_growth is not None:
        return got, die_clr_mm * spring.measured_growth
    return got, die_clr_mm * set_deg / got


def bent_by(card: Card, spring: Springback, noise: Noise = lambda: 0.0) -> Bent:
    """The pipe of a card on a die that springs back as `spring` says, each angle off by what `noise` gives [deg].

    The ends added for the clamp are cut off again; the tube keeps the length of its middle line.
    """
    rows, at = [], card.front_mm
    for line in card.lines:
        got, clr = delete_photo(spring, float(card.die.clr_mm), line.set_deg, noise())
        rows.append(Row(line.mark_mm - at, line.rotation_deg, got, clr))
        at = line.mark_mm + math.radians(got) * clr
    return Bent(tuple(rows), card.cut_mm - card.tail_mm - at)


def pose_difference(pieces: Sequence[Piece], tube: Tube, made: Bent, *, backwards: bool = False) -> tuple[float, float]:
    """How far the end of what was made is from the design's, laid from the same start [mm], and how far it looks
    another way [deg].
    """
    rows, last = list(made.rows), made.last_mm
    if backwards:
        rows, last = from_the_other_end(rows, last)
        first = next((p.roll_deg for p in pieces if p.kind == "bend"), 0.0)
        rows[0] = Row(rows[0].distance_mm, first, rows[0].angle_deg, rows[0].clr_mm)
    start = pose(np.zeros(3), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    ends = [_end(start, p, tube) for p in (pieces, pieces_from_rows(rows, last))]
    apart = float(np.linalg.norm(ends[0].point - ends[1].point))
    return apart, angle_between(ends[0].flow, ends[1].flow)


def _end(start: Pose, pieces: Sequence[Piece], tube: Tube) -> Pose:
    return lay_pieces(start, pieces, Design(), tube)[-1].outlet


def end_doubt(card: Card, pieces: Sequence[Piece], tube: Tube, *, backwards: bool = False, tries: int = 200) -> float:
    """Within what the far end comes out [mm], 19 times of 20, as the die's tests spread; the same for the same card."""
    chance = np.random.default_rng(1)
    ends = [
        pose_difference(
            pieces,
            tube,
            bent_by(card, card.spring, lambda: float(chance.normal(0.0, card.spring.spread_deg))),
            backwards=backwards,
        )[0]
        for _ in range(tries)
    ]
    return float(np.percentile(ends, 95))
