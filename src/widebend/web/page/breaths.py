"""The gas flow of the design at hand, by state of the engine, kept by the design's text."""

from __future__ import annotations

from functools import partial

from ...core.errors import InputError
from ...core.gas import FlowSolution, State, breath_of
from ...core.heat import covered
from .at_hand import AtHand, solved


def kept_breath(here: AtHand, state: State, *, is_open: bool = False) -> FlowSolution:
    """The calculation of a state. Raises InputError."""
    design = here.design
    return solved(
        design,
        ("breath", state, is_open),
        partial(breath_of, design, here.system, state, covered(design), cutouts_open=is_open),
    )


def breath_or_none(here: AtHand, state: State) -> FlowSolution | None:
    """The same; None where the engine does not say enough or nothing leads anywhere."""
    try:
        return kept_breath(here, state)
    except InputError:
        return None
