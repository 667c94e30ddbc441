"""The creeper card: one piece at a time, big, with its steps, clock and tick; it goes on without a connection."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

from flask import Blueprint, Response, abort, current_app, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import LEAST_ASKEW_DEG, WENT_WRONG, CutPiece, rescue, shape_of
from ...core.errors import InputError, MissingError
from ...core.records import Design, Rules
from ...core.units import format_length, parse_length, parse_number
from ...facts import METALS
from ...formats.papers.cut_rows import row
from ...formats.photo_files import read_photo
from ...store import files, ticks
from ..drawing.piece_picture import PiecePicture
from ..page.at_hand import at_hand, transaction
from ..page.figures import number, typing_unit
from .bench import CARD_PX, OnBench, drawn_on, hand_on, on_the_bench, piece_key

room = Blueprint("card", __name__)

STEPS = ("cut", "face", "deburr", "clean", "tack")
MOST_SECONDS = 86_400


@dataclass(frozen=True)
class Card:
    """One step of the creeper card: a title, a line, up to four big figures, a drawing, a word."""

    title: str
    line: str
    figures: list[tuple[str, str, str]]
    drawing: PiecePicture | None
    word: str


@room.get("/jobs/<int:job_id>/cut/card")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, request.args.get("run"))
        made = ticks.steps(connection, here.job.design_id, bench.run.id) if bench.run else {}
    if bench.cuts is None or bench.run is None:
        return redirect(url_for("cut.show", job_id=job_id), 303)
    pieces = bench.cuts.pieces
    count = len(pieces)
    open_now = [i for i, c in enumerate(pieces, 1) if bench.marks.get(piece_key(c), {}).get("outcome") != "done"]
    first = open_now[0] if open_now else count + 1
    named = next((i for i, c in enumerate(pieces, 1) if piece_key(c) == request.args.get("piece")), first)
    at = int(number(request.args.get("at"), named))  # a label leads to its piece, wherever that stands now
    if at > count and open_now:  # past the last, with some left: the first of those
        at = open_now[0]
    last = (request.args.get("last", ""), int(number(request.args.get("last_at"), 0)))
    states = [bench.marks.get(piece_key(c), {}).get("outcome", "") for c in pieces]
    frame = {"here": here, "bench": bench, "count": count, "states": states, "last": last}
    if at > count:
        left = next((r for r in bench.runs if len(r.done) < len(r.cuts.pieces)), None)
        return render_template("cut/card_end.html", **frame, at=count, next_run=left)
    at = max(at, 1)
    cut = pieces[at - 1]
    mark = bench.marks.get(piece_key(cut))
    rescued = _rescued(cut, mark, bench, here.design.settings.rules)
    with transaction() as connection:
        photos = ticks.photos(connection, here.job.design_id, bench.run.id, piece_key(cut))
    shown = _card(here.design, cut, hand_on(here, bench))
    return render_template(
        "cut/card.html",
        **frame,
        at=at,
        card=shown,
        mark=mark,
        key=piece_key(cut),
        shape=shape_of(cut),
        says=_says(shown),
        steps=_done_steps(made, cut),
        bench_steps=STEPS,
        photos=photos,
        asks=request.args.get("ask") == "wrong",
        went_wrong=WENT_WRONG,
        rescued=rescued,
        typed=request.args,
        error=request.args.get("error", ""),
    )


def _done_steps(made: dict[str, dict[str, str]], cut: CutPiece) -> set[str]:
    """Steps at the bench that were done on this piece as it is drawn now."""
    shape = shape_of(cut)
    return {step for step, of in made.get(piece_key(cut), {}).items() if of == shape}


def _says(card: Card) -> str:
    """The card as it is read aloud."""
    figures = [f"{label}: {figure}" for label, figure, _ in card.figures if figure]
    return ". ".join([card.title, *figures, card.word])


def _rescued(cut: CutPiece, mark: dict[str, Any] | None, bench: OnBench, rules: Rules) -> tuple[str, list[str]]:
    """Show what went wrong with a piece, and what can still be done with it."""
    if not mark or mark["outcome"] != "went wrong":
        return "", []
    what, _, by = mark["note"].partition(" ")
    return WENT_WRONG.get(what, "went wrong"), rescue(cut, what, number(by, 0.0), bench.waiting, rules, g.unit)


def _card(design: Design, cut: CutPiece, hand: str) -> Card:
    words = row(design, cut, g.unit)
    drawing = drawn_on(design, cut, hand, CARD_PX)
    tube = f"{format_length(cut.tube.od_mm, g.unit)} × {format_length(cut.tube.wall_mm, g.unit)}"
    place = f"back {words.station}"
    at_ends = [
        ("angle finder, at its start then its end", words.angle_finder, ""),
        ("heading at its end, off the rail", words.heading, words.rail),
        ("underside over ground, at its start then its end", words.underside, words.now),
    ]
    if cut.marks:
        title = f"{words.what}, {'whole' if not cut.marks.cut else 'off a'} {words.source}"
        heel = format_length(cut.marks.heel_from_end_mm, g.unit, suffix=False)
        from_end = f"{heel} / {words.throat_from_end}" if words.throat_from_end else ""
        figures = [
            ("heel, from where the bend starts", words.heel, ""),
            ("throat, from where the bend starts", words.throat, ""),
            ("heel / throat, from the stock's end", from_end, ""),
            ("clock on the vehicle, at its end", words.clock, ""),
            (
                "throat, round the tube at its start, from the line",
                words.round_the_tube,
                "looking toward the engine end",
            ),
            at_ends[0],
        ]
        figures += [*_front_face(cut, words.note), *_fixed(cut)]
        line = f"{place} · {tube}, radius {format_length(cut.marks.stock.clr_mm, g.unit, 2)} · keep {words.keep}"
        word = "Cut on the waste side of the mark, through the bend's centre. Face it square, deburr inside."
        return Card(title, line, figures, drawing, word)
    line = f"{place} · {tube} {METALS[cut.tube.material].name}"
    figures = [("cut length, both ends square", words.length, words.note), *at_ends]
    if cut.kind != "straight":
        figures += _front_face(cut, words.note)
    word = "Draw the reference line along the tube before it goes in: every roll is taped from it."
    if cut.kind == "part":
        figures = figures[1:]
        word = "Hold the reference lines of both sides in line when it goes in."
    if cut.kind in ("mitre", "pie"):
        figures = [
            ("how it is cut", words.note, ""),
            ("throat, round the tube at its start, from the line", words.round_the_tube, "looking to the engine end"),
            ("clock on the vehicle, at its end", words.clock, ""),
            *at_ends,
        ]
    figures += _fixed(cut)
    if cut.problem:
        word = cut.problem
    return Card(words.what, line, figures, drawing, word)


def _fixed(cut: CutPiece) -> list[tuple[str, str, str]]:
    """Each boss or branch on a piece: from its engine end, and round from the line; what it falls on where it cannot
    sit there.
    """
    figures = []
    for mark in cut.fixed:
        along, round_it = (format_length(mm, g.unit, suffix=False) for mm in (mark.along_mm, mark.roll.tape_mm))
        label = f"{mark.name}: from the engine end / {mark.roll.way}"
        hole = f"hole {format_length(mark.hole_mm, g.unit)}, " if mark.kind == "boss" else "hole by its template, "
        figures.append((label, f"{along} / {round_it}", mark.wrong(g.unit) or f"{hole}looking toward the engine end"))
    return figures


def _front_face(cut: CutPiece, note: str) -> list[tuple[str, str, str]]:
    """How its front face is trimmed to meet what is on; nothing where it is square."""
    said = note.rpartition("front face ")[2] if cut.askew[0] > LEAST_ASKEW_DEG else ""
    return [("front face", said, "")] if said else []


@room.post("/jobs/<int:job_id>/cut/card")
def tick(job_id: int) -> ResponseReturnValue:
    """Done, went wrong, a step at the bench, or take it back. What was made without a connection comes late, perhaps
    twice: a stroke counts once, and for the piece as it was shown then.
    """
    at, outcome = int(number(request.form.get("at"), 1)), request.form.get("outcome", "")
    piece, run = request.form.get("piece", "")[:40], request.form.get("run", "")[:40]
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, run)
        cut = next((c for c in bench.cuts.pieces if piece_key(c) == piece), None) if bench.cuts else None
        if cut is None or bench.run is None or bench.run.id != run:
            raise MissingError("that piece is no longer in this run")
        where = (here.job.design_id, run, piece)
        shape = _shown_shape() or shape_of(cut)
        if not ticks.is_new(connection, _stroke()):
            pass  # it was counted when it came the first time
        elif outcome == "undo":
            ticks.take_back(connection, *where)
        elif outcome == "done":
            seconds = min(MOST_SECONDS, max(0, int(number(request.form.get("seconds"), 0))))
            ticks.keep(connection, *where, outcome, shape, seconds=seconds)
        elif outcome == "went wrong":
            what, by = request.form.get("what", ""), request.form.get("by", "").strip()
            if what not in WENT_WRONG:
                return redirect(url_for("card.show", job_id=job_id, run=run, at=at, ask="wrong"), 303)
            try:
                off = _off_by(what, by)
            except InputError as exc:
                again = url_for(
                    "card.show", job_id=job_id, run=run, at=at, ask="wrong", what=what, by=by, error=str(exc)
                )
                return redirect(again, 303)
            ticks.keep(connection, *where, outcome, shape_of(cut), f"{what} {off:g}")
        elif outcome.partition(":")[0] in ("step", "unstep") and outcome.partition(":")[2] in STEPS:
            kind, _, step = outcome.partition(":")
            ticks.set_step(connection, *where, step, shape, done=kind == "step")
        else:
            abort(400)
    forward = at + 1 if outcome == "done" else at
    return redirect(url_for("card.show", job_id=job_id, run=run, at=forward, last=outcome, last_at=at), 303)


def _stroke() -> UUID:
    """The stroke's own name; a browser without scripts gives none, and each of its strokes is new."""
    try:
        return UUID(request.form.get("stroke", ""))
    except ValueError:
        return uuid4()


