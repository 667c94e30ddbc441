"""Edits of a run: each takes a design and gives a new one, or raises EditError saying what would be possible.

Editing the middle of a run asks what the rest does: *carry* (it moves along, rigid), or *hold the finish* (the
nearest free legs, rolls and angles behind the edit are solved so that the end stays where it was).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..cutting import least_slice_clr
from ..errors import EditError
from ..laying import LaidRun, fitted_of
from ..records import Bend, Design, InLine, Piece, Run, SegmentedBend, Straight, Tube
from ..units import Length, format_angle, format_length
from .attached import resited, stays
from .holding import hold_finish
from .mirroring import follow_twins

CARRY, HOLD = "carry", "hold"


def _run(design: Design, run_id: str) -> Run:
    run = design.run(run_id)
    if run is None:
        raise EditError(f"there is no run “{run_id}” in this design")
    return run


def _with_run(design: Design, run: Run) -> Design:
    """The run in place of the one it was, what sat on it resited, its twins made again."""
    sitting = resited(design, _run(design, run.id), run)
    return follow_twins(sitting, run.id).validated()


def with_pieces(design: Design, run: Run, pieces: Sequence[Piece]) -> Design:
    """The run with other pieces; joints of pieces that are gone go with them."""
    left = {p.id for p in pieces} | {"start"}
    joints = tuple(j for j in run.joints if j.after in left)
    return _with_run(design, run.replace(pieces=tuple(pieces), joints=joints))


def _index(run: Run, piece_id: str) -> int:
    for i, piece in enumerate(run.pieces):
        if piece.id == piece_id:
            return i
    raise EditError(f"piece “{piece_id}” is no longer in this run")


def set_piece(design: Design, run_id: str, piece_id: str, values: dict[str, float], then: str = CARRY) -> Design:
    """Change values of one piece (length_mm, angle_deg, clr_mm, roll_deg, turn_deg, slices, turn_each_deg). Raises
    EditError.
    """
    run = _run(design, run_id)
    return with_pieces(design, run, changed_pieces(design, run, piece_id, values, then))


def changed_pieces(
    design: Design, run: Run, piece_id: str, values: dict[str, float], then: str, before: LaidRun | None = None
) -> list[Piece]:
    """The run's pieces with one changed and the rest carried or solved. Raises EditError.

    `before` is the run as it lies now, where the caller has it already.
    """
    at = _index(run, piece_id)
    _not_on(design, run, at)
    if run.pieces[at].locked:
        raise EditError(f"piece {at + 1} is locked: unlock it to change it")
    if not set(values) <= set(type(run.pieces[at]).model_fields):
        raise EditError("that piece has no such measure: look at it again")
    changed = run.pieces[at].replace(**values)
    _reasonable(changed, at)
    pieces = [*run.pieces[:at], changed, *run.pieces[at + 1 :]]
    if then == HOLD:
        pieces = hold_finish(design, run, pieces, at, before)
    return pieces


def _not_on(design: Design, run: Run, at: int) -> None:
    """Raises EditError where a piece is on the vehicle."""
    if run.pieces[at].id in fitted_of(design, run.id):
        raise EditError(f"piece {at + 1} is on the vehicle and stands as it was found: take it off on the Fit step")


def _reasonable(piece: Piece, at: int) -> None:
    if isinstance(piece, Bend):
        if not 0 < piece.angle_deg <= 180:
            raise EditError(
                f"bend {at + 1} cannot turn {format_angle(piece.angle_deg)}: more than 0° up to 180°", "angle_deg"
            )
        if piece.clr_mm <= 0:
            raise EditError(f"bend {at + 1} needs a radius of more than nothing", "clr_mm")
    if isinstance(piece, SegmentedBend) and not 0 < piece.turn_deg <= 180:
        whole = format_angle(piece.turn_deg)
        raise EditError(f"the slices of piece {at + 1} turn {whole} together: more than 0° up to 180°", "slices")
    if isinstance(piece, Straight) and piece.length_mm < 0:
        raise EditError(f"piece {at + 1} cannot be shorter than nothing", "length_mm")


def new_piece_id(run: Run) -> str:
    taken = {p.id for p in run.pieces}
    return next(f"p{n}" for n in range(1, len(taken) + 2) if f"p{n}" not in taken)


def insert(design: Design, run_id: str, after: str | None, kind: str, then: str = CARRY) -> tuple[Design, str]:
    """Put a bend or a straight after a piece (None = at the start): the design and the new piece's id."""
    run = _run(design, run_id)
    at = _index(run, after) + 1 if after else 0
    return _put_in(design, run, at, _default_piece(new_piece_id(run), kind, design, last_tube(run, at)), then)


