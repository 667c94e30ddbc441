"""Meshes and pictures: kept once, under the hash of their content."""

from __future__ import annotations

import hashlib
from typing import Literal

from ..core import mesh
from ..core.records import Survey
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


def remember_meshes(connection: Connection, survey: Survey) -> None:
    """See to it that this process knows the meshes of a survey; one that is not kept here stays unknown."""
    for name in mesh_names(survey):
        if mesh.recall(name) is None:
            content = find(connection, "mesh", name)
            if content is not None:
                mesh.remember(content)
