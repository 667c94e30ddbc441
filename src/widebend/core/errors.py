"""Everything that can be wrong with what a person gave us.

WideBendError
├── InputError (ValueError)   one field cannot be read; says what was typed and what would be
├── MissingError (LookupError) what is asked for is not here (any more)
├── DesignError (ValueError)  a design document is refused; carries the place in the file
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
    """What is asked for is not here, or not any more."""


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
