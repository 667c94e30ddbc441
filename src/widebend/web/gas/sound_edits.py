"""Edits of the sound sheet: a branch taken, a test written down or struck, the shop's limits."""

from __future__ import annotations

from typing import get_args

from flask import Blueprint, redirect, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.records import Design, Equipment, SoundLimit, SoundReading, SoundTest
from ...core.sound import free_id, noted, struck
from ...store import jobs
from ..page.at_hand import AtHand, transaction
from ..page.edits import Faults
from ..page.figures import typing_unit, whole
from ..page.people import who_is_here
from ..page.reader import Reader
from ..page.refusals import refusal
from .sound import levels_of, render, taken_branch
from .sound_log import now_words
from .state import asked, edited

room = Blueprint("sound_edits", __name__, url_prefix="/jobs/<int:job_id>/layout/sound")

MOST_READINGS = 12


@room.post("/branch")
def branch(job_id: int) -> ResponseReturnValue:
    """Put a closed branch under the vehicle."""

    def change(here: AtHand, _: Reader) -> tuple[Design, str]:
        fit = taken_branch(
            here, asked(here, "cruise"), whole(request.form.get("drone")), whole(request.form.get("mend"))
        )
        return fit.design, "put a closed branch on"

    return edited(job_id, "sound", render, change)


@room.post("/test")
def test(job_id: int) -> ResponseReturnValue:
    """Write a test down."""

    def change(here: AtHand, reader: Reader) -> tuple[Design, str]:
        numbers, tools = _numbers(reader)
        rpm = reader.number("rpm", 200, 20_000)
        kind = reader.choice("test", get_args(SoundTest), "stationary")
        around = reader.number("around", 20, 150) if reader.given("around") else None
        fitted = reader.words("fitted")
        reader.finish()
        levels = levels_of(here, asked(here, "cruise"))
        told = None if levels is None else min(150.0, max(20.0, levels.level_at(rpm)))
        reading = SoundReading.model_validate(
            {
                "id": free_id(here.design),
                "fitted": fitted,
                "test": kind,
                "rpm": rpm,
                "readings": tuple(numbers),
                "around_db": around,
                "reckoned_db": told,
                "taken_with": tools,
                "by": who_is_here(),
                "when": now_words(),
            }
        )
        return noted(here.design, reading), f"wrote down {fitted or 'a test'}, {kind}"

    return edited(job_id, "sound", render, change)


def _numbers(reader: Reader) -> tuple[list[float], str]:
    """The readings of a test, as typed or taken, and what took them."""
    numbers, tools = [], set()
    for n in range(1, MOST_READINGS + 1):
        key = f"level{n}"
        if reader.given(key):
            numbers.append(reader.number(key, 20, 150))
            typed, _, tool = request.form.get(f"taken-{key}", "").partition("|")
            if tool and typed == request.form.get(key):
                tools.add(tool[:40])
    if not numbers:
        reader.errors["level1"] = "what the meter showed, in dB(A): three readings, one after the other"
    return numbers, ", ".join(sorted(tools))


@room.post("/strike")
def delete_reading(job_id: int) -> ResponseReturnValue:
    """Strike a test."""
    gone = request.form.get("id", "")
    return edited(job_id, "sound", render, lambda here, _: (struck(here.design, gone), "struck a test"))


@room.post("/limit")
def limit(job_id: int) -> ResponseReturnValue:
    """One of the shop's limits, or one fewer."""
    reader = Reader(request.form, typing_unit())
    gone = request.form.get("gone", "")
    with transaction() as connection:
        able = jobs.equipment(connection, hold=True)
        if gone:
            left = tuple(one for n, one in enumerate(able.sound_limits, 1) if n != whole(gone))
        else:
            place, written = reader.words("place"), reader.words("written")
            db_a = reader.number("db_a", 20, 150)
            kind = reader.choice("limit_test", get_args(SoundTest), "stationary")
            if not place:
                reader.errors["place"] = "where does it hold?"
            try:
                reader.finish()
            except Faults as faults:
                return refusal(422, "Not kept", f"{next(iter(faults.errors.values()))}. Go back: nothing is lost.")
            new = SoundLimit.model_validate({"place": place, "test": kind, "db_a": db_a, "written": written})
            left = (*able.sound_limits, new)
        if len(left) > 40:
            raise EditError("forty limits are enough: take one out first")
        jobs.set_equipment(connection, Equipment.model_validate(able.model_dump() | {"sound_limits": left}))
    return redirect(url_for("sound.show", job_id=job_id), 303)
