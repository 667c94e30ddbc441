"""The bends that a crossover is made of: they come from the same stock as those of the runs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..records import Design, Part, Tube

HALVES = 2


@dataclass(frozen=True)
class SlicedBend:
    """One of a crossover's two bends: its part and number, tube, angle [deg] and radius [mm]."""

    part: str
    number: int
    tube: Tube
    angle_deg: float
    clr_mm: float

    @property
    def key(self) -> tuple[str, str]:
        """Return its name in a nest, where a run's bend goes by its run and piece."""
        return self.part, f"half-{self.number}"


def tube_at(design: Design, part: Part) -> Tube | None:
    """The tube that is joined to a part: what it is made of where it does not say; none where no run meets it."""
    for run in design.runs:
        ends = [end.partition(".")[0] for end in (run.start, run.aim) if isinstance(end, str)]
        if part.id in ends or any(getattr(piece, "part", None) == part.id for piece in run.pieces):
            return run.tube
    return None


def sliced_bends(design: Design) -> Iterator[SlicedBend]:
    """The two bends of every crossover that is made here."""
    for part in design.parts:
        made, tube = part.item.sliced, tube_at(design, part)
        if made is None or tube is None or part.kept:
            continue
        for number in range(1, HALVES + 1):
            yield SlicedBend(part.id, number, tube, made.angle_deg, float(made.clr_mm))