def _shown_shape() -> str:
    """The shape of the piece as the card showed it."""
    shape = request.form.get("shape", "")
    return shape if re.fullmatch(r"[0-9a-f]{32}", shape) else ""


@room.post("/jobs/<int:job_id>/cut/card/photo")
def photo(job_id: int) -> ResponseReturnValue:
    """A picture of the piece, as it was cut or tacked."""
    at, piece, run = (request.form.get(key, "")[:40] for key in ("at", "piece", "run"))
    back: dict[str, Any] = {"job_id": job_id, "run": run, "at": int(number(at, 1))}
    sent = request.files.get("picture")
    try:
        picture = read_photo(sent.read() if sent else b"")
    except InputError as exc:
        return redirect(url_for("card.show", **back, trouble=str(exc)), 303)
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, run)
        if bench.cuts is None or all(piece_key(c) != piece for c in bench.cuts.pieces):
            raise MissingError("that piece is no longer in this run")
        files.keep(connection, "photo", picture.jpeg)
        ticks.keep_photo(connection, here.job.design_id, run, piece, picture.sha256)
    return redirect(url_for("card.show", **back), 303)


@room.get("/jobs/<int:job_id>/cut/card/<sha256>.jpg")
def picture(job_id: int, sha256: str) -> Response:
    with transaction() as connection:
        at_hand(connection, job_id)
        found = files.find(connection, "photo", sha256)
    if found is None:
        abort(404)
    return Response(found, mimetype="image/jpeg")


@room.get("/card-worker.js")
def worker() -> Response:
    """The service worker that keeps cards at hand without a connection; it may look after all jobs' cards."""
    script = Path(current_app.static_folder or "") / "card-worker.js"
    answer = Response(script.read_bytes(), mimetype="text/javascript")
    answer.headers["Service-Worker-Allowed"] = "/"
    answer.headers["Cache-Control"] = "no-cache"
    return answer


def _off_by(what: str, text: str) -> float:
    """By how much a piece is off, mm or degrees; 0 where nobody said. Raises InputError."""
    if not text:
        return 0.0
    if what in ("little", "much"):
        return parse_number(text, "by how many degrees", 0.0, 180.0)
    return float(parse_length(text, typing_unit(), least=0.0, most=3000.0))
