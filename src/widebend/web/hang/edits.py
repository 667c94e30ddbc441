"""Edits on the Hang step: hung by one button, one by one, slid, changed, taken away; what the engine is."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import as_we_hang, changed_hanger, hang_on_part, hang_on_pipe, slid_hanger, without_hanger
from ...core.errors import EditError
from ...core.hanging import rubber_of
from ...core.records import Design, Engine, Equipment, Hanger, Rubber
from ...core.units import Length, format_length
from ...core.wording import hanger_name
from ...store import jobs
from ...store.database import Connection
from ..drawing.pointing import drag_mm
from ..page.at_hand import AtHand
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import number, typing_unit
from ..page.reader import EXACT, Before, Reader
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request
from .page import BRACKETS, HOLDS, OWN, SCHOOLS, WAYS, catalogue, equipment, proposed, render

room = Blueprint("hang_edits", __name__, url_prefix="/jobs/<int:job_id>/hang")

STEP_MM = 20.0

Change = Callable[[AtHand, FormState], tuple[Design, str]]


def _edit(job_id: int, change: Change) -> ResponseReturnValue:
    said = FormState(piece=request.form.get("hanger") or request.form.get("handle"))

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(here, said)
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    return run_edit(job_id, said, keep, render, lambda: url_for("hang.show", job_id=job_id, hanger=said.piece or None))


@room.post("/take")
def take(job_id: int) -> ResponseReturnValue:
    """Take one of the ways to hang it; what hung before is gone, and comes back by undo."""
    able = equipment()

    def change(here: AtHand, said: FormState) -> tuple[Design, str]:
        answer, at = proposed(here, able), int(number(request.form.get("at"), -1))
        if not 0 <= at < len(answer.found):
            raise EditError("that way is no longer offered: look again")
        said.piece = None
        one = answer.found[at]
        design = here.design.replace(hangers=one.hangers).validated()
        return design, f"hung on {len(one.hangers)} hanger{'s' if len(one.hangers) != 1 else ''}, {one.weigh}"

    return _edit(job_id, change)


@room.post("/add")
def add(job_id: int) -> ResponseReturnValue:
    """A hanger, on a part or on pipe."""

    def change(here: AtHand, said: FormState) -> tuple[Design, str]:
        place, point = request.form.get("place", ""), request.form.get("hang_point") or None
        if place.startswith("part:"):
            design, said.piece = hang_on_part(here.design, place.removeprefix("part:"), point)
            return as_we_hang(design, said.piece), "hung it there"
        run, _, piece = place.partition("/")
        reader = Reader(request.form, typing_unit())
        along = float(reader.length("along", 0.0, 6000.0)) if reader.given("along") else None
        reader.finish()
        if along is None:
            laid = next((p for r in here.system.runs for p in r.pieces if (r.run.id, p.piece.id) == (run, piece)), None)
            along = laid.length_mm / 2 if laid else 0.0
        design, said.piece = hang_on_pipe(here.design, run, piece, along, point)
        return as_we_hang(design, said.piece), "hung it there"

    return _edit(job_id, change)


@room.post("/change")
def change_one(job_id: int) -> ResponseReturnValue:
    """How one hangs: from which point, by which way, on which rubber."""
    own = equipment().rubbers

    def change(here: AtHand, said: FormState) -> tuple[Design, str]:
        old = next((h for h in here.design.hangers if h.id == said.piece), None)
        if old is None:
            raise EditError("that hanger is no longer here")
        reader = Reader(request.form, typing_unit(), Before(old, _measures(old, g.unit), _measures(old, EXACT)))
        way = reader.choice("way", WAYS, "rubber")
        count = int(reader.number("rubbers", 1, 2))
        x, y, z = (_offset(reader, key, 600.0) for key in ("px", "py", "pz"))
        pre = [_offset(reader, key, 40.0) for key in ("tx", "ty", "tz")]
        rubber = _read_rubber(reader, old, own)
        rod = reader.length("rod_mm", 4.0, 25.0) if reader.given("rod_mm") else old.rod_mm
        slope = reader.angle("slope_deg", "slope", 0.0, 30.0) if reader.given("slope_deg") else old.slope_deg
        reader.finish()
        design = changed_hanger(
            here.design,
            old.id,
            way=way,
            rubber=rubber,
            rubbers=count,
            rod_mm=rod,
            rod_left=request.form.get("rod_side") == "left",
            hook_ahead=request.form.get("hook") == "ahead",
            pre_mm=(pre[0], pre[1], pre[2]),
            slope_deg=slope,
            hold=reader.choice("hold", HOLDS, old.hold),  # type: ignore[arg-type]
            bracket=reader.choice("bracket", BRACKETS, old.bracket),  # type: ignore[arg-type]
            also_run=request.form.get("also_run"),
            hang_point=request.form.get("hang_point"),
            pin_mm=(x, y, z),
        )
        return design, f"changed {hanger_name(here.design, old.id).lower()}"

    return _edit(job_id, change)


def _offset(reader: Reader, key: str, most: float) -> Length:
    return reader.length(key, -most, most) if reader.given(key) else Length(0.0)


def _measures(hanger: Hanger, unit: str) -> dict[str, str]:
    """A hanger's lengths as its form shows them."""
    found = dict(
        zip(
            ("px", "py", "pz", "tx", "ty", "tz", "rod_mm"), (*hanger.pin_mm, *hanger.pre_mm, hanger.rod_mm), strict=True
        )
    )
    return {
        key: repr(float(mm)) if unit == EXACT else format_length(mm, unit, suffix=False) for key, mm in found.items()
    }


