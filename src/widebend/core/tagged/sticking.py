"""Tags stuck on what a design and its survey know, as a fabricator would, and a walk under the vehicle past them: so
that photographs can be tried, shown and tested without a camera.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ...facts import PART_KINDS
from ..geometry import motion_of, rotation_from_rpy
from ..laying import LaidRun, positions, system_of
from ..photos import (
    BOLT_MM,
    CUFF_PITCH_MM,
    CUFF_TAGS,
    JOBS,
    STICKER_MM,
    STRIP_TAGS,
    Photo,
    SetName,
    TagJob,
    Taped,
    body_of,
    is_cuff,
    job_of,
)
from ..records import Box, Capsule, Cylinder, Design, HalfSpace, Survey, Thing
from ..space import Pose, Vector, unit

TRACK_MM, HUB_HEIGHT_MM, RAIL_HEIGHT_MM = 1100.0, 310.0, 340.0  # where nothing says: common practice, no source
ROUND_MM, LEAST_LONG_MM, CUFF_IN_MM = (10.0, 60.0), 150.0, 45.0  # radii that a cuff goes round, and how far in it sits
TWO_CUFFS_MM = 250.0  # a straight this long gets two
TALL_MM = 90.0  # a box this tall gets a tag at an upper corner too
ROOF_MM = 2500.0
AIMS_MM = (-250.0, 250.0, 0.0, 250.0, -250.0)  # across, one photo after the other
INSIDE_MM = 150.0  # of both ends that a photo aims at: past them there is nothing to see
EVERY_MM, BETWEEN_MM, BETWEEN_UP_MM = 210.0, (-330.0, 330.0, 60.0, -520.0, 520.0), 300.0
OFTEN = 3  # a tag seen so often will have its place
SHADES = (96.0, 118.0, 84.0, 132.0, 108.0)


@dataclass(frozen=True)
class Stuck:
    """A tag on the vehicle: its number; its own frame to the vehicle's, turn (3, 3) and middle (3,) [mm]; what it was
    printed at of what was meant; of a cuff's tag the cuff's frame instead, the radius and the angle it sits at [rad].
    """

    number: int
    turn: Vector
    middle: Vector
    scale: float = 1.0
    radius_mm: float = 0.0
    angle: float = 0.0

    @property
    def place(self) -> Vector:
        """Where the place is that a flat tag stands for (3,)."""
        job = job_of(self.number)
        return np.asarray(self.middle + self.turn @ np.array(job.place if job else (0.0, 0.0, 0.0)))


@dataclass(frozen=True)
class Surface:
    """A plain convex surface of the vehicle (n, 3) [mm], and how bright it is (0 to 255)."""

    corners: Vector
    shade: float


@dataclass
class Tagged:
    """Tagged things: the tags, the surfaces round them, and by number what each is on."""

    stuck: list[Stuck] = field(default_factory=list)
    surfaces: list[Surface] = field(default_factory=list)
    names: dict[int, str] = field(default_factory=dict)

    def next_of(self, job: TagJob) -> int | None:
        """The next number of a job that is not stuck yet; None where its sheets are used up."""
        its = next(one for one in JOBS if one.job == job)
        used = {tag.number for tag in self.stuck}
        step = CUFF_TAGS if job == "cuff" else 1
        return next((n for n in range(its.first, its.last + 1, step) if n not in used), None)

    def put(self, job: TagJob, name: str, turn: Vector, middle: Vector) -> None:
        """Stick the next flat tag of a job, its own frame turned and set down so."""
        number = self.next_of(job)
        if number is not None:
            self.stuck.append(Stuck(number, turn, middle))
            self.names |= {number: name} if name else {}

    def wrap(self, name: str, middle: Vector, along: Vector, radius_mm: float) -> None:
        """Wrap the next cuff round a pipe there, its zero mark on top."""
        first = self.next_of("cuff")
        if first is None:
            return
        up = np.array([0.0, 0.0, 1.0]) if abs(along[2]) < 0.9 else np.array([-1.0, 0.0, 0.0])
        out = unit(up - (up @ along) * along)
        turn = np.column_stack([out, np.cross(along, out), along])
        many = min(STRIP_TAGS, int(2 * math.pi * radius_mm / CUFF_PITCH_MM))
        self.names[first] = name
        for k in range(many):
            self.stuck.append(Stuck(first + k, turn, middle, 1.0, radius_mm, k * CUFF_PITCH_MM / radius_mm))


def stick(design: Design, *, fitted: bool = False) -> Tagged:
    """Tags on all that carries some: hubs, rails, boxes, pipes and shafts, hang points, marks, flanges;
    with `fitted` round every straight of the pipe too, as it stands in the design.
    """
    out, survey = Tagged(), design.survey
    for number, side in ((310, -1), (311, 1)):
        out.stuck.append(Stuck(number, looking_down(), np.array([0.0, side * TRACK_MM / 2, HUB_HEIGHT_MM])))
    _rails(out, survey)
    for k, thing in enumerate(survey.things):
        _thing(out, thing, SHADES[k % len(SHADES)])
    for hang in survey.hang_points:
        turn = looking_down()
        out.put("bolt", hang.name, turn, np.array(hang.point, dtype=float) + BOLT_MM * turn[:, 1])
    for mark in survey.marks:
        out.put("face", mark.name, looking_down(), np.array(mark.point, dtype=float))
    system = system_of(design)
    for port in system.ports:
        if port.part.placed and PART_KINDS[port.part.item.kind].joins_pipes:
            out.put("flange disc", port.part.name or port.part.id, disc_turn(port.pose), port.pose.point)
    _between(out)
    for run in system.runs if fitted else ():
        _along(out, run)
    return out


def _thing(out: Tagged, thing: Thing, shade: float) -> None:
    shape = thing.shape
    if isinstance(shape, Box):
        _box(out, shape, thing.name, shade)
    elif isinstance(shape, Cylinder | Capsule):
        _round(out, np.array(shape.a, dtype=float), np.array(shape.b, dtype=float), float(shape.radius), thing.name)
    elif isinstance(shape, HalfSpace):
        _roof(out, shape)


def _along(out: Tagged, run: LaidRun) -> None:
    """Cuffs round a run's straights, two on those that are long."""
    for laid in run.pieces:
        if laid.piece.kind == "leg" and laid.length_mm > LEAST_LONG_MM / 2:
            name, radius = run.run.name or run.run.id, float(laid.tube.od_mm) / 2
            both = (CUFF_IN_MM, laid.length_mm - CUFF_IN_MM)
            for along in both if laid.length_mm > TWO_CUFFS_MM else (laid.length_mm / 2,):
                out.wrap(name, laid.inlet.point + along * laid.inlet.flow, laid.inlet.flow, radius)


