"""The underbody's page: the strips and slice on top, the list of sheets, and the sheet in hand below."""

from __future__ import annotations

from typing import Any

import numpy as np
from flask import g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.records import Survey, Thing
from ...core.survey import bounds, checklist
from ..drawing.marks import station_to_px
from ..drawing.slice import draw_slice
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand
from ..page.edits import FormState
from ..page.figures import is_htmx, number
from ..page.window import MEASURE_TALL_PX, Window, extent_of_things, window_from_request

# key, what it is called: every sheet of the underbody, in the order of the work
SHEETS = (
    ("things", "things"),
    ("measure", "measure"),
    ("travel", "travel"),
    ("windows", "windows"),
    ("hang-points", "hang points"),
    ("old-parts", "old parts"),
    ("marks", "marks"),
    ("stance", "stance and lines"),
    ("check", "before you crawl out"),
    ("files", "files"),
)
NUDGES_MM = (1.0, 5.0, 25.0)


def page(
    here: AtHand, said: FormState, code: int, sheet: str, panel: dict[str, Any], thing: Thing | None = None
) -> ResponseReturnValue:
    """The page with a sheet in hand; `panel` is what its template wants."""
    survey = here.design.survey
    window = window_of(here)
    station = _station(window, thing)
    context = {
        "here": here,
        "step": "underbody",
        "said": said,
        "picture": draw_strips(
            here.design, here.found, window, None, things_only=True, sight=g.sight, thing=thing.id if thing else ""
        ),
        "slice": draw_slice(here.found, station, middle_of(thing), g.sight),
        "cursor_px": station_to_px(window, station),
        "thing": thing,
        "revision": here.survey_revision.number,
        "sheet": sheet,
        "sheets": _sheets(survey),
        "can_undo": here.survey_revision.back is not None,
        "can_redo": here.survey_revision.forward is not None,
        "checked": here.design_revision.checked_against,
        "nudges": NUDGES_MM,
        "base": url_for("underbody.show", job_id=here.job.id, tab=g.tab),
        "views": VIEW_WORDS,
        **panel,
    }
    return render_template("underbody/_bench.html" if is_htmx() else "underbody/page.html", **context), code


VIEW_WORDS = {
    "now": "as it stands now",
    "coming": "with what is on order",
    "everything": "with all that is missing or removed",
}


def _sheets(survey: Survey) -> list[tuple[str, str, str]]:
    """Key, name and the one figure of each sheet."""
    left = sum(not item.done for item in checklist(survey))
    counts = {
        "things": len(survey.things),
        "travel": len(survey.groups),
        "windows": len(survey.windows),
        "hang-points": len(survey.hang_points),
        "old-parts": len(survey.old_parts),
        "marks": len(survey.marks),
    }
    figures = {key: str(n) if n else "" for key, n in counts.items()} | {"check": f"{left} left" if left else "✓"}
    return [(key, name, figures.get(key, "")) for key, name in SHEETS]


def window_of(here: AtHand) -> Window:
    """The window asked for; without one, all things, not only the pipe."""
    return window_from_request(extent_of_things(here.design.survey), MEASURE_TALL_PX)


def _station(window: Window, thing: Thing | None) -> float:
    """Where the slice is: at the cursor, or through the chosen thing."""
    middle = middle_of(thing)
    otherwise = (window.low + window.high) / 2 if middle is None else float(middle[0])
    return min(max(number(request.values.get("cursor"), otherwise), window.low), window.high)


def middle_of(thing: Thing | None) -> np.ndarray | None:
    """The middle of a bounded thing."""
    around = bounds(thing.shape) if thing else None
    return None if around is None else (around[0] + around[1]) / 2
