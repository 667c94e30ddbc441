"""Sheets of tags to print, each job's by themselves, at true size."""

from __future__ import annotations

from flask import Blueprint, Response, abort, request
from flask.typing import ResponseReturnValue

from ...core.photos import CUFF_TAGS, JOBS, Job
from ..page.at_hand import at_hand, transaction
from ..page.figures import whole

room = Blueprint("sheets", __name__, url_prefix="/jobs/<int:job_id>/underbody/camera")

SHEETS = 4  # of a job, offered one by one


def sheets_of() -> list[tuple[Job, list[int]]]:
    """Each job of tags with the sheets that are offered of it, the first 0."""
    return [(job, [sheet for sheet in range(SHEETS) if _numbers(job, sheet, "a4")]) for job in JOBS]


@room.get("/tags.pdf")
def tags(job_id: int) -> ResponseReturnValue:
    """One sheet of tags of one job."""
    from ...formats.papers.tag_sheets import PAPERS, write_tag_sheets

    with transaction() as connection:
        at_hand(connection, job_id)
    job = next((one for one in JOBS if one.job == request.args.get("job")), None)
    paper = request.args.get("paper", "a4")
    if job is None or paper not in PAPERS:
        abort(404)
    numbers = _numbers(job, whole(request.args.get("sheet")), paper)
    if not numbers:
        abort(404)
    data = write_tag_sheets(numbers, paper)
    return Response(data, mimetype="application/pdf", headers={"Content-Disposition": 'inline; filename="tags.pdf"'})


def _numbers(job: Job, sheet: int, paper: str) -> list[int]:
    """The numbers of one sheet of a job, the first sheet 0."""
    from ...formats.papers.tag_sheets import on_a_sheet

    step, many = CUFF_TAGS if job.job == "cuff" else 1, on_a_sheet(job, paper)
    if not many:
        return []
    start = job.first + sheet * many * step
    return [n for n in range(start, start + many * step, step) if n <= job.last]
