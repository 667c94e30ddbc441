"""The sheets of the Layout step: one frame for all of them, with the steps above and the list of sheets beside."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flask import g, render_template
from flask.typing import ResponseReturnValue

from ..drawing.lines_ribbon import Lines
from ..drawing.strip import Shadow
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand
from ..page.edits import FormState
from ..page.figures import is_htmx
from ..page.window import LAYOUT_TALL_PX, extent_of, window_from_request

# endpoint, what the sheet is called: in the order they are needed
SHEETS = (
    ("layout.show", "big pieces"),
    ("fixings.show", "joints and bosses"),
    ("crossings.show", "X, Y, H and faces"),
    ("apart.show", "in and out"),
    ("driven.show", "use and configurations"),
    ("rear.show", "rear view"),
    ("own_shelf.show", "own shelf"),
    ("model.show", "in space"),
    ("bore.show", "bore"),
    ("heat.show", "heat"),
    ("sound.show", "sound"),
)


def render_sheet(
    here: AtHand,
    said: FormState,
    code: int,
    sheet: str,
    template: str,
    *,
    shadows: Sequence[Shadow] | None = None,
    ribbons: Sequence[Lines] = (),
    **panel: Any,
) -> ResponseReturnValue:
    """A sheet; with `shadows` (which may be none) the strips stand above it, with `ribbons` under them; a template
    `lead` stands above the strips.
    """
    picture = None
    if shadows is not None:
        window = window_from_request(extent_of(here.system, here.design.survey), LAYOUT_TALL_PX, "w")
        picture = draw_strips(here.design, here.found, window, None, sight=g.sight, shadows=shadows, lines=ribbons)
    context = {
        "here": here,
        "step": "layout",
        "said": said,
        "sheet": sheet,
        "sheets": SHEETS,
        "panel": template,
        "picture": picture,
        "revision": here.number,
        "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
        **panel,
    }
    return render_template("layout/_sheet.html" if is_htmx() else "layout/sheet.html", **context), code
