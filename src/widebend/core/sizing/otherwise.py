"""The same system made otherwise: bends pressed, both banks down one pipe or one engine's gas down two, the rear half a
size smaller.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import WideBendError
from ..gas import FlowSolution, Otherwise, Span, State, breath_of
from ..heat import covered
from ..laying import System, system_of
from ..records import Design, InLine, Run, Tube

PRESSED = 0.3  # area that a pressed bend loses where the shop's die does not say: common practice, a fifth to a half


@dataclass(frozen=True)
class Variant:
    """One way to make it otherwise: what, and what the gas then pushes against [Pa]."""

    what: str
    pa: Span
    chokes: bool


def variants(
    design: Design,
    system: System,
    breath: FlowSolution,
    state: State,
    smaller: Tube | None,
    lost_bore: float | None,
    *,
    cutouts_open: bool = False,
) -> list[Variant]:
    """Return alternatives to build, each calculated like the design; `smaller` is the next size down the shop has."""
    cover = covered(design)
    out = []
    lost = PRESSED if lost_bore is None else lost_bore
    pressed = breath_of(design, system, state, cover, cutouts_open=cutouts_open, otherwise=Otherwise(lost_bore=lost))
    out.append(_variant(f"every bend pressed, losing {lost * 100:.0f} % of its area", pressed))
    if len(breath.ways.sources) == 2:
        one = breath_of(design, system, state, cover, cutouts_open=cutouts_open, otherwise=Otherwise(gas=2.0))
        out.append(_variant("one pipe of this size for both banks", one))
    if len(breath.ways.sources) == 1:
        two = breath_of(design, system, state, cover, cutouts_open=cutouts_open, otherwise=Otherwise(gas=0.5))
        out.append(_variant("two such systems side by side, half the gas each", two))
    if smaller is not None:
        try:
            stepped = stepped_down(design, breath, smaller)
            small = breath_of(stepped, system_of(stepped), state, cover, cutouts_open=cutouts_open)
            out.append(_variant("the rear half one size smaller", small))
        except WideBendError:
            pass
    return out


def _variant(what: str, breath: FlowSolution) -> Variant:
    return Variant(what, breath.most_pa, breath.chokes is not None)


def stepped_down(design: Design, breath: FlowSolution, smaller: Tube) -> Design:
    """The design with pipe of the next size behind the middle of each way from engine to end. Raises EditError."""
    behind: set[tuple[str, str]] = set()
    whole = _far(breath)
    for i, way in enumerate(breath.ways.ways):
        at = whole[i]
        for s in way.stretches:
            at += s.long_mm
            if s.piece is not None and at - s.long_mm / 2 > _longest(breath, whole) / 2:
                behind.add((s.run, s.piece.piece.id))
    runs = tuple(_stepped(run, behind, smaller) for run in design.runs)
    return design.replace(runs=runs).validated()


def _far(breath: FlowSolution) -> list[float]:
    """How far each way's head is from the engine [mm]."""
    out: list[float] = []
    for i in range(len(breath.ways.ways)):
        fed = breath.ways.before(i)
        out.append(max((out[k] + sum(s.long_mm for s in breath.ways.ways[k].stretches) for k in fed), default=0.0))
    return out


def _longest(breath: FlowSolution, heads: list[float]) -> float:
    return max(head + sum(s.long_mm for s in w.stretches) for head, w in zip(heads, breath.ways.ways, strict=True))


def _stepped(run: Run, behind: set[tuple[str, str]], smaller: Tube) -> Run:
    pieces = tuple(
        p.replace(tube=smaller.replace(material=run.tube.material))
        if (run.id, p.id) in behind and not isinstance(p, InLine)
        else p
        for p in run.pieces
    )
    return run.replace(pieces=pieces)
