"""Ways as rows for the march: each piece and part cut into short stretches with its losses spread along it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ...facts import METALS, PART_KINDS
from ..flow import Loss, can_across_mm, part_loss, piece_loss, step_loss
from ..records import Bend, Rules
from ..space import Vector
from .gas_paths import GasPath, Stretch
from .march import (
    BORE,
    COLUMNS,
    EMISSIVITY,
    FILM_FACTOR,
    FRICTION_FACTOR,
    LAMINAR,
    LENGTH,
    LOSS,
    OUTSIDE,
    ROUGH,
    STEP_LOSS,
    WALL_R,
    WRAP_K,
    WRAP_M,
)

ROW_MM = 60.0
# which stretches are covered, how thick [mm], how well it conducts [W/m K], and how black its outside is
Covered = Callable[[Stretch], tuple[float, float, float] | None]


@dataclass(frozen=True)
class Rows:
    """A way's rows (n, COLUMNS) three times over, by least, usual and most loss; which stretch each is of (n,), each
    row's middle in the vehicle (n, 3), and the losses of the stretches.
    """

    by_loss: tuple[Vector, Vector, Vector]
    of: Vector
    middles: Vector
    losses: tuple[Loss, ...]


def rows_of(way: GasPath, rules: Rules, covered: Covered, lost_bore: float = 0.0) -> Rows:
    """A way's rows; its bends have lost a share of their bore's area."""
    made = [_stretch(_pressed(s, lost_bore), rules, covered(s)) for s in way.stretches]
    of = np.concatenate([np.full(len(rows), i) for i, (rows, _, _) in enumerate(made)])
    middles = np.concatenate([at for _, at, _ in made])
    usual = np.concatenate([rows for rows, _, _ in made])
    _steps(usual)
    losses = tuple(loss for _, _, loss in made)
    out = []
    for k in range(3):
        rows = usual.copy()
        for i, loss in enumerate(losses):
            here = of == i
            rows[here, LOSS] = loss.k[k] / here.sum()
            rows[here, FRICTION_FACTOR] = loss.rubs[k]
        rows[:, STEP_LOSS] *= (0.7, 1.0, 1.3)[k]  # a real cone or step: handbooks differ by about so much
        out.append(rows)
    return Rows((out[0], out[1], out[2]), of, middles, losses)


def _pressed(s: Stretch, lost_bore: float) -> Stretch:
    """A bend pressed flat: as round pipe of the area that is left."""
    if not lost_bore or s.piece is None or not isinstance(s.piece.piece, Bend):
        return s
    left = s.bore_mm * math.sqrt(1 - lost_bore)
    return replace(s, bore_mm=left, leaves_mm=left)


def _stretch(s: Stretch, rules: Rules, cover: tuple[float, float, float] | None) -> tuple[Vector, Vector, Loss]:
    rough = float(rules.roughness_mm)
    loss = piece_loss(s.piece.piece, s.bore_mm, rough) if s.piece is not None else Loss()
    if s.part is not None:
        loss = part_loss(s.part, min(s.bore_mm, s.leaves_mm), rough)
    n = max(1, math.ceil(s.long_mm / ROW_MM))
    rows = np.zeros((n, COLUMNS))
    rows[:, LENGTH] = s.long_mm / n / 1000.0
    rows[:, BORE] = np.where((np.arange(n) + 0.5) / n < 0.5, s.bore_mm, s.leaves_mm) / 1000.0
    rows[:, OUTSIDE] = rows[:, BORE] + 2 * s.wall_mm / 1000.0
    rows[:, WALL_R] = s.wall_mm / 1000.0 / METALS[s.material].conductivity_w_mk
    rows[:, ROUGH], rows[:, FILM_FACTOR] = rough / 1000.0, rules.pulsation_factor
    rows[:, EMISSIVITY], rows[:, WRAP_K] = METALS[s.material].emissivity, 1.0
    rows[:, LAMINAR] = loss.laminar / n
    _shell(rows, s)
    if cover is not None:
        rows[:, OUTSIDE] += 2 * rows[:, WRAP_M]  # a can's cover lies on its skin: the better of both counts
        rows[:, WRAP_M], rows[:, WRAP_K], rows[:, EMISSIVITY] = cover[0] / 1000.0, cover[1], cover[2]
    share = np.linspace(0, 1, len(s.points))
    at = (np.arange(n) + 0.5) / n
    middles = np.stack([np.interp(at, share, s.points[:, axis]) for axis in range(3)], axis=1)
    if s.bore_mm != s.leaves_mm and n > 1:
        cone = 2 * math.degrees(math.atan2(abs(s.bore_mm - s.leaves_mm) / 2, s.long_mm))
        turn = int(np.argmax(rows[:, BORE] == s.leaves_mm / 1000.0))
        rows[turn, STEP_LOSS] = step_loss(s.bore_mm, s.leaves_mm, cone)
    return rows, middles, loss


def _shell(rows: Vector, s: Stretch) -> None:
    """A can's skin stands off its gas: packing or a mat between, or the gas itself where it is chambered."""
    packing = PART_KINDS[s.part.item.kind].packing if s.part else None
    if s.part is None or packing is None:
        return
    across = can_across_mm(s.part) / 1000.0
    inside = s.part.item.inside or "straight through"
    hollow = s.part.item.kind == "muffler" and (inside != "straight through" or not s.part.item.packed)
    rows[:, OUTSIDE] = np.maximum(rows[:, OUTSIDE], across if hollow else 0.0)
    thick = np.minimum(np.maximum(0.0, (across - rows[:, OUTSIDE]) / 2), packing.most_mm / 1000.0)
    rows[:, WRAP_M], rows[:, WRAP_K] = thick, packing.conductivity_w_mk


def _steps(rows: Vector) -> None:
    """The loss at each inlet where the bore jumps from one stretch to the next, written into the rows."""
    for i in range(1, len(rows)):
        a, b = rows[i - 1, BORE] * 1000.0, rows[i, BORE] * 1000.0
        if rows[i, STEP_LOSS] == 0.0 and abs(a - b) > 1e-6:
            rows[i, STEP_LOSS] = step_loss(a, b)
