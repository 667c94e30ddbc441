"""Tags of things with one place: hang points, marks, flanges that are old parts or the design's own ports, spots
pointed at.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

import numpy as np

from ..laying import part_frames
from ..photos import FoundTag, Spot
from ..records import Design, HangPoint, MarkPoint, OldPart, Part, Placed
from ..space import Pose, Vector
from .proposal import HOW, Beside, Names, Proposal, beside, called, doubt, point, put, sign, surveyed, under_name

DISC_MM = 50.0  # half of the disc as it is drawn


def hang_points(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """A bolt's tag is a hang point."""
    for tag in tags:
        name, key = called(tag.number, names), f"tag-{tag.number}"
        there = under_name(design.survey.hang_points, name, key)
        new = (there or HangPoint(id=key, name=name, point=point(tag.place), kind="spare bolt hole")).replace(
            point=point(tag.place), plus_minus_mm=doubt(tag.plus_minus_mm), how_measured=HOW
        )

        def keep(design: Design, new: HangPoint = new) -> Design:
            return surveyed(design, hang_points=put(design.survey.hang_points, new))

        yield Proposal(
            key,
            f"hang point {name}",
            tag.place,
            tag.plus_minus_mm,
            keep,
            sign(tag.place),
            beside=_beside(there, tag.place, tag.plus_minus_mm),
        )


def marks(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """A tag by itself is a mark."""
    for tag in tags:
        yield _mark(f"tag-{tag.number}", called(tag.number, names), tag.place, tag.plus_minus_mm, HOW, design)


def spot_proposal(name: str, there: Spot, design: Design) -> Proposal:
    """A spot that was pointed at as a mark."""
    key = "spot-" + re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:30]
    return _mark(key, name, there.place, there.plus_minus_mm, "pointed at in photos", design)


def _mark(key: str, name: str, at: Vector, mm: float, how: str, design: Design) -> Proposal:
    there = under_name(design.survey.marks, name, key)
    new = MarkPoint(
        id=there.id if there else key, name=name, point=point(at), plus_minus_mm=doubt(mm), how_measured=how
    )
    return Proposal(
        f"mark-{key}",
        f"mark {name}",
        at,
        mm,
        lambda design: surveyed(design, marks=put(design.survey.marks, new)),
        sign(at),
        beside=_beside(there, at, mm),
    )


def flanges(tags: Sequence[FoundTag], names: Names, design: Design) -> Iterator[Proposal]:
    """A disc on a flange: a part of the design that bears its name stands there, else it is an old part."""
    for tag in tags:
        name, key = called(tag.number, names), f"tag-{tag.number}"
        part = next((p for p in design.parts if name.lower() in (p.name.lower(), p.id.lower()) and p.placed), None)
        if part and part.item.ports:
            yield _port(tag, part)
            continue
        there = under_name(design.survey.old_parts, name, key)
        new = (there or OldPart(id=key, name=name, kind="flange")).replace(
            point=point(tag.place), plus_minus_mm=doubt(tag.plus_minus_mm), how_measured=HOW
        )

        def keep(design: Design, new: OldPart = new) -> Design:
            return surveyed(design, old_parts=put(design.survey.old_parts, new))

        yield Proposal(
            key,
            f"flange {name}",
            tag.place,
            tag.plus_minus_mm,
            keep,
            disc(tag),
            beside=_beside(there, tag.place, tag.plus_minus_mm),
        )


def disc(tag: FoundTag) -> Vector:
    """A disc as it is drawn (n, 3)."""
    round_ = np.linspace(0.0, 2 * np.pi, 25)
    return np.asarray(
        tag.middle + DISC_MM * (np.cos(round_)[:, None] * tag.turn[:, 0] + np.sin(round_)[:, None] * tag.turn[:, 1])
    )


def _port(tag: FoundTag, part: Part) -> Proposal:
    """The part moved so that its port is where the disc is: its face the disc's, its top the disc's top."""
    frames = part_frames(part)
    port_id = min(frames, key=lambda one: float(np.linalg.norm(frames[one].point - tag.place)))
    new = part.replace(placed=placed_by_port(part, port_id, tag))
    off = float(np.linalg.norm(frames[port_id].point - tag.place))

    def keep(design: Design) -> Design:
        parts = tuple(new if one.id == part.id else one for one in design.parts)
        return design.replace(parts=parts)

    return Proposal(
        f"port-{tag.number}",
        f"{part.name or part.id} stands here",
        tag.place,
        tag.plus_minus_mm,
        keep,
        disc(tag),
        beside=beside(off, tag.plus_minus_mm),
    )


def placed_by_port(part: Part, port_id: str, tag: FoundTag) -> Placed:
    """Where a part stands whose port is where a disc is."""
    port = part.port(port_id)
    assert port is not None  # it is one of the part's
    axis, up = np.array(port.axis, dtype=float), np.array(port.reference, dtype=float)
    own = np.column_stack([axis, up, np.cross(axis, up)])
    z, y = tag.turn[:, 2], tag.turn[:, 1]
    turn = np.column_stack([z, y, np.cross(z, y)]) @ np.linalg.inv(own)
    at = Pose(tag.place - turn @ np.array(port.point, dtype=float), turn[:, 0], turn[:, 2])
    flow, reference = (tuple(round(float(v), 6) for v in way) for way in (at.flow, at.reference))
    return Placed(point=point(at.point), axis=flow, reference=reference)  # type: ignore[arg-type]


def _beside(there: HangPoint | MarkPoint | OldPart | None, at: Vector, mm: float) -> Beside | None:
    if there is None or there.point is None:
        return None
    off = float(np.linalg.norm(np.array(there.point, dtype=float) - at))
    return beside(off, mm, float(there.plus_minus_mm))
