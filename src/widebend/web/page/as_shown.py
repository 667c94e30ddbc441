"""Forms of records without revisions: each carries a stamp of what its page showed, and an edit of what another person
changed meanwhile is refused once, with both shown.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping

from flask import request

from .edits import Faults

FIELD = "as_shown"


def stamp(values: Mapping[str, str]) -> str:
    """A short text that is the same for the same values: a form carries it in its hidden field `as_shown`."""
    return hashlib.sha256(json.dumps(dict(values), sort_keys=True).encode()).hexdigest()[:16]


def refuse_overtaken(now: Mapping[str, str]) -> None:
    """Raise Faults, by the field, where others changed what the form was shown for and what is typed would undo it. The
    page that says so carries the new stamp, so that the same form sent again is kept.
    """
    shown = request.form.get(FIELD)
    if shown is None or shown == stamp(now):
        return
    theirs = {key: value for key, value in now.items() if key in request.form and request.form[key].strip() != value}
    if theirs:
        raise Faults(
            {
                key: f"someone else set this to “{value}” meanwhile: press again to keep yours"
                for key, value in theirs.items()
            }
        )
