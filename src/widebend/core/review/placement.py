"""Rules of where things go: sensors, the flex, branches, joints, tips. Each is common practice (docs/sources.md), each
figure is the shop's to change.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from ...facts import JOINTS, PART_KINDS
from ..geometry import least_between, straight_row
from ..laying import (
    ENGINE,
    HUNG,
    LaidPiece,
    LaidRun,
    Movers,
    Obstacle,
    System,
    along_piece,
    body_reach,
    engine_positions,
    goes_as,
)
from ..records import Attachment, Design, HalfSpace, InLine, Part, Rules, Tap
from ..space import Pose, Vector, unit
from .findings import Finding, point
from .gaps import Around, bare, packed, part_gap, point_gaps, tube_gaps

SENSOR_RADIUS_MM = 14.0  # a 22 mm hexagon with its spanner's jaw
LOWEST_MM = 5.0  # a boss this near the lowest place of its run sits in the water
BRANCH_OFF_DEG = 10.0
TORCH_RADIUS_MM, ROUND = 12.0, 12
BURIED_SIDES = ROUND // 2  # shut from more sides than this, a joint is out of a torch's reach
EVEN_MM = 3.0  # tips are set even by eye to about this
SIDE = 0.5  # an outlet that looks this much sideways is a side exit


def placing_findings(design: Design, system: System, around: Sequence[Obstacle], moves: Movers) -> Iterator[Finding]:
    """Everything that stands where the trade would not put it."""
    things = packed([o for o in _at_rest(around) if not o.is_low_line])
    yield from _flex(design, system, moves)
    for seat in seats(design, system):
        yield from _sensor(design, system, seat, things)
    yield from _branches(design)
    yield from _joints(design, system, things)
    yield from _cans(design, system, things)
    yield from _tips(design, system, things)


def _at_rest(around: Sequence[Obstacle]) -> list[Obstacle]:
    """One position of each thing, its first: rules of placing are judged as it stands."""
    return list({o.thing.id: o for o in reversed(around)}.values())


# --- the flex ---------------------------------------------------------------------------------------------------


def _flex(design: Design, system: System, moves: Movers) -> Iterator[Finding]:
    rocks = len(engine_positions(design)) > 1  # one that is bolted in the frame does not
    stiff = not moves.has_flex and any(goes_as(mover) == ENGINE for mover in moves.pieces.values())
    if rocks and stiff:
        yield Finding("no-flex", at=point(system.runs[0].start.point))
    for hanger in (h for h in design.hangers if h.run):
        laid = next((r for r in system.runs if r.run.id == hanger.run), None)
        piece = next((p for p in laid.pieces if p.piece.id == hanger.piece), None) if laid else None
        if piece and moves.has_flex and goes_as(moves.pieces.get((str(hanger.run), piece.index), HUNG)) == ENGINE:
            yield Finding("flex-late", str(hanger.run), piece.index, at=point(piece.middle))


# --- sensors ----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Seat:
    """A boss in place: its laid piece and run, its own pose (flow = the pipe's), and the way it looks."""

    boss: Attachment
    run: LaidRun
    piece: LaidPiece
    at: Pose
    out: Vector
    from_start_mm: float


def seats(design: Design, system: System) -> list[Seat]:
    """Every sensor boss in place."""
    return [s for a in design.attachments if a.kind == "boss" and (s := _seat(system, a))]


def _seat(system: System, boss: Attachment) -> Seat | None:
    run = next((r for r in system.runs if r.run.id == boss.run), None)
    piece = next((p for p in run.pieces if p.piece.id == boss.piece), None) if run else None
    if run is None or piece is None:
        return None
    place, flow, reference = along_piece(piece, min(1.0, float(boss.along_mm) / max(piece.length_mm, 1e-9)))
    at = Pose(place, flow, reference)
    before = sum(p.length_mm for p in run.pieces[: piece.index]) + float(boss.along_mm)
    return Seat(boss, run, piece, at, at.side(boss.roll_deg), before)


def _sensor(design: Design, system: System, seat: Seat, things: Around) -> Iterator[Finding]:
    rules, boss = design.settings.rules, seat.boss
    name, where = boss.name or "sensor boss", point(seat.at.point)
    run, index = seat.run.run.id, seat.piece.index
    from_turbine = _before_run(design, system, seat.run) + seat.from_start_mm
    if boss.watches == "wideband" and from_turbine < rules.sensor_from_turbine_mm:
        yield Finding(
            "sensor-near",
            run,
            index,
            names=(name,),
            gap_mm=from_turbine,
            needed_mm=float(rules.sensor_from_turbine_mm),
            at=where,
        )
    above = math.degrees(math.asin(max(-1.0, min(1.0, float(seat.out[2])))))
    if above < rules.sensor_above_level_deg - 1e-6:
        yield Finding(
            "sensor-low", run, index, names=(name,), figures=(above, float(rules.sensor_above_level_deg)), at=where
        )
    lowest = min(float(p.middle[2]) for p in seat.run.pieces)
    level = max(float(p.middle[2]) for p in seat.run.pieces) - lowest < LOWEST_MM
    if not level and seat.at.point[2] < lowest + LOWEST_MM:
        yield Finding("boss-lowest", run, index, names=(name,), at=where)
    yield from _sensor_room(system, seat, rules, things, name)
    yield from _sensor_order(design, seat, name)


def _sensor_room(system: System, seat: Seat, rules: Rules, things: Around, name: str) -> Iterator[Finding]:
    """A sensor whose plug and spanner have no room: beside a thing, or beside another run's pipe."""
    room = float(seat.boss.stands_mm or rules.sensor_room_mm)
    foot = seat.at.point + seat.out * (seat.piece.tube.od_mm / 2)
    row = straight_row(foot, seat.out, room, SENSOR_RADIUS_MM, open_ends=2)[None]
    said = Finding(
        "sensor-room",
        seat.run.run.id,
        seat.piece.index,
        names=(name,),
        needed_mm=room,
        at=point(foot + seat.out * room / 2),
    )
    if things.obstacles:
        least = tube_gaps(row, bare(things), 0.0)[0][:, 0]
        j = int(least.argmin())
        if least[j] < 0:
            yield replace(said, thing=things.obstacles[j].thing.id, thing_name=things.obstacles[j].thing.name)
    for laid, tubes in zip(system.runs, system.tubes, strict=True):
        if laid is not seat.run and len(tubes.rows):
            none = np.zeros((0, 4))
            gap, *_ = least_between(row, np.zeros(1), tubes.rows, np.zeros(len(tubes.rows)), none, -1.0, 0.0)
            if gap < 0:
                yield replace(said, thing_name=f"{laid.run.name or laid.run.id} pipe")


def _sensor_order(design: Design, seat: Seat, name: str) -> Iterator[Finding]:
    """A sensor that watches the gas ahead of the catalyst sits ahead of it, and the other behind."""
    watches = seat.boss.watches
    cats = [p.index for p in seat.run.pieces if isinstance(p.piece, InLine) and _kind(design, p.piece.part) == "cat"]
    wrong = (watches == "ahead of the cat" and any(i < seat.piece.index for i in cats)) or (
        watches == "behind the cat" and bool(cats) and all(i > seat.piece.index for i in cats)
    )
    if wrong:
        yield Finding("sensor-order", seat.run.run.id, seat.piece.index, names=(name, watches), at=point(seat.at.point))


def _kind(design: Design, part_id: str) -> str:
    part = design.part(part_id)
    return part.item.kind if part else ""


def _before_run(design: Design, system: System, run: LaidRun, depth: int = 0) -> float:
    """How far [mm] the gas has come before a run starts, through what leads to it."""
    if isinstance(run.run.start, Tap) or depth > 20:
        return 0.0
    part_id = run.run.start.partition(".")[0]
    leading = next((r for r in system.runs if r.run.aim and r.run.aim.startswith(f"{part_id}.")), None)
    if leading is None:
        return 0.0
    part = design.part(part_id)
    ports = [np.asarray(p.point, dtype=float) for p in part.item.ports] if part else []
    through = max((float(np.linalg.norm(a - b)) for a, b in combinations(ports, 2)), default=0.0)
    return _before_run(design, system, leading, depth + 1) + sum(p.length_mm for p in leading.pieces) + through


# --- branches and joints ------------------------------------------------------------------------------------------


def _branches(design: Design) -> Iterator[Finding]:
    wanted = design.settings.rules.branch_deg
    for run in design.runs:
        if isinstance(run.start, Tap) and not run.capped and run.start.angle_deg > wanted + BRANCH_OFF_DEG:
            yield Finding("branch", run.id, figures=(float(run.start.angle_deg), float(wanted)))


def _joints(design: Design, system: System, things: Around) -> Iterator[Finding]:
    """Joints that are made or undone under the vehicle: from at least half of all sides there must be room."""
    room = float(design.settings.rules.torch_room_mm)
    if not things.obstacles or room <= 0:
        return
    for run in system.runs:
        apart = {j.after for j in run.run.joints if JOINTS[j.kind].comes_apart}
        places = [("start", run.start, run.run.tube.od_mm, 0)] if run.pieces else []
        places += [(p.piece.id, p.outlet, p.tube.od_mm, p.index) for p in run.pieces]
        last = run.pieces[-1].piece.id if run.pieces else ""
        for key, at, od, index in places:
            if key in apart or key == "start" or (key == last and run.aim):
                shut, worst = shut_sides(at, float(od) / 2, room, things)
                if shut > BURIED_SIDES:
                    thing = things.obstacles[worst].thing
                    yield Finding(
                        "buried",
                        run.run.id,
                        index,
                        thing=thing.id,
                        thing_name=thing.name,
                        needed_mm=room,
                        figures=(ROUND - shut, ROUND),
                        at=point(at.point),
                    )


def shut_sides(at: Pose, radius: float, room: float, things: Around) -> tuple[int, int]:
    """From how many of twelve sides a hand and a torch cannot reach a joint, and the thing most in the way."""
    shut, worst = which_sides(at, radius, room, things)
    return sum(shut), worst


def which_sides(at: Pose, radius: float, room: float, things: Around) -> tuple[tuple[bool, ...], int]:
    """Which of twelve sides, clockwise from the pose's reference against the flow, a hand and a torch cannot reach a
    joint from, and the thing most in the way.
    """
    near = np.flatnonzero(
        tube_gaps(straight_row(at.point, at.flow, 1e-6, 1.0)[None], bare(things), radius + room)[1][:, 0] >= 0
    )
    if not len(near):
        return (False,) * ROUND, 0
    some = bare(things).only(near)
    blocked = np.zeros(len(near), dtype=int)
    shut = []
    for k in range(ROUND):
        side = at.side(360.0 * k / ROUND)
        row = straight_row(at.point + side * (radius + TORCH_RADIUS_MM), side, room - TORCH_RADIUS_MM, TORCH_RADIUS_MM)
        hits = tube_gaps(row[None], some, 0.0)[0][:, 0] < 0
        blocked += hits
        shut.append(bool(hits.any()))
    return tuple(shut), int(near[int(blocked.argmax())])


# --- silencers, catalysts and tips --------------------------------------------------------------------------------


def _cans(design: Design, system: System, things: Around) -> Iterator[Finding]:
    """Hot cans want more room to the body than bare pipe."""
    wanted = float(design.settings.rules.muffler_floor_gap_mm)
    hard = [
        j
        for j, o in enumerate(things.obstacles)
        if o.thing.moves_with == "body" and o.thing.nature == "hard" and o.needed_mm < wanted
    ]
    some = things.only(np.array(hard, dtype=np.intp))
    for body in system.bodies:
        middle, reach = body_reach(body)
        if not PART_KINDS[body.part.item.kind].is_can or body.half_u + body.half_v + body.radius_mm < 30 or not hard:
            continue
        for j in np.flatnonzero(point_gaps(middle[None], some)[0] - reach < wanted):
            obstacle = some.obstacles[j]
            gap = part_gap(body, obstacle, wanted)
            if obstacle.needed_mm + obstacle.plus_minus_mm <= gap < wanted:
                yield Finding(
                    "muffler-near",
                    part=body.part.id,
                    thing=obstacle.thing.id,
                    thing_name=obstacle.thing.name,
                    gap_mm=gap,
                    needed_mm=wanted,
                    at=point(middle),
                )


def _tips(design: Design, system: System, things: Around) -> Iterator[Finding]:
    rules = design.settings.rules
    outlets = [(q.part, q.pose) for q in system.ports if q.part.item.kind == "tip" and q.port.role == "out"]
    for part, out in outlets:
        yield from _blows(part, out, float(rules.outlet_clear_mm), things)
        yield from _ends_under(part, out, things)
    yield from _uneven(outlets)


def _blows(part: Part, out: Pose, reach: float, things: Around) -> Iterator[Finding]:
    """Return the parts that the gas meets on its way from the outlet."""
    radius = float(part.item.ports[-1].od_mm) / 2
    row = straight_row(out.point + out.flow * 2.0, out.flow, reach, radius, open_ends=1)
    gaps, along = tube_gaps(row[None], bare(things), 0.0)
    hit = [j for j in range(len(things.obstacles)) if along[j, 0] >= 0 and gaps[j, 0] < 0]
    if hit:
        thing = things.obstacles[min(hit, key=lambda j: along[j, 0])].thing
        yield Finding(
            "blows", part=part.id, thing=thing.id, thing_name=thing.name, needed_mm=reach, at=point(out.point)
        )


def _ends_under(part: Part, out: Pose, things: Around) -> Iterator[Finding]:
    """An outlet with the vehicle still over it brings gas under the floor; a side exit is looked at by eye."""
    if abs(float(out.flow[1])) > SIDE:
        yield Finding("side-exit", part=part.id, names=("right" if out.flow[1] > 0 else "left",), at=point(out.point))
        return
    behind = straight_row(out.point + np.array([150.0, 0.0, 150.0]), unit([0.0, 0.0, 1.0]), 600.0, 1.0)
    gaps, _ = tube_gaps(behind[None], bare(things), 0.0)
    over = [j for j, o in enumerate(things.obstacles) if gaps[j, 0] < 0 and not isinstance(o.thing.shape, HalfSpace)]
    if over:
        thing = things.obstacles[over[0]].thing
        yield Finding("ends-under", part=part.id, thing=thing.id, thing_name=thing.name, at=point(out.point))


def _uneven(outlets: list[tuple[Part, Pose]]) -> Iterator[Finding]:
    """Left and right tips: as high, as far back and as far from the middle as each other."""
    left = sorted((o for o in outlets if o[1].point[1] < 0), key=lambda o: o[1].point[1])
    right = sorted((o for o in outlets if o[1].point[1] > 0), key=lambda o: -o[1].point[1])
    if len(left) != len(right):
        return
    said: set[tuple[str, str]] = set()
    for (a, at), (b, bt) in zip(left, right, strict=True):
        off = at.point * [1, -1, 1] - bt.point
        if EVEN_MM < np.abs(off).max() < 150.0 and (a.id, b.id) not in said:
            said.add((a.id, b.id))
            yield Finding(
                "tip-uneven",
                part=b.id,
                thing=a.id,
                thing_name=a.name or "the other tip",
                figures=tuple(map(float, off)),
                at=point(bt.point),
            )
