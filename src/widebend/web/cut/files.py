"""Files of the Cut step: labels with a QR to each piece's card, a workbook, the pipe as STEP."""

from __future__ import annotations

from flask import Blueprint, Response, abort, g, request, url_for

from ...core.cutting import CutPiece, cut_lists, hand_of
from ...core.errors import InputError
from ...core.laying import LaidRun
from ...core.units import format_length
from ...formats.papers.cut_rows import CutRow, rows
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.job_nest import job_nest

room = Blueprint("cut_files", __name__, url_prefix="/jobs/<int:job_id>/cut")


@room.get("/labels.pdf")
def labels(job_id: int) -> Response:
    """A label for every piece of the job, on a sheet of stickers."""
    from ...formats.papers.labels import SHEETS, PieceLabel, write_labels

    sheet = request.args.get("paper", "a4")
    if sheet not in SHEETS:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
    runs = [r for r in here.system.runs if r.pieces]
    found = [
        PieceLabel(
            *_words(here, laid, cut, row),
            url_for("card.show", job_id=job_id, run=laid.run.id, piece=cut.laid.piece.id, _external=True),
        )
        for laid, cuts in zip(runs, cut_lists(here.design, runs, here.bends), strict=True)
        for cut, row in zip(cuts.pieces, rows(here.design, cuts, g.unit), strict=True)
        if cut.kind != "mitre"
    ]
    if not found:
        raise InputError("there is nothing to label yet: close a run first")
    return _sent(write_labels(found, sheet), "application/pdf", f"job-{job_id}-labels-{sheet}.pdf", inline=True)


def _words(here: AtHand, laid: LaidRun, cut: CutPiece, row: CutRow) -> tuple[str, tuple[str, ...]]:
    """A label's big word and its lines."""
    hand = hand_of(here.design, laid)
    name = laid.run.name or laid.run.id
    tube = " x ".join(format_length(mm, g.unit, suffix=False) for mm in (cut.tube.od_mm, cut.tube.wall_mm))
    lines = (
        row.what,
        f"heel {row.heel}" if row.heel else "",
        f"throat {row.throat}" if row.throat else "",
        f"roll {row.round_the_tube}" if row.round_the_tube else "",
        f"{tube} {cut.tube.material}",
    )
    title = f"{cut.number}{f' {hand[0].upper()}' if hand else ''} · {name}"
    return title, (*(x for x in lines if x), f"job {here.job.id}, engine end ▸")


@room.get("/work.xlsx")
def workbook(job_id: int) -> Response:
    """Pieces and parts as a workbook."""
    from ...formats.papers.workbook import write_workbook

    with transaction() as connection:
        here = at_hand(connection, job_id)
        job = job_nest(connection, here, "fewest welds")
    pieces = [
        (laid.run.name or laid.run.id, rows(here.design, cuts, g.unit))
        for laid, cuts in zip(job.runs, job.lists, strict=True)
    ]
    data = write_workbook(pieces, job.lines(here, g.unit))
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _sent(data, kind, f"job-{job_id}.xlsx")


@room.get("/pipe.step")
def step(job_id: int) -> Response:
    """The job's pipe as hollow solids, where the CAD kernel is there."""
    from ...formats.step_files import write_step

    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _sent(write_step(here.system.runs), "model/step", f"job-{job_id}.step")


def _sent(data: bytes, mimetype: str, name: str, *, inline: bool = False) -> Response:
    how = "inline" if inline else "attachment"
    return Response(data, mimetype=mimetype, headers={"Content-Disposition": f'{how}; filename="{name}"'})
