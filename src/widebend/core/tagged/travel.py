"""How far each group of things goes, by a second set of photos with the axle down or up."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..photos import FoundTag, SetName, Solved, Travelled, travelled
from ..records import AxleTravel, Design, Group, GroupState
from ..space import Vector
from ..units import Length
from .proposal import Names, Proposal, named, point, surveyed


def travels(first: Solved, second: Solved, which: SetName, names: Names, design: Design) -> list[Proposal]:
    """The travel of each group of which something moved, as a proposal."""
    moved = {one.number: one for one in travelled(first, second)}
    by_group: dict[str, list[Travelled]] = {}
    for name, tags in named(second.tags, names).items():
        thing = next((t for t in design.survey.things if t.name.lower() == name.lower()), None)
        if thing and thing.moves_with != "body":
            by_group.setdefault(thing.moves_with, []).extend(moved[t.number] for t in tags if t.number in moved)
    out = []
    for group in design.survey.groups:
        mine = by_group.get(group.id, [])
        if mine and which in ("droop", "bump"):
            out.append(_travel(group, which, mine, [t for t in second.tags if t.number in {m.number for m in mine}]))
    return out


def _travel(group: Group, which: str, moved: Sequence[Travelled], tags: Sequence[FoundTag]) -> Proposal:
    shift = np.mean([one.shift for one in moved], axis=0)
    new = _with_travel(group, which, shift)

    def keep(design: Design) -> Design:
        groups = tuple(new if one.id == group.id else one for one in design.survey.groups)
        return surveyed(design, groups=groups)

    at = np.mean([tag.middle for tag in tags], axis=0)
    words = f"{group.name or group.id} at {which}: {abs(shift[2]):.0f} mm {'down' if shift[2] < 0 else 'up'}"
    return Proposal(
        f"{which}-{group.id}", words, at, max(one.plus_minus_mm for one in moved), keep, np.array([at - shift, at])
    )


def _with_travel(group: Group, which: str, shift: Vector) -> Group:
    if isinstance(group.motion, AxleTravel):
        key = "droop_mm" if which == "droop" else "bump_mm"
        motion = group.motion.replace(**{key: Length(round(abs(float(shift[2])), 1))})
        return group.replace(motion=motion)
    state = GroupState(name=which, shift=point(shift))
    others = tuple(one for one in group.states if one.name != which)
    return group.replace(states=(*others, state))