def _read_rubber(reader: Reader, old: Hanger, own: Sequence[Rubber]) -> Rubber | None:
    """The rubber chosen, of the list or the shop's own, with a pull test where one was made."""
    key = request.form.get("rubber", "")
    base = old.rubber if key == OWN else catalogue(own).get(key)
    if not reader.given("pull_n") and not reader.given("stretch"):
        return base
    pull, stretch = reader.number("pull_n", 1.0, 5000.0), reader.length("stretch", 0.1, 100.0)
    reader.finish()
    whole = base or rubber_of(old)
    return whole.replace(pull_n=pull, stretch_mm=stretch)


@room.post("/drag")
def drag(job_id: int) -> ResponseReturnValue:
    """Slide a hanger along what it holds: dragged by this many pixels of a strip, or a step."""

    def change(here: AtHand, said: FormState) -> tuple[Design, str]:
        hanger_id = said.piece or ""
        if request.form.get("step"):
            by = np.array([STEP_MM if request.form["step"] == "back" else -STEP_MM, 0.0, 0.0])
        else:
            window = window_from_request(extent_of(here.system, here.design.survey), LAYOUT_TALL_PX, "w-beside")
            dx, dy = number(request.form.get("dx"), 0.0), number(request.form.get("dy"), 0.0)
            by = np.round(drag_mm(window, request.form.get("view", "below"), dx, dy))
        return slid_hanger(here.design, hanger_id, by), f"moved {hanger_name(here.design, hanger_id).lower()}"

    return _edit(job_id, change)


@room.post("/remove")
def remove(job_id: int) -> ResponseReturnValue:
    """Take a hanger away."""

    def change(here: AtHand, said: FormState) -> tuple[Design, str]:
        name, hanger_id = hanger_name(here.design, said.piece or ""), said.piece or ""
        said.piece = None
        return without_hanger(here.design, hanger_id), f"took {name.lower()} away"

    return _edit(job_id, change)


@room.post("/school")
def school(job_id: int) -> ResponseReturnValue:
    """How the shop likes to hang."""

    def change(here: AtHand, _said: FormState) -> tuple[Design, str]:
        chosen = request.form.get("school", "")
        if chosen not in SCHOOLS:
            raise EditError(f"one of {', '.join(SCHOOLS)}", "school")
        settings = here.design.settings.replace(hang_school=chosen)
        return here.design.replace(settings=settings).validated(), f"hung from now on: {chosen}"

    return _edit(job_id, change)


@room.post("/masses")
def masses(job_id: int) -> ResponseReturnValue:
    """Set the masses of parts that have none: only those that were typed."""

    def change(here: AtHand, _said: FormState) -> tuple[Design, str]:
        reader, parts, told = Reader(request.form, typing_unit()), [], 0
        for part in here.design.parts:
            key = f"kg-{part.id}"
            if reader.given(key):
                item = part.item.replace(mass_kg=reader.number(key, 0.01, 200.0))
                part, told = part.replace(item=item), told + 1
            parts.append(part)
        reader.finish()
        if not told:
            raise EditError("type what at least one of them weighs")
        design = here.design.replace(parts=tuple(parts)).validated()
        return design, f"weighed {told} part{'s' if told != 1 else ''}"

    return _edit(job_id, change)


@room.post("/keep-rubber")
def keep_rubber(job_id: int) -> ResponseReturnValue:
    """Keep a hanger's rubber, with its pull test, in the shop's own list."""
    said = FormState(piece=request.form.get("hanger"))

    def keep(connection: Connection, here: AtHand) -> None:
        hanger = next((h for h in here.design.hangers if h.id == said.piece), None)
        name = request.form.get("name", "").strip()
        if hanger is None or not name:
            raise EditError("what is that rubber called?", "name")
        able = jobs.equipment(connection, hold=True)
        rubber = rubber_of(hanger).replace(name=name)
        kept = [r for r in able.rubbers if r.name.lower() != name.lower()]
        jobs.set_equipment(connection, Equipment.model_validate(able.replace(rubbers=(*kept, rubber)).model_dump()))
        said.note = f"{name} is kept: every job can choose it."

    return run_edit(job_id, said, keep, render, lambda: url_for("hang.show", job_id=job_id, hanger=said.piece or None))


@room.post("/engine")
def engine(job_id: int) -> ResponseReturnValue:
    """Set the source of vibration."""

    def change(here: AtHand, _said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        made = {
            "cylinders": int(reader.number("cylinders", 1, 16)),
            "strokes": 2 if request.form.get("strokes") == "2" else 4,
            "idle_rpm": reader.number("idle_rpm", 200, 3000),
            "cruise_rpm": reader.number("cruise_rpm", 500, 12_000),
        }
        reader.finish()
        was = here.design.settings.engine or Engine()  # what else is known of it stays
        settings = here.design.settings.replace(engine=Engine.model_validate(was.model_dump() | made))
        return here.design.replace(settings=settings).validated(), "said what the engine is"

    return _edit(job_id, change)