def _put_in(design: Design, run: Run, at: int, new: Piece, then: str) -> tuple[Design, str]:
    beside = [p.id in fitted_of(design, run.id) for p in run.pieces[max(0, at - 1) : at + 1]]
    if beside and all(beside):
        raise EditError("what is beside that place is on the vehicle: take it off on the Fit step first")
    pieces = [*run.pieces[:at], new, *run.pieces[at:]]
    if then == HOLD:
        pieces = hold_finish(design, run, pieces, at, sits_in=at - 1)
    return with_pieces(design, run, pieces), new.id


def carry(design: Design, run_id: str, after: str | None, part_id: str, then: str = CARRY) -> tuple[Design, str]:
    """Put hardware that has no place yet into a run, behind a piece (None = at the start): the piece's id.

    The gas goes in by its first inlet and out by its first outlet.
    """
    run, part = _run(design, run_id), design.part(part_id)
    if part is None:
        raise EditError("that part is no longer here", "part")
    if part.placed or any(isinstance(p, InLine) and p.part == part_id for r in design.runs for p in r.pieces):
        raise EditError(f"the {part.name or part.item.kind} has its place already", "part")
    enter = next((p.id for p in part.item.ports if p.role != "out"), None)
    leave = next((p.id for p in part.item.ports if p.role != "in" and p.id != enter), None)
    if enter is None or leave is None:
        raise EditError(f"the {part.name or part.item.kind} has no way through: place it instead", "part")
    at = _index(run, after) + 1 if after else 0
    if part.item.slices:  # a pack is this many wedges: in the line it is a bend of slices, cut and measured as one
        pack = part.item.slices
        new: Piece = SegmentedBend(
            id=new_piece_id(run), slices=pack.count, turn_each_deg=pack.turn_each_deg, clr_mm=pack.clr_mm
        )
        design = design.replace(parts=tuple(p for p in design.parts if p.id != part_id))
    else:
        new = InLine(id=new_piece_id(run), part=part_id, enter=enter, leave=leave)
    return _put_in(design, run, at, new, then)


def set_tube(design: Design, run_id: str, piece_id: str, tube: Tube) -> Design:
    """Another tube from a piece on, as far as the next hardware in the line or the run's end. Raises EditError."""
    run = _run(design, run_id)
    at = _index(run, piece_id)
    if isinstance(run.pieces[at], InLine):
        raise EditError("hardware has its own diameter: choose the pipe behind it", "od")
    own = None if tube == run.tube else tube
    pieces = list(run.pieces)
    for i in range(at, len(pieces)):
        if isinstance(pieces[i], InLine):
            break
        pieces[i] = pieces[i].replace(tube=own)
    return with_pieces(design, run, pieces)


def last_tube(run: Run, kept: int) -> Tube:
    """The tube that new pipe behind the first `kept` pieces is made of: the last pipe's own."""
    own = [p.tube or run.tube for p in run.pieces[:kept] if not isinstance(p, InLine)]
    return own[-1] if own else run.tube


def _default_piece(piece_id: str, kind: str, design: Design, tube: Tube) -> Piece:
    settings, rules = design.settings, design.settings.rules
    if kind == "pie":
        clr = Length(math.ceil(100.0 * least_slice_clr(rules, float(tube.od_mm))) / 100.0)
        count = max(1, math.ceil(45.0 / float(rules.pie_turn_deg)))
        return SegmentedBend(id=piece_id, slices=count, turn_each_deg=45.0 / count, clr_mm=clr, roll_deg=0.0)
    if kind == "bend":
        angle = 45.0 if 45.0 in settings.angles_deg or not settings.angles_deg else settings.angles_deg[0]
        return Bend(id=piece_id, angle_deg=angle, clr_mm=settings.clr_mm[0], roll_deg=0.0)
    if kind == "leg":
        return Straight(id=piece_id, length_mm=Length(max(100.0, settings.shortest_straight_mm)))
    raise EditError(f"“{kind}” is not a piece that can be put in here: a bend, slices or a straight")


