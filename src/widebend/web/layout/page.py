"""The layout's page: the strips, the first form, and the shelf below."""

from __future__ import annotations

from flask import g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.wording import say
from ...facts import TUBE_METALS
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand
from ..page.edits import FormState
from ..page.figures import is_htmx
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request
from .form import is_simple, shown
from .parts_panel import panel
from .sheets import SHEETS


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    typed = shown(here.design, g.unit, example="example" in request.args) | said.typed
    if said.errors:
        typed["free"] = said.typed.get("free", "")
    window = window_from_request(extent_of(here.system, here.design.survey), LAYOUT_TALL_PX)
    parts = [f for f in here.found.findings if f.part or f.code == "inside"]
    context = {
        "here": here,
        "step": "layout",
        "said": said,
        "picture": draw_strips(here.design, here.found, window, None, sight=g.sight),
        "typed": typed,
        "materials": list(TUBE_METALS.items()),
        "revision": here.number,
        "sheets": SHEETS,
        "sheet": "layout.show",
        "findings": [(say(f, here.design, g.unit), "touches" if f.spoils else "tight") for f in parts],
        "placed": bool(here.design.runs),
        "blank": not here.design.parts and "example" not in request.args,
        "simple": is_simple(here.design),
        "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
        **panel(here.design, said.piece or request.values.get("part")),
    }
    return render_template("layout/_bench.html" if is_htmx() else "layout/page.html", **context), code
