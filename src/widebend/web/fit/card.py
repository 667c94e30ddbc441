"""The fit card: one piece at a time at the vehicle, entered with one thumb."""

from __future__ import annotations

from flask import Blueprint, Response, abort, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.fitting import as_it_rides
from ...core.units import format_length
from ...core.wording import ANGLE_KINDS, FIT_WORDS, USUAL_DOUBT
from ...store import files
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from ..page.figures import is_htmx
from .page import candidates, panel

room = Blueprint("fit_card", __name__, url_prefix="/jobs/<int:job_id>/fit/card")

# asked on the card, in the order a hand goes: the rest is on the page
FIRST = ("angle finder", "height", "left rail", "right rail", "heading")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render_card(here, FormState(piece=request.args.get("piece")))


def render_card(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    shown = panel(here, said)
    now, chosen = shown["now"], shown.get("chosen")
    asked = []
    if now is not None and chosen is not None:
        for kind, _, reading in candidates(here, now, chosen.number - 1):
            if kind in FIRST:
                angle = kind in ANGLE_KINDS
                should = now.expected(reading, planned=True) - as_it_rides(now, here.design.survey, chosen.id, kind)
                asked.append(
                    {
                        "kind": kind,
                        "words": FIT_WORDS[kind],
                        "angle": angle,
                        "should": f"{should:.1f}" if angle else format_length(should, g.unit, suffix=False),
                        "doubt": f"{USUAL_DOUBT[kind]:g}"
                        if angle
                        else format_length(USUAL_DOUBT[kind], g.unit, suffix=False),
                    }
                )
        asked.sort(key=lambda one: FIRST.index(one["kind"]))
    name = "fit/_card.html" if is_htmx() else "fit/card.html"
    return render_template(name, **shown, asked=asked), code


@room.get("/<sha256>.jpg")
def picture(job_id: int, sha256: str) -> Response:
    """The photo of a fitted piece."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        found = files.find(connection, "photo", sha256)
    if found is None or all(one.photo != sha256 for one in here.design.fitted):
        abort(404)
    return Response(found, mimetype="image/jpeg")
