"""Welds besides the joints of the runs: bosses, parts on parts, caps, rods, the seam of a crossover.

Each is a joint as any other, so that its plan, its gas and its minutes come from the same place.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ...facts import joint_of
from ..cutting import CutList, circumference, tube_at
from ..hanging import TIE_OVER_MM, held_places, rolled_mm
from ..laying import LaidRun, System, along_piece, joins
from ..records import Design, Hanger, Part, Tube
from ..review import Side, seats
from ..space import Pose, pose
from .joints import ROUND, WeldJoint

OPEN = (False,) * ROUND
ROD_SIDES = 2  # a rod is welded along both sides of where it is rolled round the pipe


def fixed_welds(design: Design, system: System, lists: Sequence[CutList]) -> Iterator[WeldJoint]:
    """Every weld that is no joint of a run, in the order it is made."""
    yield from _bosses(design, system, lists)
    yield from _part_to_part(design, system)
    yield from _seams(design, system)
    yield from _caps(system)
    for number, hanger in enumerate(design.hangers, 1):
        yield from _rods(design, system, hanger, f"hanger {number}")


def _welded(
    run: str,
    key: str,
    name: str,
    at: Pose,
    od_mm: float,
    inside_mm: float,
    sides: tuple[Side, Side],
    weld_mm: float,
    piece: int = 0,
    *,
    goes_round: bool = True,
) -> WeldJoint:
    """A weld that is made on the bench, on a piece of a run or on a part."""
    return WeldJoint(
        run,
        0,
        piece,
        piece,
        "butt",
        at,
        od_mm,
        inside_mm,
        sides,
        weld_mm,
        OPEN,
        "",
        name=name,
        of=key,
        goes_round=goes_round,
    )


def _pipe(tube: Tube) -> Side:
    return Side("pipe", tube.material, float(tube.wall_mm), "bare")


def _inside(tube: Tube) -> float:
    return float(tube.od_mm) - 2 * float(tube.wall_mm)


def _bosses(design: Design, system: System, lists: Sequence[CutList]) -> Iterator[WeldJoint]:
    marks = {mark.id: mark for cuts in lists for cut in cuts.pieces for mark in cut.fixed if mark.kind == "boss"}
    for seat in seats(design, system):
        mark, tube = marks.get(seat.boss.id), seat.piece.tube
        if mark is None:
            continue
        foot = seat.at.point + seat.out * float(tube.od_mm) / 2
        boss = Side("boss", tube.material, float(tube.wall_mm), "bare")
        yield _welded(
            seat.run.run.id,
            f"boss-{mark.id}",
            f"{mark.name}, its boss",
            pose(foot, seat.out),
            float(design.settings.rules.boss_od_mm),
            _inside(tube),
            (boss, _pipe(tube)),
            mark.weld_mm,
            seat.piece.index,
        )


def _side(part: Part, tube: Tube) -> Side:
    wall = float(part.item.wall_mm) if part.item.wall_mm else float(tube.wall_mm)
    return Side(part.name or part.item.kind, part.item.metal or tube.material, wall, part.item.surface)


def _part_to_part(design: Design, system: System) -> Iterator[WeldJoint]:
    """Ports that stand face to face with no pipe between; what is bolted on both sides is not welded."""
    led = joins(design, system)
    for a, b in system.faces:
        if led.get(a.name) != b.name or (joint_of(a.part.item.kind) and joint_of(b.part.item.kind)):
            continue
        tube = tube_at(design, a.part) or tube_at(design, b.part) or _usual(design)
        if tube is None:
            continue
        od = float(min(a.port.od_mm, b.port.od_mm))
        sides = _side(a.part, tube), _side(b.part, tube)
        yield _welded(
            "",
            f"{a.part.id}-{a.port.id}",
            f"{sides[0].name} to {sides[1].name}",
            a.pose,
            od,
            od - 2 * float(tube.wall_mm),
            sides,
            circumference(od),
        )


def _usual(design: Design) -> Tube | None:
    return design.runs[0].tube if design.runs else None


def _seams(design: Design, system: System) -> Iterator[WeldJoint]:
    """The seam of each crossover that is made here of sliced bends."""
    for part, at in system.parts:
        sliced, tube = part.item.sliced, tube_at(design, part) or _usual(design)
        if sliced is None or tube is None or part.kept:
            continue
        name = part.name or part.item.kind
        half = Side(f"half of the {name}", part.item.metal or tube.material, float(tube.wall_mm), part.item.surface)
        yield _welded(
            "",
            f"{part.id}-seam",
            f"{name}, its seam",
            at,
            float(part.item.ports[0].od_mm),
            _inside(tube),
            (half, half),
            float(sliced.seam_mm),
            goes_round=False,
        )


def _caps(system: System) -> Iterator[WeldJoint]:
    for laid in system.runs:
        if laid.run.capped and laid.pieces:
            last = laid.pieces[-1]
            od, cap = float(last.tube.od_mm), Side("cap", last.tube.material, float(last.tube.wall_mm), "bare")
            yield _welded(
                laid.run.id,
                "cap",
                "end cap",
                _end(laid),
                od,
                _inside(last.tube),
                (_pipe(last.tube), cap),
                circumference(od),
                last.index,
            )


def _end(laid: LaidRun) -> Pose:
    return pose(laid.end.point, laid.end.flow)


def _rods(design: Design, system: System, hanger: Hanger, name: str) -> Iterator[WeldJoint]:
    """A rod to its pipe or part, along both sides of where it lies round it; a bar across to both its pipes."""
    if hanger.way != "rubber" or hanger.hold in ("cradle", "strap"):
        return
    rod = Side("rod", "mild", float(hanger.rod_mm), "bare")
    held = held_places(hanger, system)
    if hanger.part:
        body = next((one for one in system.bodies if one.part.id == hanger.part), None)
        if body is not None:
            round_mm = 2 * float(body.radius_mm + max(body.half_u, body.half_v))
            tube = tube_at(design, body.part) or _usual(design)
            if tube is None:
                return
            part = _side(body.part, tube)
            at = pose(body.start, body.flow)
            yield _welded(
                "",
                f"{hanger.id}-rod",
                f"{name}, its rod",
                at,
                float(hanger.rod_mm),
                0.0,
                (rod, part),
                ROD_SIDES * rolled_mm(round_mm, float(hanger.rod_mm)),
                goes_round=False,
            )
        return
    for k, (piece, place) in enumerate(held):
        along = float(hanger.along_mm if k == 0 else hanger.also_along_mm)
        flow = along_piece(piece, min(1.0, along / max(piece.length_mm, 1e-9)))[1]
        lies = rolled_mm(float(piece.tube.od_mm), float(hanger.rod_mm)) if len(held) == 1 else TIE_OVER_MM
        what = "its rod" if len(held) == 1 else f"its bar across, at pipe {k + 1}"
        run = str(hanger.run if k == 0 else hanger.also_run)
        yield _welded(
            run,
            f"{hanger.id}-rod-{k + 1}",
            f"{name}, {what}",
            pose(place, flow),
            float(hanger.rod_mm),
            0.0,
            (rod, _pipe(piece.tube)),
            ROD_SIDES * lies,
            piece.index,
            goes_round=False,
        )
