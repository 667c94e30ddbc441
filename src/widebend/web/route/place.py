"""Where Back, reload and a window of another width find what the bench shows."""

from __future__ import annotations

from typing import Any

from flask import request, url_for

from ..page.edits import FormState


def place_of(job_id: int, said: FormState, shown: dict[str, Any]) -> str:
    """The address of the bench as it is: of the search or the question whose ways it shows, else of the run."""
    if said.search:
        kept = {"keep": request.values.get("keep"), **shown}
        return url_for("seeking.show_search_page", job_id=job_id, search_id=said.search.id, **kept)
    if said.proposals and request.method == "GET":
        return request.full_path
    return url_for("route.show", job_id=job_id, **shown)