def take_out(design: Design, run_id: str, piece_id: str, then: str = CARRY) -> Design:
    """Take a piece out. Raises EditError for a locked one."""
    run = _run(design, run_id)
    at = _index(run, piece_id)
    _not_on(design, run, at)
    if run.pieces[at].locked:
        raise EditError(f"piece {at + 1} is locked: unlock it to take it out")
    pieces = [*run.pieces[:at], *run.pieces[at + 1 :]]
    if then == HOLD:
        pieces = hold_finish(design, run, pieces, at - 1)
    return with_pieces(design, run, pieces)


def set_locked(design: Design, run_id: str, piece_id: str, locked: bool) -> Design:
    """Lock or unlock a piece: a locked one keeps its values whatever else is solved."""
    run = _run(design, run_id)
    at = _index(run, piece_id)
    _not_on(design, run, at)
    piece = run.pieces[at].replace(locked=locked)
    return with_pieces(design, run, [*run.pieces[:at], piece, *run.pieces[at + 1 :]])


def kept_pieces(run: Run, keep: int) -> tuple[Piece, ...]:
    """The pieces a closing keeps: the first `keep`, and never fewer than up to the last locked or in-line one."""
    fixed = [i + 1 for i, p in enumerate(run.pieces) if p.locked or isinstance(p, InLine)]
    return run.pieces[: max([keep, *fixed])]


def take_answer(design: Design, run_id: str, keep: int, pieces: Sequence[Piece], until: int | None = None) -> Design:
    """The run's first `keep` pieces followed by the pieces of an answer, and from the piece `until` on by its own.

    New pieces are named so that ids stay unique; what comes after is rolled so that it stays as it is.
    """
    run = _run(design, run_id)
    kept = list(run.pieces[:keep]) if until is not None else list(kept_pieces(run, keep))
    tail = list(run.pieces[until:]) if until is not None else []
    taken = {p.id for p in (*kept, *tail)}
    fresh = (f"p{n}" for n in range(1, 10_000) if f"p{n}" not in taken)
    tube = last_tube(run, len(kept))
    own = pieces if tube == run.tube else [p.replace(tube=tube) for p in pieces]
    joined = _merged(kept, own)
    named = [p if p.id in taken and i < len(kept) else p.replace(id=next(fresh)) for i, p in enumerate(joined)]
    if not tail:
        return with_pieces(design, run, named)
    return with_pieces(*stays(design, run, named, tail))


def _merged(kept: list[Piece], pieces: Sequence[Piece]) -> list[Piece]:
    """Two straights that follow each other are one straight, unless the first is locked or has its own tube."""
    if kept and pieces and isinstance(kept[-1], Straight) and isinstance(pieces[0], Straight) and not kept[-1].locked:
        together = Length(kept[-1].length_mm + pieces[0].length_mm)
        return [*kept[:-1], kept[-1].replace(length_mm=together), *pieces[1:]]
    return [*kept, *pieces]


def describe_change(piece: Piece, values: dict[str, float], unit: str = "mm") -> str:
    """A revision's reason in words: "turn 26°", "length 180 mm"."""
    names = {
        "length_mm": "length",
        "angle_deg": "turn",
        "clr_mm": "radius",
        "roll_deg": "clock",
        "slices": "slices",
        "turn_each_deg": "each slice",
        "turn_deg": "turn",
    }
    parts = []
    for key, value in values.items():
        shown = format_length(value, unit) if key.endswith("_mm") else format_angle(value)
        shown = str(value) if key == "slices" else shown
        parts.append(f"{names[key]} {shown}" if key != "roll_deg" else "clock")
    return ", ".join(parts)
