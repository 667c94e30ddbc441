"""Files into and out of a survey: tables, JSON, bundles, scans and pictures."""

from __future__ import annotations

import hashlib
from functools import partial
from typing import Any

import numpy as np
from flask import Blueprint, Response, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import DesignError, EditError, InputError, MissingError
from ...core.geometry import as_kept, corners_of, indexed, is_closed, shadow, thinned
from ...core.records import MeshShape, Photo, Survey, Thing
from ...core.units import Length, format_length
from ...formats import mesh_files, survey_bundle, survey_csv
from ...formats.mesh_files import Axes, on_vehicle, read_mesh
from ...formats.photo_files import read_photo
from ...store import files
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_survey, run_edit
from ..page.figures import typing_unit
from .page import page
from .thing_form import NATURES, choices_of_movement

room = Blueprint("survey_files", __name__, url_prefix="/jobs/<int:job_id>/underbody")

PREVIEW_CELLS = 60


@room.get("/files")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, FormState())


def _render(here: AtHand, said: FormState, code: int = 200, **more: Any) -> ResponseReturnValue:
    panel = {
        "example": survey_csv.example(),
        "left_out": survey_csv.left_out(here.design.survey),
        "units": mesh_files.UNITS,
        "axes": list(mesh_files.AXES),
        "table": said.typed.get("table", ""),
        "bad": (),
        "good": 0,
        "scan": None,
        "natures": NATURES,
        "moves": choices_of_movement(here.design.survey),
    }
    return page(here, said, code, "files", panel | more)


def _upload(field: str) -> bytes:
    """The bytes of an uploaded file; none when no file was chosen."""
    sent = request.files.get(field)
    return sent.read() if sent else b""


# --- tables, JSON and bundles ---------------------------------------------------------------------------------------


@room.get("/survey.csv")
def csv_out(job_id: int) -> Response:
    return _out(job_id, "csv", "text/csv; charset=utf-8")


@room.get("/survey.json")
def json_out(job_id: int) -> Response:
    return _out(job_id, "json", "application/json")


@room.get("/survey.zip")
def zip_out(job_id: int) -> Response:
    return _out(job_id, "zip", "application/zip")


def _out(job_id: int, kind: str, media: str) -> Response:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        survey = here.design.survey
        if kind == "csv":
            data = survey_csv.write_table(survey).encode()
        elif kind == "json":
            data = survey_bundle.write_survey(survey)
        else:
            names = survey_bundle.mesh_names(survey), [p.sha256 for p in survey.photos]
            meshes = {n: b for n in names[0] if (b := files.find(connection, "mesh", n))}
            photos = {n: b for n in names[1] if (b := files.find(connection, "photo", n))}
            data = survey_bundle.write_bundle(survey, meshes, photos)
    headers = {"Content-Disposition": f'attachment; filename="job-{job_id}-underbody.{kind}"'}
    return Response(data, mimetype=media, headers=headers)


@room.post("/table")
def table(job_id: int) -> ResponseReturnValue:
    """Read a table: all good, it is taken; with bad lines, they are shown and the rest is offered."""
    said = FormState()
    more: dict[str, Any] = {}
    sent = _upload("file")
    try:
        text = sent.decode("utf-8-sig") if sent else request.form.get("table", "")
    except UnicodeDecodeError:
        text, said.errors = "", {"table": "this is not a text table in UTF-8"}
    replace = request.form.get("put") == "replace"
    take_good = request.form.get("take") == "good"

    def keep(connection: Connection, here: AtHand) -> None:
        if said.errors:
            raise EditError(said.errors["table"], "table")
        if not text.strip():
            raise EditError("choose a file, or write the table here", "table")
        try:
            found = survey_csv.read_table(text, typing_unit(), here.design.survey)
        except InputError as exc:
            raise EditError(str(exc), "table") from exc
        more.update(bad=found.bad, good=found.good, table=text)
        if found.bad and not take_good:
            bad = "line" if len(found.bad) == 1 else "lines"
            raise EditError(f"{len(found.bad)} {bad} cannot be read; {found.good} can: put them right, or take those")
        survey = with_table(here.design.survey, found, replace=replace)
        keep_survey(connection, here, Survey.model_validate(survey.model_dump()), f"{found.good} lines from a table")
        said.note = f"{found.good} lines taken."
        more.clear()

    def again(here: AtHand, what: FormState, code: int) -> ResponseReturnValue:
        return _render(here, what, code, **({"table": text} | more if code != 200 else {}))

    return run_edit(job_id, said, keep, again, lambda: url_for("underbody.show", job_id=job_id))


