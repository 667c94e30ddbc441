"""Where the time of one edit goes: laid, reviewed, drawn, written as a page, kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask.testing import FlaskClient

from bench.pages import hidden
from bench.served import served_demo
from bench.timing import median_ms
from widebend.core.cutting import cut_lists
from widebend.core.laying import obstacles, system_of
from widebend.core.records import Design
from widebend.core.review import review
from widebend.demo.systems import twin_x
from widebend.formats.design_json import read_design, write_design
from widebend.web.drawing.slice import draw_slice
from widebend.web.drawing.strips import draw_strips
from widebend.web.page.window import Window, extent_of

ROUTE = "/jobs/104/route"


def bench_edit() -> None:
    """One edit of the demo's twin system as a browser asks for it, and what its parts take."""
    design = twin_x()
    with served_demo() as app:
        client = app.test_client()
        print(f"a bare page                     {median_ms(lambda: client.get('/jobs/new')):8.1f} ms")
        print(f"the Route page again            {median_ms(lambda: client.get(ROUTE)):8.1f} ms")
        print(f"an edit, answered with the bench{median_ms(_edits(client, design)):8.1f} ms")
    found = review(design)
    window = Window.fitting(extent_of(found.system, design.survey))
    run = design.runs[0].id
    parts: dict[str, Callable[[], Any]] = {
        "read from its text": lambda: read_design(write_design(design)),
        "laid": lambda: system_of(design),
        "things in their positions": lambda: obstacles(design.survey, design.settings.rules),
        "reviewed, all of these in it": lambda: review(design),
        "strips": lambda: draw_strips(design, found, window, run, with_corners=True),
        "slice": lambda: draw_slice(found, 2000.0),
        "cut lists": lambda: cut_lists(design, found.system.runs),
    }
    for name, work in parts.items():
        print(f"  {name:30}{median_ms(work):8.1f} ms")


def _edits(client: FlaskClient, design: Design) -> Callable[[], None]:
    """Each call makes the first straight of the first run a millimetre longer or shorter."""
    run = design.runs[0]
    leg = next(p for p in run.pieces if p.kind == "leg")
    page = client.get(f"{ROUTE}?run={run.id}&piece={leg.id}").get_data(as_text=True)
    fields = {"run": run.id, "piece": leg.id, "then": "carry", "field": "length_mm", "shown": ""}
    fields |= {key: hidden(page, key) for key in ("csrf_token", "rev", "tab", "from_mm", "to_mm")}
    length = [float(leg.length_mm)]

    def edit() -> None:
        length[0] += 1.0 if length[0] < float(leg.length_mm) + 0.5 else -1.0
        answer = client.post(f"{ROUTE}/set", data=fields | {"value": f"{length[0]:g}"}, headers={"HX-Request": "true"})
        assert answer.status_code == 200, answer.status_code
        fields["rev"] = hidden(answer.get_data(as_text=True), "rev")

    return edit
