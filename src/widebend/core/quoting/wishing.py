"""Alternatives a customer may wish: another metal or process, tips or bore a size up, no resonator, bends made of
slices or bought. Each is a design of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ...facts import METALS, TUBE_METALS, Material, Process
from ..laying import System
from ..records import Design, InLine, Piece, Pricing, Run
from .alternatives import bends_bought, bends_of_slices, bore_up, tips_up, without_resonator


@dataclass(frozen=True)
class Wish:
    """A wish: its key and words, the design and rates that fulfil it."""

    key: str
    words: str
    design: Design
    pricing: Pricing


Make = Callable[[Design, System, Pricing], "Wish | None"]


def wishes(design: Design, system: System, pricing: Pricing) -> Iterator[Wish]:
    """Every wish that changes this design."""
    for make in WISHES:
        wish = make(design, system, pricing)
        if wish is not None:
            yield wish


def _metal(material: Material, words: str) -> Make:
    def make(design: Design, _: System, pricing: Pricing) -> Wish | None:
        runs = tuple(_run_of(run, material) for run in design.runs)
        if runs == design.runs:
            return None
        return Wish(f"metal-{material}", words, design.replace(runs=runs), pricing)

    return make


def _run_of(run: Run, material: Material) -> Run:
    def of(piece: Piece) -> Piece:
        if isinstance(piece, InLine) or piece.tube is None:
            return piece
        return piece.replace(tube=piece.tube.replace(material=material))

    tube = run.tube.replace(material=material)
    return run.replace(tube=tube, pieces=tuple(of(piece) for piece in run.pieces))


def _process(process: Process) -> Make:
    def make(design: Design, _: System, pricing: Pricing) -> Wish | None:
        if pricing.process == process:
            return None
        return Wish(f"by-{process}", f"welded by {process}", design, pricing.replace(process=process))

    return make


def _shaped(key: str, words: str, make: Callable[[Design, System], Design | None]) -> Make:
    def wished(design: Design, system: System, pricing: Pricing) -> Wish | None:
        other = make(design, system)
        return None if other is None else Wish(key, words, other, pricing)

    return wished


WISHES: tuple[Make, ...] = (
    *(_metal(metal, f"in {name}") for metal, name in TUBE_METALS.items() if METALS[metal].is_offered),
    _process("TIG"),
    _process("MIG"),
    _shaped("tips-up", "tips one size up", tips_up),
    _shaped("bore-up", "bore one size up", bore_up),
    _shaped("no-resonator", "without the resonator", without_resonator),
    _shaped("made", "bends made here of slices", bends_of_slices),
    _shaped("bought", "bends bought, no slices", bends_bought),
)
