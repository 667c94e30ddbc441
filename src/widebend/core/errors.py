"""Everything that can be wrong with what a person gave us.

WideBendError
├── InputError (ValueError)   one field cannot be read; says what was typed and what would be
├── MissingError (LookupError) what is asked for is not here (any more)
├── DesignError (ValueError)  a design document is refused; carries the place in the file
├── NewerBooksError           books were kept by a newer program than this one
└── EditError (ValueError)    an edit cannot be carried out on this design; says why and what would be possible
"""

from __future__ import annotations


class WideBendError(Exception):
    """Root of every error this program raises on purpose."""


class InputError(WideBendError, ValueError):
    """A typed value that cannot be read; `field` names where it was typed, or is empty."""

    def __init__(self, reason: str, field: str = "") -> None:
        super().__init__(reason)
        self.field = field


class MissingError(WideBendError, LookupError):
    """Raised where a thing is not here, or not any more."""


class NewerBooksError(WideBendError):
    """Books that a newer program has changed: this one would read them wrong."""

    def __init__(self, theirs: int, ours: int) -> None:
        super().__init__(
            f"these books were kept by a newer Wide Bend (step {theirs}; this one knows {ours}): start that one, or "
            "restore the backup that it made before it changed them. Nothing was touched"
        )


class DesignError(WideBendError, ValueError):
    """A design refused whole.

    `place` is the path inside the document, e.g. ``runs.0.pieces.3.angle_deg``.
    """

    def __init__(self, place: str, reason: str) -> None:
        super().__init__(f"{place}: {reason}" if place else reason)
        self.place = place
        self.reason = reason


class EditError(WideBendError, ValueError):
    """An edit that cannot be done; `field` names the control it belongs to, or is empty."""

    def __init__(self, reason: str, field: str = "") -> None:
        super().__init__(reason)
        self.reason = reason
        self.field = field
