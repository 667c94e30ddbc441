"""Another muffler, cat, flange, tip in a part's place, tried on the design before it is ordered."""

from __future__ import annotations

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import with_other_item
from ...core.errors import EditError, InputError
from ...core.hardware import SHELF, Kind, Stocked, item_of
from ...core.records import Item, Part
from ...store import revisions, shelf
from ...store.database import Connection
from ..layout.parts import measures_as_shown, read_measures
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState, keep_design
from ..page.figures import number, typing_unit
from ..page.reader import Reader
from .tried import Tried, tried

room = Blueprint("other_part", __name__, url_prefix="/jobs/<int:job_id>/cut/part")

OWN = "own"


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id, FormState(typed=request.args.to_dict()))


def _page(job_id: int, said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        own = shelf.items(connection)
    part = here.design.part(request.values.get("part", "")) or next(iter(here.design.parts), None)
    mine = {str(n): one for n, one in own.items() if part and _makes(one, part)}
    kinds = [kind for kind in SHELF.values() if part and _is_kind(kind, part)]
    kind = next((k for k in kinds if k.key == request.values.get("kind")), kinds[0] if kinds else None)
    found = None
    if part and request.values.get("from"):
        try:
            found = _tried(here, part, own)
        except Faults as faults:
            said.errors |= faults.errors
        except (EditError, InputError) as exc:
            said.errors[""] = str(exc)
    return render_template(
        "cut/other_part.html",
        here=here,
        step="cut",
        sheet="nesting.show",
        part=part,
        own=mine,
        kinds=kinds,
        kind=kind,
        tried=found,
        said=said,
        revision=here.number,
        usual=measures_as_shown(kind) if kind else {},
    ), 422 if said.errors and code == 200 else code


def _makes(one: Stocked, part: Part) -> bool:
    return one.kind in SHELF and _is_kind(SHELF[one.kind], part)


def _is_kind(kind: Kind, part: Part) -> bool:
    """Whether a kind of the shelf is what a part is."""
    usual = {m.key: m.usual for m in kind.measures}
    return item_of(kind.key, "", usual).kind == part.item.kind


def _tried(here: AtHand, part: Part, own: dict[int, Stocked]) -> Tried:
    """Raises Faults for what cannot be read, EditError or InputError for an item that does not go in."""
    design = with_other_item(here.design, part.id, _item(own), g.unit)
    return tried(here, design, {run.id for run in here.design.runs})


def _item(own: dict[int, Stocked]) -> Item:
    """The other item: one of the shop's own, or of the measures typed."""
    reader = Reader(request.values, typing_unit())
    if request.values.get("from") == OWN:
        stocked = own.get(int(number(request.values.get("own"), 0)))
        if stocked is None:
            raise EditError("choose one of the shop's own", "own")
        return stocked.item()
    kind = SHELF.get(request.values.get("kind", ""))
    if kind is None:
        raise EditError("choose what kind it is", "kind")
    name = reader.words("called") or kind.name
    mass = reader.number("mass", 0.0, 200.0) if reader.given("mass") else None
    return item_of(kind.key, name, read_measures(reader, kind)).replace(mass_kg=mass)


@room.post("")
def take(job_id: int) -> ResponseReturnValue:
    """Take the other item into the design."""
    try:
        with transaction() as connection:
            _taken(connection, job_id)
    except Faults as faults:
        return _page(job_id, FormState(errors=faults.errors, typed=request.form.to_dict()), 422)
    except (EditError, InputError) as exc:
        return _page(job_id, FormState(errors={"": str(exc)}, typed=request.form.to_dict()), 422)
    except revisions.StaleEdit:
        words = "somebody changed the design meanwhile: this is how it stands now, look again"
        return _page(job_id, FormState(errors={"": words}), 409)
    return redirect(url_for("nesting.show", job_id=job_id), 303)


def _taken(connection: Connection, job_id: int) -> None:
    here = at_hand(connection, job_id, hold=True)
    part = here.design.part(request.form.get("part", ""))
    if part is None:
        raise EditError("that part is no longer here")
    item = _item(shelf.items(connection))
    design = with_other_item(here.design, part.id, item, g.unit)
    keep_design(connection, here, design, f"{item.name or item.kind} in place of {part.name or part.item.kind}")
