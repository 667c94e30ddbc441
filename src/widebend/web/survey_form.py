"""Reading a thing as it is entered by numbers, and showing one back: edges, ends and diameters, not centres."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from ..core.errors import InputError
from ..core.records import Box, Capsule, Cylinder, Group, GroupState, HalfSpace, Shape, Sphere, Survey, Thing
from ..core.units import Length, format_length, parse_angle, parse_length
from .edits import Faults

T = TypeVar("T")

SHAPES = {
    "box": "box: six edges",
    "capsule": "round-ended bar",
    "cylinder": "flat-ended cylinder",
    "sphere": "ball",
    "half-space": "everything on one side",
}
SIDES = {
    "above": (0.0, 0.0, -1.0),
    "below": (0.0, 0.0, 1.0),
    "right of": (0.0, -1.0, 0.0),
    "left of": (0.0, 1.0, 0.0),
    "behind": (-1.0, 0.0, 0.0),
    "ahead of": (1.0, 0.0, 0.0),
}
MOVES = ("body", "engine", "rear-axle", "front-axle", "driveline", "steering")
NATURES = ("hard", "heat-shy", "soft")
STATES = ("as found", "on order", "missing", "removed for now")
BOX_FIELDS = (("x0", "front edge, back"), ("x1", "rear edge, back"), ("y0", "left edge, right"),
              ("y1", "right edge, right"), ("z0", "underside, up"), ("z1", "top, up"))  # fmt: skip
BAR_FIELDS = (("ax", "one end, back"), ("ay", "one end, right"), ("az", "one end, up"), ("bx", "other end, back"),
              ("by", "other end, right"), ("bz", "other end, up"), ("dia", "diameter"))  # fmt: skip
BALL_FIELDS = (("cx", "middle, back"), ("cy", "middle, right"), ("cz", "middle, up"), ("dia", "diameter"))
FIELDS = {"box": BOX_FIELDS, "capsule": BAR_FIELDS, "cylinder": BAR_FIELDS, "sphere": BALL_FIELDS,
          "half-space": (("at", "where it begins"),)}  # fmt: skip


class Reader:
    """Reads fields of one form, collecting what is wrong instead of stopping at the first."""

    def __init__(self, form: Mapping[str, str], unit: str) -> None:
        self.form, self.unit = form, unit
        self.errors: dict[str, str] = {}

    def length(self, field: str, least: float | None = None, most: float | None = None) -> Length:
        return self._try(field, lambda t: parse_length(t, self.unit, least=least, most=most), Length(0.0))

    def optional(self, field: str, least: float = 0.0) -> Length | None:
        return self.length(field, least) if self.form.get(field, "").strip() else None

    def angle(self, field: str, what: str, least: float = -180.0, most: float = 180.0) -> float:
        return self._try(field, lambda t: parse_angle(t or "0", what, least, most), 0.0)

    def choice(self, field: str, allowed: Any, otherwise: str) -> str:
        value = self.form.get(field, otherwise)
        if value not in allowed:
            self.errors[field] = f"one of {', '.join(allowed)}"
            return otherwise
        return value

    def words(self, field: str, most: int = 80) -> str:
        text = self.form.get(field, "").replace("\x00", "").strip()
        if len(text) > most:
            self.errors[field] = f"at most {most} letters, this is {len(text)}"
        return text[:most]

    def _try(self, field: str, read: Callable[[str], T], otherwise: T) -> T:
        try:
            return read(self.form.get(field, ""))
        except InputError as exc:
            self.errors[field] = str(exc)
            return otherwise

    def finish(self) -> None:
        if self.errors:
            raise Faults(self.errors)


def read_thing(form: Mapping[str, str], unit: str, survey: Survey) -> tuple[Thing, Group | None]:
    """The thing a form describes and the group whose travel it gives. Raises Faults with every wrong field."""
    reader = Reader(form, unit)
    name = reader.words("name")
    if not name:
        reader.errors["name"] = "what is it? For example: crossmember"
    kind = reader.choice("shape", SHAPES, "box")
    shape = _read_shape(reader, kind)
    moves = reader.choice("moves_with", MOVES, "body")
    group = _read_travel(reader, survey, moves)
    values: dict[str, Any] = {
        "name": name,
        "nature": reader.choice("nature", NATURES, "hard"),
        "heat_shy_what": reader.words("heat_shy_what"),
        "moves_with": moves,
        "state": reader.choice("state", STATES, "as found"),
        "needed_gap_mm": reader.optional("needed_gap_mm"),
        "plus_minus_mm": reader.optional("plus_minus_mm") or Length(0.0),
        "how_measured": reader.words("how_measured"),
    }
    reader.finish()
    assert shape is not None  # finish raised otherwise
    return Thing(id=form.get("thing") or _new_id(survey), shape=shape, **values), group


def _new_id(survey: Survey) -> str:
    taken = {t.id for t in survey.things}
    return next(f"t{n}" for n in range(1, len(taken) + 2) if f"t{n}" not in taken)


def _read_shape(reader: Reader, kind: str) -> Shape | None:
    values = {name: reader.length(name) for name, _ in FIELDS[kind]}
    if kind == "box":
        return _read_box(reader, values)
    if kind == "half-space":
        side = reader.choice("side", SIDES, "above")
        n = SIDES[side]
        return HalfSpace(n=n, d=Length(values["at"] * sum(n)))
    if not reader.errors and values["dia"] <= 0:
        reader.errors["dia"] = "a diameter of more than nothing"
    if reader.errors:
        return None
    radius = Length(values["dia"] / 2)
    if kind == "sphere":
        return Sphere(center=(values["cx"], values["cy"], values["cz"]), radius=radius)
    a, b = (values["ax"], values["ay"], values["az"]), (values["bx"], values["by"], values["bz"])
    if kind == "cylinder" and max(abs(p - q) for p, q in zip(a, b, strict=True)) < 1e-6:
        reader.errors["bx"] = "both ends are at the same place: give it a length, or take a ball"
        return None
    return (Cylinder if kind == "cylinder" else Capsule)(a=a, b=b, radius=radius)


def _read_box(reader: Reader, values: dict[str, Length]) -> Box | None:
    turned = (reader.angle("roll", "roll"), reader.angle("pitch", "pitch"), reader.angle("yaw", "yaw"))
    for low, high, words in (("x0", "x1", "rear edge"), ("y0", "y1", "right edge"), ("z0", "z1", "top")):
        if low not in reader.errors and high not in reader.errors and values[high] <= values[low]:
            reader.errors[high] = f"the {words} must be more than {format_length(values[low], reader.unit)}"
    if reader.errors:
        return None
    pairs = [(values["x0"], values["x1"]), (values["y0"], values["y1"]), (values["z0"], values["z1"])]
    center, size = [Length((a + b) / 2) for a, b in pairs], [Length(b - a) for a, b in pairs]
    return Box(center=(center[0], center[1], center[2]), size=(size[0], size[1], size[2]), rpy_deg=turned)


def _read_travel(reader: Reader, survey: Survey, moves: str) -> Group | None:
    """Droop and bump of the group a thing moves with, as shifts in height from ride; none for the body."""
    if moves == "body":
        return None
    known = survey.group(moves)
    if known and not reader.form.get("droop", "").strip() and not reader.form.get("bump", "").strip():
        return known
    droop, bump = reader.length("droop", 0.0, 600.0), reader.length("bump", 0.0, 600.0)
    zero = Length(0.0)
    states = (
        GroupState(name="droop", shift=(zero, zero, Length(-droop))),
        GroupState(name="ride"),
        GroupState(name="bump", shift=(zero, zero, Length(bump))),
    )
    return Group(id=moves, name=moves.replace("-", " "), states=states)


def shown(thing: Thing | None, survey: Survey, unit: str) -> dict[str, str]:
    """A thing as the form's fields."""
    if thing is None:
        return {"shape": "box", "nature": "hard", "moves_with": "body", "state": "as found", "side": "above"}

    def text(value: float) -> str:
        return format_length(value, unit, 2, suffix=False)

    out = {
        "thing": thing.id, "name": thing.name, "shape": thing.shape.type, "nature": thing.nature, "state": thing.state,
        "heat_shy_what": thing.heat_shy_what, "moves_with": thing.moves_with, "how_measured": thing.how_measured,
        "needed_gap_mm": "" if thing.needed_gap_mm is None else text(thing.needed_gap_mm),
        "plus_minus_mm": text(thing.plus_minus_mm) if thing.plus_minus_mm else "", "side": "above",
    }  # fmt: skip
    out |= {key: text(value) for key, value in _shape_values(thing.shape).items()}
    if isinstance(thing.shape, Box):
        out |= {k: f"{v:g}" for k, v in zip(("roll", "pitch", "yaw"), thing.shape.rpy_deg, strict=True)}
    if isinstance(thing.shape, HalfSpace):
        out["side"] = next((s for s, n in SIDES.items() if n == tuple(thing.shape.n)), "above")
    group = survey.group(thing.moves_with)
    if group:
        heights = [float(state.shift[2]) for state in group.states]
        out |= {"droop": text(-min(heights)), "bump": text(max(heights))}
    return out


def _shape_values(shape: Shape) -> dict[str, float]:
    if isinstance(shape, Box):
        out: dict[str, float] = {}
        for axis, c, s in zip("xyz", shape.center, shape.size, strict=True):
            out |= {f"{axis}0": c - s / 2, f"{axis}1": c + s / 2}
        return out
    if isinstance(shape, HalfSpace):
        return {"at": shape.d * sum(1 if c > 0 else -1 if c < 0 else 0 for c in shape.n)}
    if isinstance(shape, Sphere):
        return dict(zip(("cx", "cy", "cz"), shape.center, strict=True)) | {"dia": 2 * shape.radius}
    ends = dict(zip(("ax", "ay", "az"), shape.a, strict=True)) | dict(zip(("bx", "by", "bz"), shape.b, strict=True))
    return ends | {"dia": 2 * shape.radius}
