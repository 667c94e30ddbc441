"""Hardware of a job besides cut metal: V-bands, flanges, clamps, and the parts themselves."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ...facts import JOINTS, joint_of
from ..laying import LaidRun
from ..records import Design, InLine

BOSS = "sensor boss"
SLICED = "made here of two bends, sliced lengthwise: the sheet X, Y, H and faces has the cut"


@dataclass(frozen=True)
class Fitting:
    """A needed item and its count; `od_mm` the tube it goes on, 0 where a part's name says it."""

    words: str
    od_mm: float
    count: int
    note: str = ""


def fittings(design: Design, runs: Sequence[LaidRun]) -> list[Fitting]:
    """Return the hardware of these runs' joints, what bolts its flanges up and its sensors' bosses, then the design's
    parts that are not there already, each once with its count.
    """
    joints = Counter(joint for laid in runs for joint in _joints(design, laid))
    joints.update(("end cap", float(laid.pieces[-1].tube.od_mm)) for laid in runs if laid.run.capped and laid.pieces)
    joints.update(_bolted_up(design, runs))
    joints.update((BOSS, 0.0) for one in design.attachments if one.kind == "boss")
    parts = Counter((p.name or p.item.kind, SLICED if p.item.sliced else "") for p in design.parts if not p.kept)
    return [
        *(Fitting(words, od, n) for (words, od), n in sorted(joints.items())),
        *(Fitting(name, 0.0, n, note) for (name, note), n in parts.items()),
    ]


def _bolted_up(design: Design, runs: Sequence[LaidRun]) -> Iterator[tuple[str, float]]:
    """Yield the bolts or clamp of each flange or V-band part whose other half is not of this job: the vehicle's."""
    met = {
        side
        for laid in runs
        for joint in laid.run.joints
        if JOINTS[joint.kind].bought_half
        for side in _sides(laid, joint.after)
    }
    for part in design.parts:
        facts = joint_of(part.item.kind)
        if facts and facts.bought_on and part.id not in met:
            yield facts.bought_on, max((float(port.od_mm) for port in part.item.ports), default=0.0)


def _sides(laid: LaidRun, after: str) -> Iterator[str]:
    """The parts on both sides of a joint."""
    k = next((k for k, piece in enumerate(laid.pieces) if piece.piece.id == after), -1)
    ahead = laid.pieces[k].piece if k >= 0 else laid.run.start
    behind = laid.pieces[k + 1].piece if k + 1 < len(laid.pieces) else laid.run.aim
    for side in (ahead, behind):
        if isinstance(side, InLine):
            yield side.part
        elif isinstance(side, str):
            yield side.partition(".")[0]


def _joints(design: Design, laid: LaidRun) -> Iterator[tuple[str, float]]:
    at = {piece.piece.id: k for k, piece in enumerate(laid.pieces)}
    for joint in laid.run.joints:
        facts = JOINTS[joint.kind]
        if not facts.bought or not laid.pieces:
            continue
        k = at.get(joint.after, -1)
        tube = laid.pieces[max(k, 0)].tube
        behind = laid.pieces[k + 1].piece if k + 1 < len(laid.pieces) else laid.run.aim
        ahead = laid.pieces[k].piece if k >= 0 else laid.run.start
        half = facts.bought_half and (is_half(design, ahead) or is_half(design, behind))
        yield facts.bought_half if half else facts.bought, float(tube.od_mm)


def is_half(design: Design, side: object) -> bool:
    """Whether a port or part by its name, or a part in line, is itself one half of a flange or V-band joint."""
    part_id = side.part if isinstance(side, InLine) else side.partition(".")[0] if isinstance(side, str) else ""
    part = design.part(part_id)
    return part is not None and part.item.kind in ("flange", "v-band")
