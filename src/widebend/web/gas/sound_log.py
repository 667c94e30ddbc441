"""The sound log: tests as heard, against the shop's limits and what was calculated; where the meter stands."""

from __future__ import annotations

import statistics
from datetime import datetime
from typing import Any, get_args

from flask import g

from ...core.records import SoundTest
from ...core.sound import AS_BUILT, STATIONARY, BySpeed, Judged, forecast, judged, off_by, over, stationary_rpm
from ...core.units import format_length
from ...store import jobs
from ..page.at_hand import AtHand, at_hand, transaction

FITTED = ("as it came", "bare", "with resonator", "with muffler", "with insert", AS_BUILT)
MOST_JOBS = 40


def now_words() -> str:
    return f"{datetime.now().astimezone():%Y-%m-%d %H:%M}"


def log_context(here: AtHand, levels: BySpeed | None) -> dict[str, Any]:
    """Everything the log shows."""
    with transaction() as connection:
        limits = jobs.equipment(connection).sound_limits
        known = [
            at_hand(connection, one).design
            for one in jobs.with_something_heard(connection, MOST_JOBS)
            if one != here.job.id
        ]
    design = here.design
    engine = design.settings.engine
    found = [judged(r) for r in design.sounds]
    own = off_by(design.sounds)
    off = own or off_by([s for other in known for s in other.sounds])
    asked = stationary_rpm(engine.rated_rpm) if engine else None
    return {
        "log": [_row(one, levels, limits) for one in found],
        "limits": limits,
        "tests": list(get_args(SoundTest)),
        "fitted_usual": FITTED,
        "stationary": STATIONARY,
        "test_rpm": asked,
        "correction": (statistics.fmean(off), len(off), bool(own)) if off else None,
        "predicted": forecast(levels.level_at(asked), off) if levels is not None and asked is not None else None,
        "outlets": _outlets(here),
    }


def _row(one: Judged, levels: BySpeed | None, limits: Any) -> dict[str, Any]:
    reading = one.reading
    outside = reading.test != "cruise in the cabin"
    return {
        "id": reading.id,
        "fitted": reading.fitted,
        "test": reading.test,
        "rpm": reading.rpm,
        "db": one.db_a,
        "readings": reading.readings,
        "faults": one.faults,
        "with": reading.taken_with,
        "by": reading.by,
        "when": reading.when,
        "over": [(limit, by) for limit, by in over(one, limits)],
        "predicted": levels.level_at(reading.rpm) if levels is not None and outside else None,
    }


def _outlets(here: AtHand) -> list[dict[str, Any]]:
    """Where the meter stands at each outlet: as high as the outlet, no lower than the standard has it."""
    out = []
    for part, _ in here.system.parts:
        if part.item.kind != "tip":
            continue
        for port in (p for p in here.system.ports if p.part.id == part.id and p.port.role == "out"):
            high = float(port.pose.point[2])
            stands = format_length(max(high, STATIONARY.least_high_mm), g.unit, 0)
            out.append({"name": part.name or "tip", "high": format_length(high, g.unit, 0), "stands": stands})
    return out
