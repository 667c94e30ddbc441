"""A finding: one thing a fabricator must know, as data. `wording.say` puts it in the trade's words.

Ranks: 0 cannot be built; 1 does not meet, or may not be driven so; 2 nearer than wanted; 3 against a rule of the trade;
4 said, not wrong. docs/architecture.md lists every code.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..space import Vector

RANK = {
    "touches": 0,
    "inside": 0,
    "no-mesh": 0,
    "misses": 1,
    "apart": 1,
    "emissions": 1,
    "use-unsaid": 1,
    "class": 1,
    "tight": 2,
    "own": 2,
    "short": 3,
    "radius": 3,
    "open": 3,
    "step": 3,
    "no-flex": 3,
    "flex-late": 3,
    "sensor-near": 3,
    "sensor-low": 3,
    "boss-lowest": 3,
    "sensor-room": 3,
    "sensor-order": 3,
    "branch": 3,
    "buried": 3,
    "tip-uneven": 3,
    "blows": 3,
    "ends-under": 3,
    "muffler-near": 3,
    "no-weld": 3,
    "rusted": 3,
    "trapped": 3,
    "long-section": 3,
    "no-travel": 3,
    "ring": 3,
    "throat": 3,
    "boss-weld": 3,
}


@dataclass(frozen=True)
class Finding:
    """One thing a fabricator must know. Lengths mm, angles deg; fields that do not apply are None or empty.

    `names` and `figures` are what else its sentence needs, in the order that `wording` reads them.
    """

    code: str
    run: str = ""
    piece: int | None = None
    part: str = ""
    thing: str = ""
    thing_name: str = ""
    state: str = ""
    gap_mm: float | None = None
    needed_mm: float | None = None
    plus_minus_mm: float = 0.0
    at: tuple[float, float, float] | None = None
    miss_mm: float | None = None
    miss_deg: float | None = None
    names: tuple[str, ...] = ()
    figures: tuple[float, ...] = ()
    checked: bool = True
    position: str = ""
    thing_piece: int | None = None  # of another run that is too near: which of its pieces

    @property
    def margin_mm(self) -> float | None:
        """Gap less needed less doubt; negative is a finding."""
        if self.gap_mm is None or self.needed_mm is None:
            return None
        return self.gap_mm - self.needed_mm - self.plus_minus_mm

    @property
    def rank(self) -> tuple[float, float]:
        margin = self.margin_mm
        worst = margin if margin is not None else -(self.miss_mm or 0.0)
        return (RANK.get(self.code, 4), worst)

    @property
    def spoils(self) -> bool:
        """Whether the design cannot be built as it stands, or it could not be checked whether it can."""
        return self.code in ("touches", "inside", "misses", "no-mesh")


def point(p: Vector) -> tuple[float, float, float]:
    """A place (3,) as plain numbers."""
    return float(p[0]), float(p[1]), float(p[2])
