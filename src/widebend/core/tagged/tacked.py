"""Tacked pipe by its tags: cuffs and flange discs on the pipe, each beside where the plan has it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from ..laying import LaidPiece, System, angle_between
from ..photos import FoundTag, Solved, is_cuff, job_of
from ..records import Measured, Straight, Survey
from ..space import Vector
from .proposal import Names

NEAR_MM, NEAR_DEG = 90.0, 20.0  # a cuff further from any planned straight is on something else
PORT_NEAR_MM = 120.0


@dataclass(frozen=True)
class Fitted:
    """A tag on what was fitted, beside plan: the tag; the run and piece, or the port, that it sits on; how far off (3,)
    [mm], of a cuff across its pipe only; its tilt and, of a disc, its clock [degrees]; how far each may be off.
    """

    number: int
    run: str
    piece: str
    port: str
    off: Vector
    tilt_deg: float
    clock_deg: float | None
    plus_minus_mm: float
    plus_minus_deg: float

    @property
    def off_mm(self) -> float:
        return float(np.linalg.norm(self.off))

    @property
    def is_off(self) -> bool:
        """Whether it is farther off than its doubt."""
        return self.off_mm > self.plus_minus_mm


def beside_plan(solved: Solved, system: System, names: Names, survey: Survey) -> list[Fitted]:
    """Every cuff and disc that sits on the planned system; what bears the name of a thing of the survey is on that."""
    things = {thing.name.lower() for thing in survey.things}
    others = frozenset(number for number, name in names.items() if name.lower() in things)
    return [*_on_pipe(solved, system, others), *_on_ports(solved, system, others)]


ALONG_MM = 3.0  # how far along its pipe a cuff says nothing of its piece's end


def as_measures(found: Iterable[Fitted], system: System, when: str, by: str) -> dict[tuple[str, str], list[Measured]]:
    """Return the readings of cuffs as measures of the fit log by run and piece: where the middle of the piece's end is,
    right and up. A cuff says nothing along its pipe, so that a steep one is doubted the more.
    """
    ends = {(run.run.id, laid.piece.id): laid.outlet for run in system.runs for laid in run.pieces}
    out: dict[tuple[str, str], list[Measured]] = {}
    for one in found:
        end = ends.get((one.run, one.piece))
        if end is None:
            continue
        for kind, axis in (("right", 1), ("up", 2)):
            doubt = one.plus_minus_mm + ALONG_MM * abs(float(end.flow[axis]))
            out.setdefault((one.run, one.piece), []).append(
                Measured.model_validate(
                    {
                        "kind": kind,
                        "value": float(end.point[axis] + one.off[axis]),
                        "plus_minus": max(0.1, doubt),
                        "mark": f"photo, tag {one.number}",
                        "by": by,
                        "when": when,
                    }
                )
            )
    return out


def _on_pipe(solved: Solved, system: System, others: frozenset[int]) -> Iterator[Fitted]:
    straights = [(run.run.id, laid) for run in system.runs for laid in run.pieces if isinstance(laid.piece, Straight)]
    for tag in solved.tags:
        if not is_cuff(tag.number) or tag.number in others:
            continue
        near = [(float(np.linalg.norm(_across(tag, laid))), run, laid) for run, laid in straights if _beside(tag, laid)]
        if not near:
            continue
        _, run_id, laid = min(near, key=lambda one: one[0])
        tilt = angle_between(tag.turn[:, 2], laid.inlet.flow)
        yield Fitted(
            tag.number,
            run_id,
            laid.piece.id,
            "",
            _across(tag, laid),
            min(tilt, 180.0 - tilt),
            None,
            tag.plus_minus_mm,
            tag.tilt_deg,
        )


def _beside(tag: FoundTag, laid: LaidPiece) -> bool:
    """Whether a cuff may sit on a straight: beside its length, near it and about its way."""
    along = float((tag.middle - laid.inlet.point) @ laid.inlet.flow)
    if not -NEAR_MM < along < laid.length_mm + NEAR_MM or np.linalg.norm(_across(tag, laid)) > NEAR_MM:
        return False
    tilt = angle_between(tag.turn[:, 2], laid.inlet.flow)
    return min(tilt, 180.0 - tilt) < NEAR_DEG


def _across(tag: FoundTag, laid: LaidPiece) -> Vector:
    """How far a cuff's middle lies from a straight's axis (3,)."""
    off = tag.middle - laid.inlet.point
    return np.asarray(off - (off @ laid.inlet.flow) * laid.inlet.flow)


def _on_ports(solved: Solved, system: System, others: frozenset[int]) -> Iterator[Fitted]:
    for tag in solved.tags:
        job = job_of(tag.number)
        if job is None or job.job != "flange disc" or tag.number in others:
            continue
        near = [(float(np.linalg.norm(tag.place - port.pose.point)), port) for port in system.ports]
        if not near or min(near, key=lambda one: one[0])[0] > PORT_NEAR_MM:
            continue
        _, port = min(near, key=lambda one: one[0])
        at, z = port.pose, tag.turn[:, 2]
        top = tag.turn[:, 1] - (tag.turn[:, 1] @ at.flow) * at.flow
        clock = float(np.degrees(np.arctan2(top @ at.across, top @ at.reference)))
        tilt = angle_between(z, at.flow)
        yield Fitted(
            tag.number,
            "",
            "",
            port.name,
            tag.place - at.point,
            min(tilt, 180.0 - tilt),
            clock,
            tag.plus_minus_mm,
            tag.tilt_deg,
        )
