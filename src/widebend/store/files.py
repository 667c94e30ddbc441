"""Meshes and pictures: kept once, under the hash of their content."""

from __future__ import annotations

import hashlib
from typing import Literal
from weakref import WeakValueDictionary

from ..core.errors import InputError
from ..core.geometry import indexed
from ..core.records import Survey
from ..core.space import TriangleMesh
from ..formats.survey_bundle import mesh_names
from .database import Connection, queries

Kind = Literal["mesh", "upload", "photo"]


def keep(connection: Connection, kind: Kind, content: bytes) -> str:
    """Keep bytes; their hash."""
    name = hashlib.sha256(content).hexdigest()
    queries.keep_file(connection, sha256=name, kind=kind, content=content)
    return name


def find(connection: Connection, kind: Kind, sha256: str) -> bytes | None:
    """A file's bytes, or None."""
    row = queries.file(connection, sha256=sha256, kind=kind)
    return bytes(row["content"]) if row else None


def forget_uploads(connection: Connection) -> None:
    """Drop meshes that were looked at and not taken."""
    queries.forget_uploads(connection)


def with_meshes(connection: Connection, survey: Survey) -> Survey:
    """A survey holding its meshes; one that is not kept here is lacking, which a review says."""
    found = {name: mesh for name in mesh_names(survey) if (mesh := _mesh(connection, name)) is not None}
    return survey.with_meshes(found)


# Only speed hangs on these: a mesh that nothing holds any more is read and indexed again.
_indexed: WeakValueDictionary[str, TriangleMesh] = WeakValueDictionary()


def _mesh(connection: Connection, name: str) -> TriangleMesh | None:
    known = _indexed.get(name)
    if known is not None or (content := find(connection, "mesh", name)) is None:
        return known
    try:
        known = _indexed[name] = indexed(content)
    except InputError:  # kept by an older program that looked less closely: as good as not here
        return None
    return known
