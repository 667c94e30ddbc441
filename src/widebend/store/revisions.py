"""Appending, undoing and redoing revisions of a survey or a design.

An edit names the revision it was made on. If others came since and not all from the same open page, it is refused
with what came first (`StaleEdit`). Undo and redo append too: a revision carries the one undo goes back to and the
one redo goes forward to.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import MissingError, WideBendError
from .database import Connection, queries


@dataclass(frozen=True)
class Revision:
    """One revision as stored; what it holds is asked for (`content_of`) by who has not kept it."""

    document_id: int
    number: int
    checked_against: int | None
    why: str
    author: str
    tab: str
    back: int | None
    forward: int | None
    made_at: datetime


@dataclass(frozen=True)
class Later:
    """A revision that came after the one an edit was made on."""

    number: int
    why: str
    author: str
    tab: str
    made_at: datetime


class StaleEdit(WideBendError):
    """The edit was made on a revision that is no longer the newest."""

    def __init__(self, base: int, later: list[Later]) -> None:
        super().__init__(f"made on revision {base}, but {later[-1].number} is the newest")
        self.base = base
        self.later = later


def last_unfitted(connection: Connection, document_id: int) -> dict[str, Any] | None:
    """A design as it was before anything of it went on the vehicle; None where there is no such revision."""
    row = queries.last_unfitted(connection, document_id=document_id)
    return dict(row["content"]) if row else None


def since(connection: Connection, document_id: int, number: int) -> list[Later]:
    """Return the revisions after one, oldest first."""
    return [Later(**row) for row in queries.since(connection, document_id=document_id, number=number)]


def newest(connection: Connection, document_id: int) -> Revision:
    """The newest revision of a document. Raises MissingError for one that does not exist."""
    row = queries.newest(connection, document_id=document_id)
    if row is None:
        raise MissingError(f"document {document_id} has no revision")
    return Revision(**row)


def newest_of_each(connection: Connection, *documents: int) -> list[Revision]:
    """The newest revision of each of some documents, in their order. Raises MissingError."""
    rows = {row["document_id"]: row for row in queries.newest_of_each(connection, documents=list(documents))}
    for document in documents:
        if document not in rows:
            raise MissingError(f"document {document} has no revision")
    return [Revision(**rows[document]) for document in documents]


def numbered(connection: Connection, document_id: int, number: int) -> Revision | None:
    """One revision of a document; None where there is none of that number."""
    row = queries.revision(connection, document_id=document_id, number=number)
    return Revision(**row) if row else None


def content_of(connection: Connection, document_id: int, number: int) -> dict[str, Any]:
    """Return the content of a revision."""
    found: dict[str, Any] = queries.content(connection, document_id=document_id, number=number)
    return found


def first(connection: Connection, document_id: int, content: dict[str, Any], why: str) -> None:
    """The first revision of a new document."""
    _append(connection, document_id, 1, content, why, "", None, None, None)


def append(
    connection: Connection,
    document_id: int,
    base: int,
    content: dict[str, Any],
    why: str,
    tab: str = "",
    checked_against: int | None = None,
    author: str = "",
) -> Revision:
    """Append an edit made on revision `base`; what is newest then. Raises StaleEdit."""
    current = _guarded(connection, document_id, base, tab)
    number = current.number + 1
    return _append(connection, document_id, number, content, why, tab, checked_against, current.number, None, author)


def undo(connection: Connection, document_id: int, base: int, tab: str = "", author: str = "") -> Revision:
    """Append the content before the last edit. Raises StaleEdit, or MissingError when there is nothing to undo."""
    current = _guarded(connection, document_id, base, tab)
    if current.back is None:
        raise MissingError("nothing to undo")
    target = Revision(**queries.revision(connection, document_id=document_id, number=current.back))
    number = current.number + 1
    why = f"undo: {current.why}"[:300]
    content = content_of(connection, document_id, target.number)
    return _append(connection, document_id, number, content, why, tab, None, target.back, current.number, author)


def redo(connection: Connection, document_id: int, base: int, tab: str = "", author: str = "") -> Revision:
    """Append what was undone last. Raises StaleEdit, or MissingError when there is nothing to redo."""
    current = _guarded(connection, document_id, base, tab)
    if current.forward is None:
        raise MissingError("nothing to redo")
    target = Revision(**queries.revision(connection, document_id=document_id, number=current.forward))
    number = current.number + 1
    why = f"redo: {target.why}"[:300]
    content = content_of(connection, document_id, target.number)
    return _append(connection, document_id, number, content, why, tab, None, current.number, target.forward, author)


def _guarded(connection: Connection, document_id: int, base: int, tab: str) -> Revision:
    """The newest revision, held against others; StaleEdit when someone else came first."""
    if queries.lock_document(connection, document_id=document_id) is None:
        raise MissingError(f"there is no document {document_id}")
    current = newest(connection, document_id)
    if current.number != base:
        later = since(connection, document_id, base)
        # a burst of presses on one page may overtake its own answers: that is not a conflict
        if not later or not tab or any(one.tab != tab for one in later):
            raise StaleEdit(base, later or [Later(current.number, current.why, "", "", current.made_at)])
    return current


def _append(
    connection: Connection,
    document_id: int,
    number: int,
    content: dict[str, Any],
    why: str,
    tab: str,
    checked_against: int | None,
    back: int | None,
    forward: int | None,
    author: str = "",
) -> Revision:
    row = queries.append(
        connection,
        document_id=document_id,
        number=number,
        content=Jsonb(content),
        checked_against=checked_against,
        why=why[:300],
        author=author[:80],
        tab=tab[:64],
        back=back,
        forward=forward,
    )
    return Revision(**row)