def _between(out: Tagged) -> None:
    """Plain tags in between, so that each photo sees some of the last one's: on what there is of the floor."""
    places = np.array([tag.middle for tag in out.stuck])
    low, high = places[:, 0].min(), places[:, 0].max()
    for k in range(int((high - low) / EVERY_MM)):
        middle = np.array([low + EVERY_MM * (k + 0.5), BETWEEN_MM[k % len(BETWEEN_MM)], BETWEEN_UP_MM])
        if np.linalg.norm(places - middle, axis=1).min() > STICKER_MM:
            out.put("face", "", looking_down(), middle)


def looking_down(top: tuple[float, float, float] = (1.0, 0.0, 0.0)) -> Vector:
    """The turn of a tag that looks down, its top that way."""
    y, z = np.array(top), np.array([0.0, 0.0, -1.0])
    return np.column_stack([np.cross(y, z), y, z])


def disc_turn(port: Pose) -> Vector:
    """The turn of a flange's disc: it looks the way the port does, its top where the port's is."""
    return np.column_stack([np.cross(port.reference, port.flow), port.reference, port.flow])


def _rails(out: Tagged, survey: Survey) -> None:
    """The upper border along the rail's inner edge, at both places of both rails."""
    rails = survey.rails
    if rails is None:
        return
    rows = ((rails.front_at_mm, rails.front_height_mm), (rails.rear_at_mm, rails.rear_height_mm))
    for k, (x, height) in enumerate(rows):
        for side, y in enumerate((rails.left_y_mm, rails.right_y_mm)):
            turn = looking_down((0.0, 1.0 if side == 0 else -1.0, 0.0))
            place = np.array([float(x), float(y), float(height or RAIL_HEIGHT_MM)])
            out.stuck.append(Stuck(270 + 2 * k + side, turn, place - turn[:, 1] * STICKER_MM / 2))


def _box(out: Tagged, box: Box, name: str, shade: float) -> None:
    """Arrows at two lower corners across from each other, and at an upper one on the side that looks inward."""
    turn, middle = rotation_from_rpy(box.rpy_deg), np.array(box.center, dtype=float)
    half = np.array(box.size, dtype=float) / 2
    out.surfaces += [Surface(middle + face @ turn.T, shade) for face in _faces(half)]
    inward = 1.0 if middle[1] <= 0 else -1.0
    corners = [((-1, -1, -1), (0, 1, 0), (1, 0, 0)), ((1, 1, -1), (0, -1, 0), (-1, 0, 0))]
    if 2 * half[2] > TALL_MM:
        along, down = (1.0, 0.0, 0.0), (0.0, 0.0, -1.0)
        corners.append(((-1, inward, 1), *((along, down) if inward > 0 else (down, along))))  # type: ignore[arg-type]
    for signs, x, y in corners:
        own = np.column_stack([x, y, np.cross(x, y)])
        corner = np.array(signs) * half
        # the arrow is at the paper's own lower left
        place = corner - own @ np.array([-STICKER_MM / 2, -STICKER_MM / 2, 0.0])
        out.put("corner", name, turn @ own, middle + turn @ place)


