"""What a customer may wish instead: another metal, another process, no resonator. Each is a design of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from ..laying import System
from ..records import Design, InLine, Leg, Material, Piece, Pricing, Process, Run
from ..units import Length

STRAIGHT_MM = 0.5  # a part whose ports are this near one line is replaced by straight pipe


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
        return Wish(f"metal-{material}", words, design.model_copy(update={"runs": runs}), pricing)

    return make


def _run_of(run: Run, material: Material) -> Run:
    def of(piece: Piece) -> Piece:
        if isinstance(piece, InLine) or piece.tube is None:
            return piece
        return piece.model_copy(update={"tube": piece.tube.model_copy(update={"material": material})})

    tube = run.tube.model_copy(update={"material": material})
    return run.model_copy(update={"tube": tube, "pieces": tuple(of(piece) for piece in run.pieces)})


def _process(process: Process) -> Make:
    def make(design: Design, _: System, pricing: Pricing) -> Wish | None:
        if pricing.process == process:
            return None
        return Wish(f"by-{process}", f"welded by {process}", design, pricing.model_copy(update={"process": process}))

    return make


def _no_resonator(design: Design, system: System, pricing: Pricing) -> Wish | None:
    """Straight pipe where a resonator is: only where its ports lie on one line."""
    gone = {p.id for p in design.parts if p.item.kind == "resonator"}
    places = {q.name: q.pose.point for q in system.ports}
    ways = {q.name: q.pose.flow for q in system.ports}
    runs, taken = [], set[str]()
    for run in design.runs:
        pieces: list[Piece] = []
        for piece in run.pieces:
            if isinstance(piece, InLine) and piece.part in gone:
                a, b = (f"{piece.part}.{port}" for port in (piece.enter, piece.leave))
                along = places[b] - places[a] if a in places and b in places else np.zeros(3)
                way = ways.get(b, np.zeros(3))
                if float(np.linalg.norm(along - (along @ way) * way)) < STRAIGHT_MM < float(np.linalg.norm(along)):
                    taken.add(piece.part)
                    long = Length(round(float(np.linalg.norm(along)), 2))
                    pieces.append(Leg(id=piece.id, length_mm=long))
                    continue
            pieces.append(piece)
        runs.append(run.model_copy(update={"pieces": tuple(pieces)}))
    if not taken:
        return None
    parts = tuple(p for p in design.parts if p.id not in taken)
    hangers = tuple(h for h in design.hangers if h.part not in taken)
    without = design.model_copy(update={"runs": tuple(runs), "parts": parts, "hangers": hangers})
    return Wish("no-resonator", "without the resonator", without, pricing)


WISHES: tuple[Make, ...] = (
    _metal("304", "in 304 stainless"), _metal("409", "in 409 stainless"), _metal("mild", "in mild steel"),
    _process("TIG"), _process("MIG"), _no_resonator,
)  # fmt: skip
