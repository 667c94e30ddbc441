"""The basis of the gas sheets: which state of the engine is looked at, and its calculation, kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.gas import STATES, FlowSolution, PressureDrop, Span, State
from ...core.records import Design
from ...core.units import format_pressure
from ...core.wording import piece_words
from ...store.database import Connection
from ..page.at_hand import AtHand
from ..page.breaths import kept_breath
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import typing_unit
from ..page.reader import Reader

STATE_WORDS: dict[State, str] = {"idle": "at idle", "cruise": "at cruise", "full": "at full power"}


@dataclass(frozen=True)
class GasQuestion:
    """A gas sheet's question: a state of the engine, whether cutouts are open; the solution, or why there is none."""

    state: State
    open: bool
    breath: FlowSolution | None
    refusal: str

    @property
    def words(self) -> str:
        return STATE_WORDS[self.state] + (", cutout open" if self.open else "")


def asked(here: AtHand, usual: State = "full") -> GasQuestion:
    """The state that the address names."""
    state: State = next((s for s in STATES if s == request.values.get("state")), usual)
    is_open = request.values.get("cutout") == "open" and has_cutout(here.design)
    try:
        return GasQuestion(state, is_open, kept_breath(here, state, is_open=is_open), "")
    except InputError as exc:
        return GasQuestion(state, is_open, None, str(exc))


Change = Callable[[AtHand, Reader], tuple[Design, str]]
Render = Callable[[AtHand, FormState, int], ResponseReturnValue]


def edited(job_id: int, sheet: str, render: Render, change: Change) -> ResponseReturnValue:
    """An edit of the design from one of the sheets: read, changed, kept; then the sheet again in its state."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(here, Reader(request.form, typing_unit()))
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    state = request.form.get("state") or None
    return run_edit(job_id, said, keep, render, lambda: url_for(f"{sheet}.show", job_id=job_id, state=state))


def has_cutout(design: Design) -> bool:
    return any(p.item.kind == "cutout" for p in design.parts)


def context(here: AtHand, now: GasQuestion, sheet: str) -> dict[str, Any]:
    """Return the context of every sheet's head: the states to choose from and the engine."""
    return {
        "now": now,
        "states": [(s, STATE_WORDS[s]) for s in STATES],
        "has_cutout": has_cutout(here.design),
        "engine": here.design.settings.engine,
        "gas_sheet": sheet,
        "breath": now.breath,
    }


def place_words(design: Design, key: str) -> str:
    """A stretch by its run and number, or its part."""
    run_id, _, piece = key.partition("/")
    part, run = design.part(key), design.run(run_id)
    if part is not None:
        return part.name or part.item.kind
    ids = [p.id for p in run.pieces] if run else []
    return f"{run.name or run.id}, piece {ids.index(piece) + 1}" if run and piece in ids else key


def name_of(design: Design, taken: PressureDrop) -> str:
    """Return the name of a piece, part or meeting in a list of losses."""
    if taken.stretch is None:
        return place_words(design, taken.meeting.part.id if taken.meeting else "")
    piece = taken.stretch.piece
    where = place_words(design, taken.stretch.key)
    return where if piece is None else f"{where}, {piece_words(piece.piece, g.unit)}"


def range_words(span: Span) -> str:
    """A pressure's range."""
    return f"{format_pressure(span.low, g.unit)} to {format_pressure(span.high, g.unit)}"
