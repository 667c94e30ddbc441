"""Reading a thing as it is entered by numbers, and showing one back: edges, ends and diameters, not centres."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, get_args

from pydantic import ValidationError

from ...core.errors import InputError
from ...core.records import (
    AxleTravel,
    Box,
    Capsule,
    Cylinder,
    Extrusion,
    Group,
    HalfSpace,
    HeatShy,
    MeshShape,
    Shape,
    Sphere,
    Survey,
    Thing,
)
from ...core.units import Length, format_length, parse_length
from ...formats.survey_csv import SIDES
from ..page.reader import AS_IS, EXACT, Before, Reader

SHAPES = {
    "box": "box: six edges",
    "capsule": "round-ended bar",
    "cylinder": "flat-ended cylinder",
    "sphere": "ball",
    "half-space": "everything on one side",
    "extrusion": "outline with a depth",
    "mesh": "scan",
}
WAYS = {"back": (1.0, 0.0, 0.0), "right": (0.0, 1.0, 0.0), "up": (0.0, 0.0, 1.0)}
# what reads as up in an outline that runs each way
UPS = {"back": (0.0, 0.0, 1.0), "right": (0.0, 0.0, 1.0), "up": (-1.0, 0.0, 0.0)}
MOVES = ("body", "engine", "rear-axle", "front-axle", "driveline", "steering")
NATURES = ("hard", "heat-shy", "soft")
HEAT_SHY = tuple(w for w in get_args(HeatShy) if w)
STATES = ("as found", "on order", "missing", "removed for now")
BOX_FIELDS = (
    ("x0", "front edge, back"),
    ("x1", "rear edge, back"),
    ("y0", "left edge, right"),
    ("y1", "right edge, right"),
    ("z0", "underside, up"),
    ("z1", "top, up"),
)
BAR_FIELDS = (
    ("ax", "one end, back"),
    ("ay", "one end, right"),
    ("az", "one end, up"),
    ("bx", "other end, back"),
    ("by", "other end, right"),
    ("bz", "other end, up"),
    ("dia", "diameter"),
)
BALL_FIELDS = (("cx", "middle, back"), ("cy", "middle, right"), ("cz", "middle, up"), ("dia", "diameter"))
OUTLINE_FIELDS = (("ox", "its 0, 0: back"), ("oy", "its 0, 0: right"), ("oz", "its 0, 0: up"), ("depth", "depth"))
MESH_FIELDS = (("mx", "moved back"), ("my", "moved right"), ("mz", "moved up"))
FIELDS = {
    "box": BOX_FIELDS,
    "capsule": BAR_FIELDS,
    "cylinder": BAR_FIELDS,
    "sphere": BALL_FIELDS,
    "half-space": (("at", "where it begins"),),
    "extrusion": OUTLINE_FIELDS,
    "mesh": MESH_FIELDS,
}
SHAPE_FIELDS = ("side", "way", "corners", "roll", "pitch", "yaw", *(key for some in FIELDS.values() for key, _ in some))
Point = tuple[Length, Length, Length]


def read_thing(form: Mapping[str, str], unit: str, survey: Survey) -> tuple[Thing, Group | None]:
    """The thing a form describes and the group whose travel it gives. Raises Faults with every wrong field."""
    before = survey.thing(form.get("thing", ""))
    reader = Reader(form, unit, before_of(before, survey, unit) if before else None)
    if before and reader.unchanged:
        return before, survey.group(before.moves_with)
    name = reader.words("name")
    if not name:
        reader.errors["name"] = "what is it? For example: crossmember"
    shape = _read_shape(reader, reader.choice("shape", SHAPES, "box"), before.shape if before else None)
    moves = reader.choice("moves_with", choices_of_movement(survey), "body")
    group = _read_travel(reader, survey, moves)
    nature = reader.choice("nature", NATURES, "hard")
    values: dict[str, Any] = {
        "name": name,
        "nature": nature,
        "heat_shy_what": reader.choice("heat_shy_what", HEAT_SHY, "other") if nature == "heat-shy" else "",
        "moves_with": moves,
        "state": reader.choice("state", STATES, "as found"),
        "needed_gap_mm": reader.optional("needed_gap_mm"),
        "plus_minus_mm": reader.optional("plus_minus_mm") or Length(0.0),
        "how_measured": reader.words("how_measured"),
        "shielded": before is not None and before.shielded,
    }
    reader.finish()
    assert shape is not None  # finish raised otherwise
    return Thing(id=form.get("thing") or _new_id(survey), shape=shape, **values), group


def choices_of_movement(survey: Survey) -> tuple[str, ...]:
    """Return the groups a thing can move with: the usual groups, and those this survey knows besides."""
    return MOVES + tuple(g.id for g in survey.groups if g.id not in MOVES)


def before_of(thing: Thing, survey: Survey, unit: str) -> Before:
    """Return the fields that a form about a thing changes."""
    return Before(thing, shown(thing, survey, unit), shown(thing, survey, EXACT))


def _new_id(survey: Survey) -> str:
    taken = {t.id for t in survey.things}
    return next(f"t{n}" for n in range(1, len(taken) + 2) if f"t{n}" not in taken)


def _read_shape(reader: Reader, kind: str, before: Shape | None) -> Shape | None:
    if before is not None and reader.same("shape", *SHAPE_FIELDS):
        return before
    readers = {"box": _read_box, "half-space": _read_half_space, "extrusion": _read_outline, "sphere": _read_ball}
    if kind == "mesh":
        return _read_mesh(reader, before)
    return readers.get(kind, lambda r: _read_bar(r, kind))(reader)


def _read_half_space(reader: Reader) -> Shape | None:
    at, side = reader.length("at"), reader.choice("side", SIDES, "above")
    was = reader.before.item.shape if reader.before else None
    if side == AS_IS and isinstance(was, HalfSpace):
        return was.replace(d=at)
    n = SIDES[side]
    return HalfSpace(n=n, d=Length(at * sum(n)))


def _diameter(reader: Reader) -> Length:
    diameter = reader.length("dia")
    if "dia" not in reader.errors and diameter <= 0:
        reader.errors["dia"] = "a diameter of more than nothing"
    return diameter


def _read_ball(reader: Reader) -> Shape | None:
    middle, diameter = reader.point("cx", "cy", "cz"), _diameter(reader)
    return None if reader.errors else Sphere(center=middle, radius=Length(diameter / 2))


def _read_bar(reader: Reader, kind: str) -> Shape | None:
    a, b, diameter = reader.point("ax", "ay", "az"), reader.point("bx", "by", "bz"), _diameter(reader)
    if not reader.errors and kind == "cylinder" and max(abs(p - q) for p, q in zip(a, b, strict=True)) < 1e-6:
        reader.errors["bx"] = "both ends are at the same place: give it a length, or take a ball"
    if reader.errors:
        return None
    return (Cylinder if kind == "cylinder" else Capsule)(a=a, b=b, radius=Length(diameter / 2))


def _read_box(reader: Reader) -> Box | None:
    values = {name: reader.length(name) for name, _ in BOX_FIELDS}
    turned = _turned(reader)
    for low, high, words in (("x0", "x1", "rear edge"), ("y0", "y1", "right edge"), ("z0", "z1", "top")):
        if low not in reader.errors and high not in reader.errors and values[high] <= values[low]:
            reader.errors[high] = f"the {words} must be more than {format_length(values[low], reader.unit)}"
    if reader.errors:
        return None
    pairs = [(values["x0"], values["x1"]), (values["y0"], values["y1"]), (values["z0"], values["z1"])]
    center, size = [Length((a + b) / 2) for a, b in pairs], [Length(b - a) for a, b in pairs]
    return Box(center=(center[0], center[1], center[2]), size=(size[0], size[1], size[2]), rpy_deg=turned)


def _turned(reader: Reader) -> tuple[float, float, float]:
    return reader.angle("roll", "roll"), reader.angle("pitch", "pitch"), reader.angle("yaw", "yaw")


def _read_outline(reader: Reader) -> Shape | None:
    origin, depth = reader.point("ox", "oy", "oz"), reader.length("depth", 0.5)
    way = reader.choice("way", WAYS, "back")
    was = reader.before.item.shape if reader.before else None
    kept = was if isinstance(was, Extrusion) else None
    corners = kept.outline if kept and reader.same("corners") else read_corners(reader, "corners")
    if reader.errors:
        return None
    turned = kept and reader.same("way")
    axis, up = (kept.axis, kept.reference) if kept and turned else (WAYS[way], UPS[way])
    values = {
        "origin": origin,
        "axis": axis,
        "reference": up,
        "depth": depth,
        "outline": corners,
        "holes": kept.holes if kept else (),
    }
    try:
        return Extrusion.model_validate(values)
    except ValidationError as exc:
        reader.errors["corners"] = exc.errors()[0]["msg"].removeprefix("Value error, ")
        return None


def read_corners(reader: Reader, field: str) -> tuple[tuple[Length, Length], ...]:
    """Corners of an outline, one a line (or between semicolons): across, up."""
    corners: list[tuple[Length, Length]] = []
    for n, line in enumerate(filter(str.strip, reader.form.get(field, "").replace(";", "\n").splitlines()), 1):
        parts = [p for p in line.split(",") if p.strip()]
        try:
            if len(parts) != 2:
                raise InputError("write two lengths with a comma between them, like -120, 40")
            corners.append((parse_length(parts[0], reader.unit), parse_length(parts[1], reader.unit)))
        except InputError as exc:
            reader.errors[field] = f"corner {n}: {exc}"
            return ()
    if len(corners) < 3:
        reader.errors[field] = "an outline has at least three corners: one a line, across and up"
    return tuple(corners)


def _read_mesh(reader: Reader, before: Shape | None) -> Shape | None:
    shift, turned = reader.point("mx", "my", "mz"), _turned(reader)
    if not isinstance(before, MeshShape):
        reader.errors["shape"] = "a scan comes from a file: bring it in under Files"
        return None
    return before.replace(shift=shift, rpy_deg=turned)


def _read_travel(reader: Reader, survey: Survey, moves: str) -> Group | None:
    """Straight travel of the group a thing moves with, when droop or bump is typed; otherwise as it is known."""
    known = survey.group(moves)
    if moves == "body" or (known and not reader.given("droop") and not reader.given("bump")):
        return known
    if known and reader.same("moves_with", "droop", "bump"):
        return known
    droop = reader.optional("droop") or Length(0.0)
    bump = reader.optional("bump") or Length(0.0)
    for field, value in (("droop", droop), ("bump", bump)):
        if value > 600:
            reader.errors[field] = f"at most {format_length(600, reader.unit)}: how far does the wheel go?"
    at = known.measured_at if known else "ride"
    if known and isinstance(known.motion, AxleTravel):  # on arms it stays on its arms
        motion = known.motion.replace(droop_mm=droop, bump_mm=bump)
        return known.replace(motion=motion)
    return Group(
        id=moves, name=moves.replace("-", " "), motion=AxleTravel(droop_mm=droop, bump_mm=bump), measured_at=at
    )


def shown(thing: Thing | None, survey: Survey, unit: str) -> dict[str, str]:
    """A thing as the form's fields."""
    if thing is None:
        return {
            "shape": "box",
            "nature": "hard",
            "moves_with": "body",
            "state": "as found",
            "side": "above",
            "way": "back",
            "heat_shy_what": "fuel line",
        }

    def text(value: float) -> str:
        return text_of(value, unit)

    out = {
        "thing": thing.id,
        "name": thing.name,
        "shape": thing.shape.type,
        "nature": thing.nature,
        "state": thing.state,
        "heat_shy_what": thing.heat_shy_what,
        "moves_with": thing.moves_with,
        "how_measured": thing.how_measured,
        "needed_gap_mm": "" if thing.needed_gap_mm is None else text(thing.needed_gap_mm),
        "plus_minus_mm": text(thing.plus_minus_mm) if thing.plus_minus_mm else "",
        "side": "above",
        "way": "back",
    }
    out |= {key: text(value) for key, value in _shape_values(thing.shape).items()}
    shape = thing.shape
    if isinstance(shape, Box | MeshShape):
        out |= {k: angle_text(v, unit) for k, v in zip(("roll", "pitch", "yaw"), shape.rpy_deg, strict=True)}
    if isinstance(shape, HalfSpace):
        out["side"] = next((s for s, n in SIDES.items() if n == tuple(shape.n)), AS_IS)
    if isinstance(shape, Extrusion):
        usual = (w for w, axis in WAYS.items() if axis == tuple(shape.axis) and UPS[w] == tuple(shape.reference))
        out["way"] = next(usual, AS_IS)
        out["corners"] = corners_text(shape.outline, unit)
    group = survey.group(thing.moves_with)
    if group and isinstance(group.motion, AxleTravel):
        out |= {"droop": text(group.motion.droop_mm), "bump": text(group.motion.bump_mm)}
    elif group and group.states:
        heights = [float(state.shift[2]) for state in group.states]
        out |= {"droop": text(-min(heights)), "bump": text(max(heights))}
    return out


