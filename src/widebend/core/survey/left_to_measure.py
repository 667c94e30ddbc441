"""Checks before leaving the vehicle: what the survey itself shows, and what only a person can say."""

from __future__ import annotations

from dataclasses import dataclass

from ..records import AxleTravel, Survey
from .starters import GUESS


@dataclass(frozen=True)
class Item:
    """One line of the check-list. `shown` is what the survey shows for it, in words, or empty; `done` either way."""

    id: str
    words: str
    shown: str
    done: bool


def checklist(survey: Survey) -> tuple[Item, ...]:
    """The check-list of a survey, in the order of the walk under the vehicle. Common practice, no source."""
    asked = (
        ("covers", "Braces, covers and splash plates are fitted, or entered as removed", ""),
        ("suspension", "Both ends of the suspension's travel are thought of", _travel(survey)),
        ("low-line", "The low line is set", _low_line(survey)),
        ("lines", "Fuel and brake lines are found", _heat_shy(survey)),
        (
            "hang-points",
            "Hang points are found",
            _count(sum(h.how_measured != GUESS for h in survey.hang_points), "hang point"),
        ),
        ("pictures", "Pictures of the old system are taken", _count(len(survey.photos), "picture")),
        ("stance", "How the vehicle stands is written down", _stance(survey)),
    )
    return tuple(Item(i, words, shown, bool(shown) or i in survey.ticked) for i, words, shown in asked)


def _count(n: int, what: str) -> str:
    return f"{n} {what}{'s' if n != 1 else ''}" if n else ""


def _travel(survey: Survey) -> str:
    """Shown only when every axle that is there has both its ends."""
    axles = [g for g in survey.groups if "axle" in g.id]
    ends = [g for g in axles if isinstance(g.motion, AxleTravel) or {s.name for s in g.states} >= {"droop", "bump"}]
    return f"droop and bump of the {' and the '.join(g.name or g.id for g in ends)}" if ends and ends == axles else ""


def _low_line(survey: Survey) -> str:
    if survey.low_line is None:
        return ""
    return f"{float(survey.low_line.d):.0f} mm" + (", and one when lowered" if survey.lowered_line else "")


def _heat_shy(survey: Survey) -> str:
    kinds = {t.heat_shy_what for t in survey.things if t.nature == "heat-shy" and t.how_measured != GUESS}
    return "both are entered" if "brake hose" in kinds and kinds & {"fuel line", "fuel tank"} else ""


def _stance(survey: Survey) -> str:
    stance = survey.stance
    read = stance.rail_pitch_deg is not None or stance.front_rail_now_mm is not None
    return (
        f"on its {stance.on}, at {stance.suspension}"
        if read and stance.on == "wheels"
        else (f"on a lift, at {stance.suspension}" if read else "")
    )