def with_table(survey: Survey, found: survey_csv.Table, *, replace: bool) -> Survey:
    """The survey with a table's lines put in: in place of all, or beside what is there (same id: changed)."""
    update: dict[str, Any] = {}
    for place in ("things", "marks", "hang_points", "old_parts"):
        new = getattr(found, place)
        old = () if replace else getattr(survey, place)
        fresh = {i.id: i for i in new}
        update[place] = (*(fresh.pop(i.id, i) for i in old), *(i for i in new if i.id in fresh))
    for place in ("low_line", "lowered_line", "rails"):
        if getattr(found, place) is not None:
            update[place] = getattr(found, place)
    kept = {t.id for t in update["things"]}
    windows = tuple(w if w.through is None or w.through in kept else w.replace(through=None) for w in survey.windows)
    return survey.replace(**(update | {"windows": windows}))


@room.post("/survey")
def survey(job_id: int) -> ResponseReturnValue:
    """Bring in a whole survey, JSON or bundle, in place of what is here; undo brings that back."""
    said = FormState()
    sent = _upload("file")

    def keep(connection: Connection, here: AtHand) -> None:
        if not sent:
            raise EditError("choose a survey to bring in", "survey")
        try:
            bundle = survey_bundle.read_survey(sent)
        except DesignError as exc:
            raise EditError(str(exc), "survey") from exc
        for content in bundle.meshes.values():
            files.keep(connection, "mesh", content)
        for content in bundle.photos.values():
            files.keep(connection, "photo", content)
        keep_survey(connection, here, bundle.survey, "brought in a survey")
        lacking = [n for n in bundle.lacking if not _is_here(connection, n)]
        said.note = "The survey is in." + (
            f" {len(lacking)} of its scans or pictures did not come with it: bring the bundle to have them too."
            if lacking
            else ""
        )

    return run_edit(job_id, said, keep, _render, lambda: url_for("underbody.show", job_id=job_id))


def _is_here(connection: Connection, name: str) -> bool:
    return any(files.find(connection, kind, name) is not None for kind in ("mesh", "photo"))


# --- scans ----------------------------------------------------------------------------------------------------------


@room.post("/scan")
def scan(job_id: int) -> ResponseReturnValue:
    """Read a scan and show it before it is taken."""
    said = FormState()
    seen: dict[str, Any] = {}

    def look(connection: Connection, here: AtHand) -> None:
        sent = _upload("file")
        files.forget_uploads(connection)
        if not sent:
            raise EditError("choose a scan: STL, PLY or OBJ", "scan")
        try:
            corners = read_mesh(sent)
        except InputError as exc:
            raise EditError(str(exc), "scan") from exc
        name = files.keep(connection, "upload", np.ascontiguousarray(corners, dtype="<f4").tobytes())
        seen.update(name=name, axes=_guessed(corners), title=_title())

    return run_edit(job_id, said, look, partial(_scan_page, seen=seen), lambda: url_for(".show", job_id=job_id))


def _title() -> str:
    sent = request.files.get("file")
    return (sent.filename or "").rpartition("/")[2].rpartition(".")[0][:60] if sent else ""


def _guessed(corners: np.ndarray) -> Axes:
    """The unit that makes the scan a size that fits under a vehicle."""
    size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    return Axes(next((u for u, mm in mesh_files.UNITS.items() if 60.0 <= size * mm <= 6000.0), "mm"))


def _scan_page(here: AtHand, said: FormState, code: int, *, seen: dict[str, Any]) -> ResponseReturnValue:
    """The scan as it would lie, from below, from the left and from behind, with its size; unit and axes to choose."""
    if not seen:
        return _render(here, said, code)
    with transaction() as connection:
        raw = files.find(connection, "upload", seen["name"])
    if raw is None:
        said.errors = said.errors or {"scan": "that scan was looked at more than a day ago: bring it in again"}
        return _render(here, said, 422)
    axes: Axes = seen["axes"]
    try:
        placed = on_vehicle(corners_of(raw), axes)
    except InputError as exc:
        said.errors, placed, code = {"rear": str(exc)}, on_vehicle(corners_of(raw), Axes(axes.unit)), 422
    size = np.ptp(placed.reshape(-1, 3), axis=0)
    few = thinned(placed, PREVIEW_CELLS)
    views = [
        (name, _view(few, pair))
        for name, pair in (("from below", (0, 1)), ("from the left", (0, 2)), ("from behind", (1, 2)))
    ]
    shown = {
        **seen,
        "unit": axes.unit,
        "up": axes.up,
        "rear": axes.rear,
        "triangles": len(placed),
        "views": views,
        "closed": is_closed(placed),
        "size": [format_length(float(v), g.unit, 0) for v in size],
    }
    return _render(here, said, code, scan=shown)


def _view(corners: np.ndarray, axes: tuple[int, int]) -> str:
    """One view as an SVG path in a box of 200 by 140."""
    flat = corners.reshape(-1, 3)[:, axes]
    low, size = flat.min(axis=0), np.maximum(np.ptp(flat, axis=0), 1e-6)
    scale = min(190 / size[0], 130 / size[1])
    d = []
    for outline in shadow(corners, axes)[:40]:
        x = 100 + (outline[:, 0] - low[0] - size[0] / 2) * scale
        y = 70 + (outline[:, 1] - low[1] - size[1] / 2) * scale * (1.0 if axes == (0, 1) else -1.0)
        d.append("M" + "L".join(f"{a:.1f},{b:.1f}" for a, b in zip(x, y, strict=True)) + "Z")
    return "".join(d)