def _faces(half: Vector) -> Iterator[Vector]:
    for axis in range(3):
        for side in (-1.0, 1.0):
            a, b = (k for k in range(3) if k != axis)
            face = np.zeros((4, 3))
            face[:, axis] = side * half[axis]
            face[:, a], face[:, b] = half[a] * np.array([-1, 1, 1, -1]), half[b] * np.array([-1, -1, 1, 1])
            yield face


def _round(out: Tagged, a: Vector, b: Vector, radius_mm: float, name: str) -> None:
    """A cuff near both ends; none round what is too thick, too thin or too short."""
    long = float(np.linalg.norm(b - a))
    if not ROUND_MM[0] <= radius_mm <= ROUND_MM[1] or long < LEAST_LONG_MM:
        return
    along = (b - a) / long
    for at in (a + CUFF_IN_MM * along, b - CUFF_IN_MM * along):
        out.wrap(name, at, along, radius_mm)


def _roof(out: Tagged, shape: HalfSpace) -> None:
    """Return the solids above a height, where they are level."""
    n = unit(shape.n)
    if n[2] > -0.99:
        return
    flat = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * (ROOF_MM, TRACK_MM / 2) + (ROOF_MM - 300.0, 0.0)
    out.surfaces.append(Surface(np.column_stack([flat, np.full(4, float(shape.d) / n[2])]), 74.0))


def view(tagged: Tagged, k: int, of: int, seed: int = 1) -> tuple[Vector, Vector]:
    """The k-th of the photos of a walk along the vehicle, from either side in turn, each third from low beside it:
    the vehicle's axes to the lens's (3, 3), and where it is taken from (3,).
    """
    rng = np.random.default_rng((seed, k))
    places = np.array([tag.middle for tag in tagged.stuck])
    low, high = places.min(axis=0), places.max(axis=0)
    x = low[0] + (high[0] - low[0]) * min(max((k - 0.5) / max(1, of - 2), 0.0), 1.0)  # both ends are looked at more
    side, beside = (-1.0) ** k, k % 3 == 2
    out, down = (
        (rng.uniform(800, 1100), rng.uniform(350, 500)) if beside else (rng.uniform(250, 550), rng.uniform(800, 1000))
    )
    eye = np.array([x + rng.normal(0, 80), side * out, low[2] - down])
    to = np.array(
        [
            np.clip(x + rng.normal(0, 150), low[0] + INSIDE_MM, high[0] - INSIDE_MM),
            AIMS_MM[k % len(AIMS_MM)] + rng.normal(0, 80),
            (low[2] + high[2]) / 2,
        ]
    )
    ahead, roll = unit(to - eye), rng.choice([0.0, math.pi / 2, math.pi]) + rng.normal(0, 0.2)
    across = unit(np.cross(ahead, [math.cos(roll), math.sin(roll), 0.05]))
    return np.array([across, np.cross(ahead, across), ahead]), eye


def long_tape(tagged: Tagged, photos: Sequence[Photo]) -> Taped | None:
    """Return the tape reading between the two flat tags farthest apart along the vehicle of those that were seen often;
    None while fewer than two were.
    """
    seen = Counter(one.number for photo in photos for one in photo.seen)
    often = [tag for tag in tagged.stuck if not is_cuff(tag.number) and seen[tag.number] >= OFTEN]
    if len(often) < 2:
        return None
    first, last = (pick(often, key=lambda tag: float(tag.place[0])) for pick in (min, max))
    return Taped(first.number, last.number, taped_mm(first, last))


def taped_mm(first: Stuck, last: Stuck) -> float:
    """Return the distance from one tag's place to another's [mm]."""
    return round(float(np.linalg.norm(first.place - last.place)), 1)


def stood(tagged: Tagged, design: Design, which: SetName) -> Tagged:
    """The same as it stands in another set: what moves with a group at droop or bump where the group is then."""
    if which not in ("droop", "bump"):
        return tagged
    things = {thing.name: thing for thing in design.survey.things}
    stuck = []
    for tag in tagged.stuck:
        thing = things.get(tagged.names.get(body_of(tag.number), ""))
        group = design.survey.group(thing.moves_with) if thing else None
        state = next((one for one in positions(group, design.survey) if one.name == which), None) if group else None
        turn, shift = motion_of(state) if state else (np.eye(3), np.zeros(3))
        stuck.append(replace(tag, turn=turn @ tag.turn, middle=turn @ tag.middle + shift))
    return Tagged(stuck, tagged.surfaces, tagged.names)