def text_of(value: float, unit: str) -> str:
    """A length as it stands in a field; unrounded mm in the unit EXACT."""
    return repr(float(value)) if unit == EXACT else format_length(value, unit, 2, suffix=False)


def angle_text(deg: float, unit: str) -> str:
    """An angle as it stands in a field."""
    return repr(float(deg)) if unit == EXACT else f"{deg:g}"


def corners_text(corners: tuple[tuple[Length, Length], ...], unit: str) -> str:
    """Corners as they are typed: one a line."""
    return "\n".join(", ".join(text_of(c, unit) for c in corner) for corner in corners)


def _shape_values(shape: Shape) -> dict[str, float]:
    if isinstance(shape, Box):
        out: dict[str, float] = {}
        for axis, c, s in zip("xyz", shape.center, shape.size, strict=True):
            out |= {f"{axis}0": c - s / 2, f"{axis}1": c + s / 2}
        return out
    if isinstance(shape, HalfSpace):
        along = sum(shape.n) if tuple(shape.n) in SIDES.values() else 1.0  # a slanting one begins so far along its n
        return {"at": shape.d * along}
    if isinstance(shape, Sphere):
        return {**dict(zip(("cx", "cy", "cz"), shape.center, strict=True)), "dia": 2 * shape.radius}
    if isinstance(shape, Extrusion):
        return {**dict(zip(("ox", "oy", "oz"), shape.origin, strict=True)), "depth": shape.depth}
    if isinstance(shape, MeshShape):
        return {key: float(v) for key, v in zip(("mx", "my", "mz"), shape.shift, strict=True)}
    ends = dict(zip(("ax", "ay", "az"), shape.a, strict=True)) | dict(zip(("bx", "by", "bz"), shape.b, strict=True))
    return ends | {"dia": 2 * shape.radius}
