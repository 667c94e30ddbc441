"""The system in space: what the viewer draws, and files other programs read."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from typing import Any

import numpy as np
from flask import Blueprint, Response, abort, jsonify, request
from flask.typing import ResponseReturnValue

from ...core.geometry import motion_of
from ...core.laying import VIEWS, Surface, opened, positions, system_surfaces, thing_surface
from ...core.records import MeshShape, Thing
from ...core.space import TriangleMesh
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from .sheets import render_sheet

room = Blueprint("model", __name__, url_prefix="/jobs/<int:job_id>/layout/model")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    moves = [m["name"] for m in _moves(here)]
    return render_sheet(here, FormState(), 200, "model.show", "layout/_sheet_in_space.html", moves=moves)


def _surfaces(here: AtHand, what: str) -> Iterator[Surface]:
    if what in ("system", "both"):
        yield from system_surfaces(here.system, here.found.moves.pieces, here.found.moves.parts)
    if what in ("underbody", "both"):
        for thing in here.design.survey.things:
            shape, _ = opened(thing, here.design.survey)
            surface = thing_surface(thing, shape, _mesh_of(here, thing))
            if surface and thing.state in VIEWS["coming"]:
                yield surface


def _mesh_of(here: AtHand, thing: Thing) -> TriangleMesh | None:
    return here.design.survey.mesh(thing.shape.sha256) if isinstance(thing.shape, MeshShape) else None


@room.get("/bodies.json")
def bodies(job_id: int) -> Response:
    """Every body as base64 little-endian float32 corners and uint32 triangles, and the positions they move to."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    out = [
        {
            "name": s.name,
            "kind": s.kind,
            "group": _group(s),
            "corners": _packed(s.corners, "<f4"),
            "faces": _packed(s.faces, "<u4"),
        }
        for s in _surfaces(here, "both")
    ]
    low = here.design.survey.low_line
    return jsonify({"bodies": out, "moves": _moves(here), "low": float(low.d) if low else None})


def _packed(values: np.ndarray, kind: str) -> str:
    return base64.b64encode(values.astype(kind).tobytes()).decode()


def _group(surface: Surface) -> str:
    return f"pipe {surface.group}" if surface.kind in ("pipe", "part") else surface.group


def _moves(here: AtHand) -> list[dict[str, Any]]:
    """Each position something moves to: a name, and by group its matrix by columns (4 x 4)."""
    out = []
    for group in here.design.survey.groups:
        for state in positions(group, here.design.survey):
            turn, shift = motion_of(state)
            out.append(
                {"name": f"{group.name or group.id}: {state.name}", "matrices": {group.id: _matrix(turn, shift)}}
            )
    pipe: dict[str, dict[str, list[float]]] = {}
    for mover, places in here.found.positions.items():
        if mover in here.found.moves.pieces.values():
            for p in places[1:]:
                pipe.setdefault(p.name, {})[f"pipe {mover}"] = _matrix(p.scale * p.turn, p.shift)
    return out + [{"name": f"pipe: {name}", "matrices": own} for name, own in pipe.items()]


def _matrix(turn: np.ndarray, shift: np.ndarray) -> list[float]:
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = turn, shift
    return [float(v) for v in matrix.T.ravel()]


@room.get("/<what>.<kind>")
def export(job_id: int, what: str, kind: str) -> Response:
    """The system, the underbody or both as glTF (binary) or STL."""
    from ...formats.model_files import write_glb, write_stl

    writers = {"glb": (write_glb, "model/gltf-binary"), "stl": (write_stl, "model/stl")}
    if what not in ("system", "underbody", "both") or kind not in writers:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
    surfaces = list(_surfaces(here, what))
    if not surfaces:
        abort(404)
    write, mimetype = writers[kind]
    disposition = "inline" if request.args.get("show") else f'attachment; filename="job-{job_id}-{what}.{kind}"'
    return Response(write(surfaces), mimetype=mimetype, headers={"Content-Disposition": disposition})
