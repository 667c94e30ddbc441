"""Putting a finished system in: sections in their order, joints loose until all hang, tightened from the front back in
passes, then tried for leaks, run hot, tightened again, shaken.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..records import Design
from ..welding import FRICTION, torque_nm
from .joints import WeldJoint

FIRST_PASS = 0.5  # of the torque: common practice
SENSOR_NM = (40.0, 60.0)  # M18 x 1.5: vehicle service practice, from memory
LEAK_HPA = (20.0, 50.0)  # air by a bung in the tip: common practice, no source
HOT_MIN = 15  # running until all of it is hot: common practice
BY_HAND = "every fastener started by hand, three turns; in aluminium never with a gun; left loose"
BOLTED = ("half its torque, crosswise", "full torque, crosswise, until nothing moves")
CLAMPED = ("snug", "to its maker's torque")
MOVED_BACK = "back, torque and lock as its maker says, checked by who may"
GASKETS = (
    ("flat, plate 10 mm or more", "layered steel and graphite"),
    ("flat, thinner plate or bowed", "thick fibre or graphite; plate straightened first"),
    ("cone or ring", "its own ring, new: it is crushed once"),
    ("V-band with a lip", "none, or the crush ring of its maker"),
)


Named = tuple[str, str]  # what lasts of a thing when others come and go, and its name


@dataclass(frozen=True)
class RefitStep:
    """A step of the card: its key, under which head, what is done; what is written down beside its tick, if anything,
    and in what; whether a thread is chosen for it.
    """

    key: str
    head: str
    words: str
    asks: str = ""
    unit: str = ""
    thread: bool = False


MEASURED = {"N m": 500.0, "hPa": 2000.0, "min": 600.0}  # units whose reading is a figure, and more than any can be


def reading_fault(step: RefitStep, reading: str) -> str:
    """Return the fault of an entry beside a step; empty where nothing is. A torque is a figure over
    nothing.
    >>> step = RefitStep("pass1-r1-1", "then full", "tighten", "torque", "N m") >>> reading_fault(step, "25, twice"),
    reading_fault(step, "-20") != "" ('', True)
    """
    if step.unit not in MEASURED or not reading:
        return ""
    figure = re.match(r"[-−]?\d+(?:[.,]\d+)?", reading)
    value = float(figure[0].replace(",", ".").replace("−", "-")) if figure else 0.0
    if 0.0 < value <= MEASURED[step.unit]:
        return ""
    return f"{step.asks}: a figure over 0 in {step.unit}, like 22, not “{reading}”"


def refit_steps(
    design: Design,
    joints: Sequence[WeldJoint],
    sections_in: Sequence[Named],
    hangers: Sequence[Named],
    moved: Sequence[Named],
) -> list[RefitStep]:
    """The card's steps; `sections_in` are the sections by name in the order they go in, `hangers` and the parts `moved`
    to get in by name.
    """
    apart = [joint for joint in joints if joint.comes_apart]
    return [
        *(RefitStep(f"in-{k}", "in", f"{name} in, on a jack or a prop") for k, name in sections_in),
        *_joints_by_hand(apart),
        *(
            RefitStep(f"hang-{k}", "hang", f"{name} on its rubber; the jack stays until every rubber carries")
            for k, name in hangers
        ),
        *_tightened(apart),
        *_sensors(design),
        *(
            RefitStep(f"moved-{k}", "before it moves", f"{name}: {MOVED_BACK}", "checked by", "name")
            for k, name in moved
        ),
        *_tried(),
    ]


def _said(joint: WeldJoint) -> str:
    ahead, behind = (side.name for side in joint.sides)
    if joint.ahead is None:
        return f"{joint.kind} at the start, on the {ahead}"
    if joint.behind is None:
        return f"{joint.kind} at the finish, on the {behind}"
    return f"{joint.kind} ahead of piece {joint.behind + 1}"


def _joints_by_hand(apart: Sequence[WeldJoint]) -> Iterator[RefitStep]:
    for joint in apart:
        at = _said(joint)
        if joint.kind == "flange":
            yield RefitStep(f"gasket-{joint.key}", "in", f"{at}: new gasket, faces clean and flat", "gasket and face")
            yield RefitStep(f"start-{joint.key}", "in", f"{at}: {BY_HAND}", "chased or re-tapped", "thread")
        elif joint.kind == "slip":
            yield RefitStep(f"start-{joint.key}", "in", f"{at}: pushed in to its mark, clamp loose")
        else:
            yield RefitStep(f"start-{joint.key}", "in", f"{at}: seated all round by hand, nut started, left loose")


def _tightened(apart: Sequence[WeldJoint]) -> Iterator[RefitStep]:
    for number, head in ((1, "tighten from the front back, first pass"), (2, "then full")):
        for joint in apart:
            bolted = joint.kind == "flange"
            how = BOLTED[number - 1] if bolted else CLAMPED[number - 1]
            yield RefitStep(f"pass{number}-{joint.key}", head, f"{_said(joint)}: {how}", "torque", "N m", bolted)


def _sensors(design: Design) -> Iterator[RefitStep]:
    low, high = SENSOR_NM
    how = f"by hand first, then {low:.0f} to {high:.0f} N m for M18 × 1.5 unless its maker says otherwise; wire clear"
    for boss in (a for a in design.attachments if a.kind == "boss"):
        yield RefitStep(f"sensor-{boss.id}", "then full", f"{boss.name or 'sensor'}: {how}", "torque", "N m")


def _tried() -> Iterator[RefitStep]:
    low, high = LEAK_HPA
    leak = f"cold, tip bunged: {low:.0f} to {high:.0f} hPa of air, smoke or soap at every joint and weld"
    hot = f"started outdoors or with extraction, {HOT_MIN} minutes until all of it is hot; watched for smoke and smell"
    again = "cold again: every fastener once more, from the front back"
    shaken = "shaken and struck by hand along its length, engine rocked: nothing knocks; gaps as drawn"
    yield RefitStep("leak", "try it", leak, "pressure", "hPa")
    yield RefitStep("heat", "try it", hot, "ran for", "min")
    yield RefitStep("again", "try it", again, "moved")
    yield RefitStep("rattle", "try it", shaken, "nearest gap", "mm")


def torques(thread_mm: int) -> tuple[float, float]:
    """The torque of the first pass and of the full one for a thread, class 8.8, cold and dry [N m]. Raises
    InputError.
    """
    full = torque_nm(thread_mm, FRICTION)
    return FIRST_PASS * full, full
