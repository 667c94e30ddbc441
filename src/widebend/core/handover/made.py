"""Return the fitted parts in lines a customer and the next mechanic can use."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from ...facts import JOINTS
from ..laying import LaidRun, System
from ..records import Bend, Design, InLine, SegmentedBend
from ..units import format_length


@dataclass(frozen=True)
class Fitted:
    """One line: what it is about, and words."""

    what: str
    words: str


def _turns(run: LaidRun) -> str:
    """How a run turns, in words: its bends, and those made of slices."""
    bends = sum(isinstance(p.piece, Bend) for p in run.pieces)
    pies = [p.piece.slices for p in run.pieces if isinstance(p.piece, SegmentedBend)]
    words = [_counted(bends, "bend")] if bends or not pies else []
    if pies:
        words.append(f"{_counted(len(pies), 'bend')} of {_counted(sum(pies), 'slice')}")
    return " and ".join(words)


def _counted(count: int, what: str) -> str:
    return f"{count} {what}{'s' if count != 1 else ''}"


def fitted(design: Design, system: System, unit: str = "mm") -> Iterator[Fitted]:
    """Pipe by run, parts with their metal, joints with their torque, tips by bank, what comes off first."""
    for run in system.runs:
        if run.pieces:
            long = format_length(sum(p.length_mm for p in run.pieces if not isinstance(p.piece, InLine)), unit, 0)
            tube = f"{format_length(run.run.tube.od_mm, unit)} x {format_length(run.run.tube.wall_mm, unit)}"
            yield Fitted(run.run.name or run.run.id, f"{tube} {run.run.tube.material}, {long} of pipe, {_turns(run)}")
    for part in design.parts:
        metal = part.item.metal or ""
        yield Fitted(part.name or part.item.kind, ", ".join(w for w in (part.item.kind, metal) if w))
    for kind, count in Counter(joint.kind for run in design.runs for joint in run.joints).items():
        facts = JOINTS[kind]
        if facts.torque_nm:
            low, high = facts.torque_nm
            yield Fitted(facts.full_name, f"{count}, {low:g} to {high:g} N m dry, unless its maker says otherwise")
    yield from _tips(design)
    yield from _off_first(design, system, unit)


def _tips(design: Design) -> Iterator[Fitted]:
    """Which run each tip ends."""
    for part in design.parts:
        if part.item.kind != "tip":
            continue
        feeds = [run.name or run.id for run in design.runs if run.aim and run.aim.partition(".")[0] == part.id]
        if feeds:
            yield Fitted(part.name or "tip", f"is the end of {' and '.join(feeds)}")


def _off_first(design: Design, system: System, unit: str) -> Iterator[Fitted]:
    """Joints that come apart, the rearmost first: in that order it comes off."""
    places = []
    for run in system.runs:
        for joint in run.run.joints:
            if not JOINTS[joint.kind].comes_apart:
                continue
            at = next((p.outlet.point for p in run.pieces if p.piece.id == joint.after), run.start.point)
            places.append((float(at[0]), JOINTS[joint.kind].full_name, run.run.name or run.run.id))
    for number, (x, words, name) in enumerate(sorted(places, reverse=True), 1):
        yield Fitted(f"comes off, {number}", f"{words} of {name}, {format_length(x, unit, 0)} behind the front axle")
