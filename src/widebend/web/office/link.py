"""A customer's page behind a quote's link: the system in pictures, tips in their cut-outs, prices; and their yes."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.records import Design
from ...core.review import Review, review, tips_seen
from ...store import hours, jobs, people, quotes
from ...store.database import Connection
from ...store.files import with_meshes
from ..drawing.from_behind import HEIGHT_PX, WIDTH_PX, draw_from_behind
from ..drawing.strips import draw_strips
from ..page.at_hand import solved, transaction
from ..page.edits import FormState
from ..page.window import Window, extent_of

room = Blueprint("link", __name__, url_prefix="/q")

NAME_LENGTH = 80


@room.get("/<token>")
def show(token: str) -> ResponseReturnValue:
    with transaction() as connection:
        return _page(connection, token, FormState())


def _page(connection: Connection, token: str, said: FormState, code: int = 200) -> ResponseReturnValue:
    try:
        quote = quotes.by_token(connection, token, _address())
    except EditError as exc:
        return render_template("office/no_link.html", why=str(exc)), 429
    if quote is None:
        return render_template("office/no_link.html", why=""), 404
    shop = jobs.shop_name(connection)
    pictures = [_pictures(connection, Design.model_validate(one["design"])) for one in quote.content["offers"]]
    return render_template(
        "office/link.html",
        quote=quote,
        said=said,
        token=token,
        pictures=pictures,
        shop=shop,
        width=WIDTH_PX,
        height=HEIGHT_PX,
    ), code


def _address() -> str:
    return (request.remote_addr or "")[:64]


def _pictures(connection: Connection, design: Design) -> dict[str, Any]:
    """The system among its things, and its tips from behind; the same quote is looked at often."""
    whole = design.replace(survey=with_meshes(connection, design.survey))
    found: Review = solved(design, ("for the customer",), lambda: review(whole))
    picture = draw_strips(whole, found, Window.fitting(extent_of(found.system, whole.survey)), None)
    picture.ribbon = []
    wanted = float(whole.settings.rules.tip_gap_mm)
    seen = tips_seen(whole.survey, found.system)
    return {"strips": picture, "behind": draw_from_behind(seen, wanted, g.unit), "wanted": wanted}


@room.post("/<token>/yes")
def yes(token: str) -> ResponseReturnValue:
    """The customer's yes: by name, of one offer, tips seen; timed, with the exact design it was said to."""
    said = FormState(typed=request.form.to_dict())
    with transaction() as connection:
        try:
            quote = quotes.by_token(connection, token, _address())
        except EditError:
            quote = None
        if quote is None:
            return _page(connection, token, said, 404)
        offers, name = quote.content["offers"], " ".join(request.form.get("name", "").split())[:NAME_LENGTH]
        text = request.form.get("offer", "0")
        chosen = int(text) if text.isdecimal() and len(text) < 3 else len(offers)
        if not name:
            said.errors["name"] = "your name, as under a letter"
        if not 0 <= chosen < len(offers):
            said.errors["offer"] = "choose one of the offers"
        if request.form.get("tips") != "yes":
            said.errors["tips"] = (
                "look at the picture from behind first: a tip of another size is made again at your cost"
            )
        if quote.content["cautions"] and request.form.get("cautions") != "yes":
            said.errors["cautions"] = "these must be read before the work begins"
        if said.errors:
            return _page(connection, token, said, 422)
        kept = {
            "name": name,
            "offer": chosen,
            "revision": quote.design_revision,
            "words": request.form.get("words", "").strip()[:1000],
        }
        if quotes.answer(connection, quote.id, kept):
            people.note(connection, name, f"said yes to quote {quote.id}", quote.job_id, _address())
            hours.plan(connection, quote.job_id, offers[chosen]["hours"]["estimated"])
            said.note = "Thank you. The shop has your yes."
        return _page(connection, token, said)
