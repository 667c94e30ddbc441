"""The whole system with pipe of another size: what it takes, weighs, costs, and whether it still fits.

*As it lies* keeps the centre line and changes the tube; *laid again* closes every run again with the radii that tube is
bent to. No power is promised: the loss is said as a share of what the engine empties against.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..cutting import tube_mass_per_metre
from ..errors import EditError, WideBendError
from ..gas import FlowSolution, Span, State, breath_of
from ..heat import covered
from ..laying import system_of
from ..records import Bend, Design, InLine, Item, Port, Run, Tube
from ..review import Review, closes, review
from ..routing import laid_again
from ..units import SAME_SIZE_MM, Length

USUAL_RADIUS = 1.5  # a mandrel bend's radius over its tube where the shelf has none of that tube: common practice
# bigger stops telling where the next size takes off less than this share of what the methods' own range is
TELLS = 0.5


@dataclass(frozen=True)
class Bore:
    """One size of tube for the whole system."""

    tube: Tube
    price_m: float | None
    laid: bool
    breath: FlowSolution
    mass_kg: float
    length_m: float
    touches: int
    tight: int
    misses: int
    low_line_mm: float | None
    design: Design

    @property
    def pa(self) -> Span:
        return self.breath.most_pa

    @property
    def fastest(self) -> float:
        """The highest speed in pipe [m/s]."""
        return max((t.speed for t in self.breath.taken if t.stretch and t.stretch.piece), default=0.0)

    @property
    def price(self) -> float | None:
        return None if self.price_m is None else self.price_m * self.length_m


def main_tube(design: Design) -> Tube:
    """The tube that most of the pipe is of. Raises EditError where there is no pipe."""
    length: Counter[Tube] = Counter()
    for laid in system_of(design).runs:
        for piece in laid.pieces:
            if not isinstance(piece.piece, InLine):
                length[piece.tube] += int(piece.length_mm)
    if not length:
        raise EditError("there is no pipe yet: close a run on Route first")
    return length.most_common(1)[0][0]


def resized(design: Design, tube: Tube, radii_mm: Sequence[float] = ()) -> Design:
    """The design with its main pipe of another tube and the hardware it meets with spigots of that size. A flange that
    the system begins at stays as it is: it is the vehicle's.
    """
    was = main_tube(design)
    stays = {run.start.partition(".")[0] for run in design.runs if isinstance(run.start, str)}
    parts = tuple(
        p
        if p.id in stays and p.item.kind == "flange" and len(p.item.ports) == 1
        else p.replace(item=_spigots(p.item, float(was.od_mm), float(tube.od_mm)))
        for p in design.parts
    )
    runs = tuple(_of_tube(run, was, tube) for run in design.runs)
    settings = design.settings
    if radii_mm:
        settings = settings.replace(clr_mm=tuple(Length(r) for r in sorted(set(radii_mm))))
    return design.replace(parts=parts, runs=runs, settings=settings).validated()


def _of_tube(run: Run, was: Tube, tube: Tube) -> Run:
    pieces = tuple(p.replace(tube=tube) if p.tube == was else p for p in run.pieces)
    return run.replace(tube=tube if run.tube == was else run.tube, pieces=pieces)


def _spigots(item: Item, was: float, now: float) -> Item:
    ports: tuple[Port, ...] = tuple(
        p.replace(od_mm=Length(now)) if abs(p.od_mm - was) < SAME_SIZE_MM else p for p in item.ports
    )
    bodies = tuple(
        b.replace(width_mm=Length(now), height_mm=Length(now), corner_mm=Length(now / 2))
        if abs(b.width_mm - was) < SAME_SIZE_MM and abs(b.height_mm - was) < SAME_SIZE_MM
        else b
        for b in item.bodies
    )
    return item.replace(ports=ports, bodies=bodies)


def with_bore(
    design: Design,
    tube: Tube,
    state: State = "full",
    price_m: float | None = None,
    radii_mm: Sequence[float] = (),
    *,
    relaid: bool = False,
    cutouts_open: bool = False,
) -> Bore:
    """The system with pipe of a tube. Raises EditError, InputError where it cannot be made or breathes nothing."""
    made = design if tube == main_tube(design) else resized(design, tube, radii_mm if relaid else ())
    if relaid:
        made = _laid(made, radii_mm)
    found = review(made)
    breath = breath_of(made, found.system, state, covered(made), cutouts_open=cutouts_open)
    pieces = [p for r in found.system.runs for p in r.pieces if not isinstance(p.piece, InLine)]
    codes = Counter(f.code for f in found.findings)
    return Bore(
        tube,
        price_m,
        relaid,
        breath,
        sum(tube_mass_per_metre(p.tube) * p.length_mm / 1000 for p in pieces),
        sum(p.length_mm for p in pieces) / 1000,
        codes["touches"] + codes["inside"],
        codes["tight"] + codes["own"],
        sum(not closes(made, r) for r in found.system.runs),
        _low(made, found),
        made,
    )


def _laid(design: Design, radii_mm: Sequence[float]) -> Design:
    """Every run closed again with bends of the radii that the tube is bent to."""
    wanted = sorted(set(radii_mm))
    for run in design.runs:
        pieces = tuple(
            p.replace(clr_mm=Length(_nearest(wanted, float(p.clr_mm))))
            if isinstance(p, Bend) and wanted and not p.locked
            else p
            for p in run.pieces
        )
        design = design.replace(runs=tuple(r.replace(pieces=pieces) if r.id == run.id else r for r in design.runs))
        try:
            design = laid_again(design, run.id)
        except WideBendError:
            continue
    return design


def _nearest(radii: Sequence[float], to: float) -> float:
    off = [abs(r - to) for r in radii]
    return radii[off.index(min(off))]


def _low(design: Design, found: Review) -> float | None:
    """How far the lowest pipe stays over the low line [mm]; None where there is no line."""
    line = design.survey.low_line
    if line is None:
        return None
    lowest = min(
        float(p.inlet.point[2] + at * (p.outlet.point[2] - p.inlet.point[2])) - float(p.tube.od_mm) / 2
        for r in found.system.runs
        for p in r.pieces
        if not isinstance(p.piece, InLine)
        for at in (0.0, 0.5, 1.0)
    )
    return lowest - float(line.d)


def stops_telling(bores: Sequence[Bore]) -> Tube | None:
    """The smallest tube after which the next size takes off less than the methods' own doubt; None while each helps."""
    ordered = sorted(bores, key=lambda b: float(b.tube.od_mm))
    for here, wider in itertools.pairwise(ordered):
        doubt = (here.pa.high - here.pa.low) / 2
        if here.pa.usual - wider.pa.usual < TELLS * doubt:
            return here.tube
    return None


def radii_for(tube: Tube, on_shelf: Mapping[float, Sequence[float]]) -> tuple[float, ...]:
    """Return the radii a tube is bent to: the shelf's radii for its size, else the usual one."""
    found = next((r for od, r in on_shelf.items() if abs(od - float(tube.od_mm)) < SAME_SIZE_MM), ())
    return tuple(found) or (USUAL_RADIUS * float(tube.od_mm),)
