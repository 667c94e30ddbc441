"""Finding a way from the Route step: at once, or looked for longer by a worker while the page shows the best so far."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from flask import Blueprint, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.routing import Proposals, Wish
from ...store.searches import stop_search
from ...work.searches import ask
from ..page.access import may_change
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from ..page.figures import number
from ..page.people import who_is_here
from .answers import first_run
from .bench import render_bench
from .ways import TooLong, known_at_once, quick, show_search, way_search
from .wishes_form import wish_from

room = Blueprint("seeking", __name__)


@room.get("/jobs/<int:job_id>/route/find")
def find_a_way(job_id: int) -> ResponseReturnValue:
    """Ways past everything, several, each named by how it goes; or what is drawn made better, or mended."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    said = FormState(piece=request.args.get("piece"), keep=request.args.get("keep", "all"))
    try:
        run = here.design.run(request.args.get("run", "")) or first_run(here.design)
        said.wish = wish = wish_from(request.args, run)
        try:
            said.proposals = quick(here.design, run.id, wish)
        except TooLong:
            if not may_change(room.name):  # who may only look is told so, and puts nothing on the queue
                raise
            said.goes_on = True
        said.ghost = int(number(request.args.get("ghost"), 0))
    except EditError as exc:
        said.errors = {"close": str(exc)}
        return render_bench(here, said, 422)
    return render_bench(here, said)


@room.post("/jobs/<int:job_id>/route/look")
def look_longer(job_id: int) -> ResponseReturnValue:
    """Put a longer search on the queue: for other sides, and for what would open a way where none goes."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    run = here.design.run(request.form.get("run", "")) or first_run(here.design)
    wish = wish_from(request.form, run, thorough=True)
    # the ways that the page shows already stay while a worker looks for more
    return _handed_on(here, run.id, wish, known_at_once(here.design, run.id, replace(wish, thorough=False)))


def _handed_on(here: AtHand, run_id: str, wish: Wish, so_far: Proposals | None) -> ResponseReturnValue:
    """Have a worker look, and go to the page that says how far it is."""
    with transaction() as connection:
        search_id = ask(
            connection, here.job.design_id, here.number, here.design, run_id, wish, so_far, who=who_is_here()
        )
    return redirect(_page(here.job.id, search_id, run_id), 303)


def _page(job_id: int, search_id: int, run_id: str) -> str:
    shown = {k: request.values[k] for k in ("keep", "piece", "from_mm", "to_mm", "then", "tab") if k in request.values}
    query = urlencode({"run": run_id, **shown})
    return f"{url_for('seeking.show_search_page', job_id=job_id, search_id=search_id)}?{query}"


@room.get("/jobs/<int:job_id>/route/search/<int:search_id>")
def show_search_page(job_id: int, search_id: int) -> ResponseReturnValue:
    """A search as far as it is, its ways ghosted."""
    here, said = _searched(job_id, search_id)
    return render_bench(here, said)


@room.get("/jobs/<int:job_id>/route/search/<int:search_id>/progress")
def progress(job_id: int, search_id: int) -> ResponseReturnValue:
    """How far a search is; the whole bench again when there is more to show than the page has."""
    here, said = _searched(job_id, search_id)
    found = len(said.proposals.found) if said.proposals else 0
    if said.search and said.search.goes_on and found <= number(request.args.get("seen"), 0):
        named: dict[str, Any] = {"job_id": job_id, "search_id": search_id, **_again(job_id)}
        at = {"progress_url": url_for(".progress", seen=found, **named), "stop_url": url_for(".stop", **named)}
        return render_template("page/_progress.html", search=said.search, **at)
    answer = make_response(render_bench(here, said))
    answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = "#bench", "innerHTML"
    return answer


def _again(job_id: int) -> dict[str, str]:
    return {k: v for k, v in request.args.items() if k in ("run", "keep", "piece", "from_mm", "to_mm", "then", "tab")}


def _searched(job_id: int, search_id: int) -> tuple[AtHand, FormState]:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        kept = way_search(connection, here, search_id)
    said = FormState(piece=request.args.get("piece"), keep=request.args.get("keep", "all"))
    if kept.revision != here.number:
        said.errors = {"close": "the design changed since that search was asked for: look again"}
        return here, said
    show_search(said, kept, here.design)
    said.ghost = int(number(request.args.get("ghost"), 0))
    return here, said


@room.post("/jobs/<int:job_id>/route/search/<int:search_id>/stop")
def stop(job_id: int, search_id: int) -> ResponseReturnValue:
    """Stop a search; what it found so far stays."""
    with transaction() as connection:
        kept = way_search(connection, at_hand(connection, job_id), search_id)
        stop_search(connection, search_id)
    return redirect(_page(job_id, search_id, kept.run), 303)
