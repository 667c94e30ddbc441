"""A catalyst's honeycomb: its channels, and the pressure they take."""

from __future__ import annotations

import math
from dataclasses import dataclass

SQUARE_F_RE = 56.908308  # Darcy's f Re of a laminar square duct: Shah and London (1978)
INCH_MM = 25.4


@dataclass(frozen=True)
class Monolith:
    """Square cells: pitch and hydraulic bore [mm], open share of the face, surface by volume [m2/l]."""

    pitch_mm: float
    bore_mm: float
    open_share: float
    surface_m2_l: float

    @classmethod
    def of(cls, cells: float, wall_mm: float) -> Monolith:
        """By cells a square inch and their walls."""
        pitch = INCH_MM / math.sqrt(cells)
        bore = pitch - wall_mm
        return cls(pitch, bore, (bore / pitch) ** 2, 4 * bore / pitch**2)

    def speed(self, kg_s: float, density: float, across_mm: float) -> float:
        """The gas's speed in the channels of a round one [m/s]."""
        return kg_s / (density * math.pi / 4 * (across_mm / 1000.0) ** 2 * self.open_share)
