"""Joints, sensor bosses, hangers and branches on the Layout step."""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import WATCHES, add_boss, add_branch, set_joint, without_fixing
from ...core.errors import EditError
from ...core.laying import open_ports
from ...core.records import Design, Tap
from ...core.space import clock_deg
from ...core.units import format_clock, format_length
from ...core.wording import piece_words, say
from ...facts import JOINTS, PART_KINDS, JointKind
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import typing_unit
from ..page.reader import Reader
from .sheets import render_sheet

room = Blueprint("fixings", __name__, url_prefix="/jobs/<int:job_id>/layout/fixings")

WATCH_WORDS = {
    "": "nothing in particular",
    "ahead of the cat": "the gas ahead of the cat",
    "behind the cat": "the gas behind the cat",
    "wideband": "the mixture (wideband)",
}
CODES = (
    "sensor-near",
    "sensor-low",
    "boss-lowest",
    "sensor-room",
    "sensor-order",
    "branch",
    "buried",
    "no-flex",
    "flex-late",
    "boss-weld",
    "no-weld",
    "rusted",
    "strip-coat",
    "thick-thin",
)


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, FormState())


def _render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    design = here.design
    inlets = [p for p in open_ports(design, here.system) if p.port.role != "out"]
    return render_sheet(
        here,
        said,
        code,
        "fixings.show",
        "layout/_sheet_fixings.html",
        shadows=(),
        places=_places(here),
        joint_places=_joint_places(here),
        joints=_joints(design),
        bosses=_bosses(here),
        apart=[p.name or p.item.kind for p in design.parts if PART_KINDS[p.item.kind].joins_pipes],
        joint_kinds=[(kind, facts.name) for kind, facts in JOINTS.items()],
        watch_kinds=list(WATCH_WORDS.items()),
        inlets=[("", "nothing yet"), *((p.name, f"{p.part.name}: {p.port.id}") for p in inlets)],
        branches=[r for r in design.runs if isinstance(r.start, Tap)],
        findings=[say(f, design, g.unit) for f in here.found.findings if f.code in CODES],
    )


def _places(here: AtHand) -> list[tuple[str, str]]:
    """Every piece of pipe: value and words."""
    several = len(here.design.runs) > 1
    return [
        (
            f"{r.run.id}/{p.piece.id}",
            f"{(r.run.name or r.run.id) + ': ' if several else ''}{p.index + 1}, {piece_words(p.piece, g.unit)}",
        )
        for r in here.system.runs
        for p in r.pieces
        if p.piece.kind != "part"
    ]


def _joint_places(here: AtHand) -> list[tuple[str, str]]:
    several = len(here.design.runs) > 1
    out = []
    for run in here.system.runs:
        lead = f"{run.run.name or run.run.id}: " if several else ""
        out.append((f"{run.run.id}/start", f"{lead}ahead of piece 1"))
        out += [(f"{run.run.id}/{p.piece.id}", f"{lead}behind piece {p.index + 1}") for p in run.pieces]
    return out


def _joints(design: Design) -> list[tuple[str, str]]:
    out = []
    for run in design.runs:
        numbers = {p.id: i + 1 for i, p in enumerate(run.pieces)}
        for j in run.joints:
            where = f"behind piece {numbers[j.after]}" if j.after in numbers else "at the start"
            over = f", {format_length(j.overlap_mm, g.unit)} over" if j.overlap_mm else ""
            out.append((f"{run.id}/{j.after}", f"{run.name or run.id}: {JOINTS[j.kind].name} {where}{over}"))
    return out


def _bosses(here: AtHand) -> list[tuple[str, str]]:
    laid = {(r.run.id, p.piece.id): p for r in here.system.runs for p in r.pieces}
    out = []
    for a in here.design.attachments:
        piece = laid.get((a.run, a.piece))
        clock = ""
        if piece is not None:
            turned = piece.inlet.side(a.roll_deg)
            clock = f", toward {format_clock(clock_deg(piece.inlet.flow, turned))}"
        at = f"{format_length(a.along_mm, g.unit, 0)} along piece {piece.index + 1}" if piece else a.piece
        watches = f", watches {WATCH_WORDS[a.watches]}" if a.watches else ""
        out.append((a.id, f"{a.name or a.kind}: {at}{clock}{watches}"))
    for h in here.design.hangers:
        piece = laid.get((str(h.run), str(h.piece)))
        point = next((p.name for p in here.design.survey.hang_points if p.id == h.hang_point), "no hang point yet")
        part = here.design.part(h.part or "")
        along = f"{format_length(h.along_mm, g.unit, 0)} along piece {piece.index + 1}" if piece else str(h.piece)
        at = f"on the {part.name or part.item.kind}" if part else along
        out.append((h.id, f"hanger: {at}, from {point}"))
    return out


Change = Callable[[Design, Reader, str, str], tuple[Design, str]]


def _edit(job_id: int, change: Change) -> ResponseReturnValue:
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        run, _, piece = request.form.get("place", "").partition("/")
        reader = Reader(request.form, typing_unit())
        design, why = change(here.design, reader, run, piece)
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    return run_edit(job_id, said, keep, _render, lambda: url_for("fixings.show", job_id=job_id))


@room.post("/joint")
def joint(job_id: int) -> ResponseReturnValue:
    def change(design: Design, reader: Reader, run: str, piece: str) -> tuple[Design, str]:
        kind: JointKind = reader.choice("kind", get_args(JointKind), "butt")  # type: ignore[assignment]
        overlap = float(reader.length("overlap", 0.0, 300.0)) if reader.given("overlap") else 0.0
        reader.finish()
        return set_joint(design, run, piece, kind, overlap), f"{JOINTS[kind].name} set"

    return _edit(job_id, change)


@room.post("/boss")
def boss(job_id: int) -> ResponseReturnValue:
    def change(design: Design, reader: Reader, run: str, piece: str) -> tuple[Design, str]:
        along, clock = float(reader.length("along", 0.0, 6000.0)), reader.clock("clock")
        stands = float(reader.length("stands", 0.0, 500.0)) if reader.given("stands") else 0.0
        name, watches = reader.words("name"), reader.choice("watches", WATCHES, "")
        reader.finish()
        added = add_boss(design, run, piece, along, clock, name=name, watches=watches, stands_mm=stands)
        return added, f"put on the {name or 'sensor boss'}"

    return _edit(job_id, change)


@room.post("/branch")
def branch(job_id: int) -> ResponseReturnValue:
    def change(design: Design, reader: Reader, run: str, piece: str) -> tuple[Design, str]:
        along, clock = float(reader.length("b_along", 0.0, 6000.0)), reader.clock("b_clock")
        angle, od = reader.angle("angle", "angle", 0.0, 90.0), float(reader.length("od", 10.0, 300.0))
        name = reader.words("b_name")
        reader.finish()
        aim = request.form.get("to") or None
        changed, _ = add_branch(design, run, piece, along, clock, angle, od, aim=aim, name=name)
        return changed, f"branched off the {name or 'branch'}: lay it on the Route step"

    return _edit(job_id, change)


@room.post("/take-off")
def take_off(job_id: int) -> ResponseReturnValue:
    def change(design: Design, _reader: Reader, run: str, piece: str) -> tuple[Design, str]:
        if run:
            return set_joint(design, run, piece, "butt"), "made it a butt weld again"
        if not request.form.get("id"):
            raise EditError("choose what to take off")
        return without_fixing(design, request.form["id"]), "taken off"

    return _edit(job_id, change)
