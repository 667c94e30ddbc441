"""The talk at the vehicle: what is wanted by its parts, rules that must hold, what was seen, the sign-off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError
from .database import Connection, queries

# what is asked beside the first words: key, words, hint, most letters
ASKED: tuple[tuple[str, str, str, int], ...] = (
    ("sound", "how it should sound", "deeper, no drone at speed, as quiet as it was", 300),
    ("look", "how it should look", "one tip on the right, nothing seen from behind", 300),
    ("bore", "bore", "as it is; one size up", 120),
    ("metal", "metal", "304, 409, mild", 120),
    ("budget", "what it may cost", "about 1500; not over 2000", 120),
    ("must_hold", "rules that must hold", "inspection next month, a class's noise limit", 600),
    ("sound_before", "sound as it came", "94 dB(A) at 3000, half a metre, 45°", 120),
)


@dataclass(frozen=True)
class Talk:
    """The intake: words, who signed it when; what was seen on the way round; by when it is promised."""

    said: Mapping[str, str]
    signed_name: str
    signed_at: datetime | None
    seen: list[dict[str, Any]]
    promised_on: date | None


def get(connection: Connection, job_id: int) -> Talk:
    row = queries.said(connection, job_id=job_id)
    said, name, at, on = (
        (row["said"], row["signed_name"], row["signed_at"], row["promised_on"]) if row else ({}, "", None, None)
    )
    return Talk(said, name, at, [dict(one) for one in queries.walk_round(connection, job_id=job_id)], on)


def shown(talk: Talk) -> dict[str, str]:
    """The intake as its form shows it."""
    day = talk.promised_on.isoformat() if talk.promised_on else ""
    return {key: talk.said.get(key, "") for key, *_ in ASKED} | {"promised_on": day}


def say(connection: Connection, job_id: int, given: Mapping[str, str], promised_on: date | None) -> None:
    """Keep what was said, by when it is promised; emissions parts found missing get the day they were found. Raises
    EditError.
    """
    row = queries.said(connection, job_id=job_id)
    said = {}
    for key, _, _, most in ASKED:
        text = given.get(key, "").strip()
        if len(text) > most:
            raise EditError(f"at most {most} letters", key)
        if text:
            said[key] = text
    was = dict(row["said"]) if row else {}
    if row and row["found_removed"]:
        same = was.get("found_removed") == row["found_removed"]
        said["found_removed"] = row["found_removed"]
        said["found_removed_on"] = was["found_removed_on"] if same else date.today().isoformat()
    queries.promise_day(connection, job_id=job_id, promised_on=promised_on)
    queries.set_said(connection, job_id=job_id, said=Jsonb(said))


def sign(connection: Connection, job_id: int, name: str) -> None:
    """The customer says by name that it is so. Raises EditError."""
    plain = " ".join(name.split())[:80]
    if not plain:
        raise EditError("the customer's name, as under a letter", "signed_name")
    queries.sign_intake(connection, job_id=job_id, name=plain)


def seen(
    connection: Connection,
    job_id: int,
    x: float,
    y: float,
    words: str,
    sha256: str | None,
    who: str,
    *,
    not_ours: bool,
) -> None:
    """Something was seen at a place of the drawing, as shares of its width and height. Raises EditError."""
    if not words.strip() and sha256 is None:
        raise EditError("say what it is, or take a picture of it", "seen_words")
    if len(words) > 300:
        raise EditError("at most 300 letters", "seen_words")
    x, y = (min(1.0, max(0.0, one)) for one in (x, y))
    queries.add_walk_round(
        connection, job_id=job_id, x=x, y=y, words=words.strip(), not_ours=not_ours, sha256=sha256, who=who
    )


def unseen(connection: Connection, job_id: int, mark_id: int) -> None:
    queries.drop_walk_round(connection, job_id=job_id, mark_id=mark_id)