@room.post("/take-scan")
def take_scan(job_id: int) -> ResponseReturnValue:
    """Turn the scan again, or take it as a thing."""
    said = FormState()
    form = request.form
    axes = Axes(form.get("unit", "mm"), form.get("up", "+z"), form.get("rear", "+x"))
    seen: dict[str, Any] = {"name": form.get("scan", ""), "axes": axes, "title": form.get("name", "")}

    def keep(connection: Connection, here: AtHand) -> None:
        if form.get("take") != "yes":
            return
        raw = files.find(connection, "upload", form.get("scan", ""))
        if raw is None:
            raise EditError("that scan was looked at more than a day ago: bring it in again", "scan")
        try:
            kept = as_kept(on_vehicle(corners_of(raw), axes))
        except InputError as exc:
            raise EditError(str(exc), "rear") from exc
        thing = _scanned(here, kept)
        files.keep(connection, "mesh", kept)
        changed = here.design.survey.replace(things=(*here.design.survey.things, thing))
        keep_survey(connection, here, Survey.model_validate(changed.model_dump()), f"scan of {thing.name}")
        said.note = f"{thing.name} is in: choose it under Things to set it down where it belongs."
        seen.clear()

    return run_edit(
        job_id, said, keep, partial(_scan_page, seen=seen), lambda: url_for("underbody.show", job_id=job_id)
    )


def _scanned(here: AtHand, kept: bytes) -> Thing:
    """The thing a scan becomes."""
    name = request.form.get("name", "").strip()[:80]
    if not name:
        raise EditError("what is it a scan of?", "name")
    mesh = indexed(kept)
    corners = corners_of(kept).reshape(-1, 3)
    low, high = ((Length(float(v)) for v in end) for end in (corners.min(axis=0), corners.max(axis=0)))
    shape = MeshShape(
        sha256=hashlib.sha256(kept).hexdigest(),
        low=tuple(low),
        high=tuple(high),
        triangles=len(mesh.rows),
        closed=mesh.closed,
    )
    taken = {t.id for t in here.design.survey.things}
    moves, nature = request.form.get("moves_with", "body"), request.form.get("nature", "hard")
    known = {g_.id for g_ in here.design.survey.groups}
    return Thing(
        id=next(f"t{n}" for n in range(1, 1000) if f"t{n}" not in taken),
        name=name,
        shape=shape,
        nature=nature if nature in NATURES else "hard",
        moves_with=moves if moves in known else "body",
        heat_shy_what="other" if nature == "heat-shy" else "",
        plus_minus_mm=Length(2.0),
        how_measured="scan",
    )


# --- pictures -------------------------------------------------------------------------------------------------------


@room.post("/photo")
def photo(job_id: int) -> ResponseReturnValue:
    """Keep a picture, re-encoded, and say what it is of."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        try:
            picture = read_photo(_upload("file"))
        except InputError as exc:
            raise EditError(str(exc), "photo") from exc
        survey_ = here.design.survey
        if any(p.sha256 == picture.sha256 for p in survey_.photos):
            raise EditError("this picture is here already", "photo")
        files.keep(connection, "photo", picture.jpeg)
        caption = request.form.get("caption", "").strip()[:80]
        new = Photo(sha256=picture.sha256, of=request.form.get("of", "")[:40], caption=caption)
        changed = survey_.replace(photos=(*survey_.photos, new))
        keep_survey(connection, here, Survey.model_validate(changed.model_dump()), "a picture")
        said.note = "The picture is kept, without where it was taken."

    return run_edit(job_id, said, keep, _check_page, lambda: url_for("underbody.show", job_id=job_id, sheet="check"))


@room.post("/photo/take-out")
def photo_out(job_id: int) -> ResponseReturnValue:
    def keep(connection: Connection, here: AtHand) -> None:
        name = request.form.get("photo", "")
        left = tuple(p for p in here.design.survey.photos if p.sha256 != name)
        if len(left) == len(here.design.survey.photos):
            raise EditError("that picture is no longer here", "photo")
        changed = here.design.survey.replace(photos=left)
        keep_survey(connection, here, changed, "took out a picture")

    return run_edit(
        job_id, FormState(), keep, _check_page, lambda: url_for("underbody.show", job_id=job_id, sheet="check")
    )


def _check_page(here: AtHand, said: FormState, code: int) -> ResponseReturnValue:
    from .things import render_sheet

    return render_sheet(here, said, code, sheet="check")


@room.get("/photo/<sha256>.jpg")
def photo_shown(job_id: int, sha256: str) -> Response:
    """A picture of this job's survey."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        known = any(p.sha256 == sha256 for p in here.design.survey.photos)
        content = files.find(connection, "photo", sha256) if known else None
    if content is None:
        raise MissingError("that picture is not here")
    return Response(content, mimetype="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})
