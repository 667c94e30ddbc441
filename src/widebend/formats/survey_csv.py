"""A survey as a table: one line a thing, mark, hang point, old part or line. docs/formats/survey-csv.md.

Outlines, meshes, windows, travel, pictures and the check-list do not fit a line: JSON or a bundle carries those.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, get_args

from pydantic import ValidationError

from ..core.errors import InputError
from ..core.records import (
    Box,
    Capsule,
    Cylinder,
    HalfSpace,
    HangPoint,
    HeatShy,
    LowLine,
    MarkPoint,
    OldPart,
    Rails,
    Sphere,
    Survey,
    Thing,
)
from ..core.units import Length, format_length, parse_angle, parse_length
from .csv_cells import as_text, as_typed
from .design_json import first_fault

COLUMNS = (
    "what",
    "id",
    "name",
    "shape",
    "x1",
    "y1",
    "z1",
    "x2",
    "y2",
    "z2",
    "diameter",
    "roll",
    "pitch",
    "yaw",
    "nature",
    "heat_shy",
    "moves_with",
    "state",
    "needed_gap",
    "plus_minus",
    "how",
    "kind",
    "condition",
)
SHIELDED = "shielded"  # a thing's kind, where a bright sheet stands before it
WHATS = ("thing", "mark", "hang point", "old part", "low line", "lowered line", "rails")
SIDES = {
    "above": (0.0, 0.0, -1.0),
    "below": (0.0, 0.0, 1.0),
    "right of": (0.0, -1.0, 0.0),
    "left of": (0.0, 1.0, 0.0),
    "behind": (-1.0, 0.0, 0.0),
    "ahead of": (1.0, 0.0, 0.0),
}
MOST_BYTES = 1_000_000
Line = Mapping[str, str]


@dataclass(frozen=True)
class BadLine:
    """A line that was refused: its number in the file (the header is 1) and the reason."""

    number: int
    reason: str


@dataclass(frozen=True)
class Table:
    """The content of a table: the good lines as a survey's parts, ready to be put in, and the bad ones."""

    things: tuple[Thing, ...] = ()
    marks: tuple[MarkPoint, ...] = ()
    hang_points: tuple[HangPoint, ...] = ()
    old_parts: tuple[OldPart, ...] = ()
    low_line: LowLine | None = None
    lowered_line: LowLine | None = None
    rails: Rails | None = None
    bad: tuple[BadLine, ...] = ()

    @property
    def good(self) -> int:
        lists = len(self.things) + len(self.marks) + len(self.hang_points) + len(self.old_parts)
        return lists + sum(x is not None for x in (self.low_line, self.lowered_line, self.rails))


def read_table(text: str, unit: str, survey: Survey) -> Table:
    """Read a table; bare numbers are in `unit` ("mm" or "in"). Groups named must be known to `survey`.

    Raises InputError when the header is not one of ours: then no line can be understood.
    """
    if len(text.encode()) > MOST_BYTES:
        raise InputError(f"the table is {len(text) / 1e6:.1f} MB; at most {MOST_BYTES / 1e6:.0f} MB")
    if "\x00" in text:
        raise InputError("this is not a text table")
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), skipinitialspace=True, strict=True)
    try:
        _check_header(reader.fieldnames)
    except csv.Error as exc:
        raise InputError(f"the quotes or commas of the first line do not match ({exc})") from exc
    found: dict[str, Any] = {"things": [], "marks": [], "hang_points": [], "old_parts": []}
    bad: list[BadLine] = []
    groups = {g.id for g in survey.groups} | {"body"}
    rows = iter(reader)
    while True:
        try:
            row = next(rows)
        except StopIteration:
            break
        except csv.Error as exc:
            bad.append(BadLine(reader.line_num, f"the quotes or commas of this line do not match ({exc})"))
            continue
        if any((v or "").strip() for v in row.values() if not isinstance(v, list)):
            try:
                _put(found, _clean(row), unit, groups)
            except (InputError, ValidationError) as exc:
                reason = ": ".join(first_fault(exc)) if isinstance(exc, ValidationError) else str(exc)
                bad.append(BadLine(reader.line_num, reason))
    lists: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in found.items()}
    return Table(**lists, bad=tuple(bad))


def _check_header(names: Any) -> None:
    given = [n.strip() for n in names or []]
    unknown = [n for n in given if n not in COLUMNS]
    if "what" not in given or "name" not in given:
        raise InputError(f"the first line must name the columns, “what” and “name” among them: {', '.join(COLUMNS)}")
    if unknown:
        raise InputError(f"there is no column “{unknown[0][:30]}”; columns are {', '.join(COLUMNS)}")


def _clean(row: Mapping[Any, Any]) -> dict[str, str]:
    if row.get(None):
        raise InputError("the line has more fields than the header names")
    return {str(k).strip(): as_typed((v or "").strip()) for k, v in row.items() if k is not None}


def _put(found: dict[str, Any], row: Line, unit: str, groups: set[str]) -> None:
    what = row.get("what", "")
    if what not in WHATS:
        raise InputError(f"“what” is “{what[:30]}”: it can be {', '.join(WHATS)}")
    if what in ("low line", "lowered line"):
        found[what.replace(" ", "_")] = LowLine(d=_length(row, "z1", unit))
        return
    if what == "rails":
        found["rails"] = Rails(left_y_mm=_length(row, "y1", unit), right_y_mm=_length(row, "y2", unit))
        return
    makers: dict[str, tuple[str, Callable[[Line, str, str], Any]]] = {
        "thing": ("things", _thing),
        "mark": ("marks", _mark),
        "hang point": ("hang_points", _hang_point),
        "old part": ("old_parts", _old_part),
    }
    place, make = makers[what]
    if not row.get("name"):
        raise InputError("it has no name")
    taken = {one.id for one in found[place]}
    item_id = row.get("id") or next(f"{what[0]}{n}" for n in range(1, 10_000) if f"{what[0]}{n}" not in taken)
    if item_id in taken:
        raise InputError(f"the id “{item_id}” stands on an earlier line")
    item = make(row, unit, item_id)
    if isinstance(item, Thing) and item.moves_with not in groups:
        raise InputError(
            f"it moves with “{item.moves_with}”, which this survey does not know: {', '.join(sorted(groups))}"
        )
    found[place].append(item)


def _length(row: Line, column: str, unit: str) -> Length:
    try:
        return parse_length(row.get(column, ""), unit)
    except InputError as exc:
        raise InputError(f"{column}: {exc}") from exc


def _point(row: Line, unit: str, which: str = "1") -> tuple[Length, Length, Length]:
    return _length(row, f"x{which}", unit), _length(row, f"y{which}", unit), _length(row, f"z{which}", unit)


def _maybe(row: Line, column: str, unit: str) -> Length | None:
    return _length(row, column, unit) if row.get(column) else None


def _known(row: Line, unit: str) -> dict[str, Any]:
    """How well a place is known and how it was taken; empty fields keep the record's own default."""
    doubt = _maybe(row, "plus_minus", unit)
    return ({"plus_minus_mm": doubt} if doubt is not None else {}) | {"how_measured": row.get("how", "")}


def _mark(row: Line, unit: str, item_id: str) -> MarkPoint:
    return MarkPoint(id=item_id, name=row["name"], point=_point(row, unit), **_known(row, unit))


def _hang_point(row: Line, unit: str, item_id: str) -> HangPoint:
    kind = {"kind": row["kind"]} if row.get("kind") else {}
    more = {"condition": row.get("condition", ""), **_known(row, unit), **kind}
    return HangPoint.model_validate({"id": item_id, "name": row["name"], "point": _point(row, unit), **more})


def _old_part(row: Line, unit: str, item_id: str) -> OldPart:
    kind = {"kind": row["kind"]} if row.get("kind") else {}
    at = _point(row, unit) if row.get("x1") else None
    more = {"condition": row.get("condition", ""), **_known(row, unit), **kind}
    return OldPart.model_validate({"id": item_id, "name": row["name"], "point": at, **more})


def _thing(row: Line, unit: str, item_id: str) -> Thing:
    values = {
        "id": item_id,
        "name": row["name"],
        "shape": _shape(row, unit),
        "nature": row.get("nature") or "hard",
        "heat_shy_what": row.get("heat_shy", ""),
        "moves_with": row.get("moves_with") or "body",
        "state": row.get("state") or "as found",
        "needed_gap_mm": _maybe(row, "needed_gap", unit),
        **_known(row, unit),
        "shielded": row.get("kind") == SHIELDED,
    }
    if values["heat_shy_what"] not in get_args(HeatShy):
        raise InputError(f"heat_shy: it can be {', '.join(w for w in get_args(HeatShy) if w)}, or nothing")
    return Thing.model_validate(values)


def _shape(row: Line, unit: str) -> Any:
    kind = row.get("shape", "")
    if kind == "box":
        low, high = _point(row, unit), _point(row, unit, "2")
        for axis, a, b in zip("xyz", low, high, strict=True):
            if b <= a:
                raise InputError(f"{axis}2: it must be more than {axis}1 ({format_length(a, unit)})")
        turned = tuple(parse_angle(row.get(k) or "0", k, -180, 180) for k in ("roll", "pitch", "yaw"))
        middle = tuple(Length((a + b) / 2) for a, b in zip(low, high, strict=True))
        size = tuple(Length(b - a) for a, b in zip(low, high, strict=True))
        return Box.model_validate({"center": middle, "size": size, "rpy_deg": turned})
    if kind in ("cylinder", "capsule"):
        radius = Length(_length(row, "diameter", unit) / 2)
        ends = {"a": _point(row, unit), "b": _point(row, unit, "2"), "radius": radius}
        return (Cylinder if kind == "cylinder" else Capsule).model_validate(ends)
    if kind == "sphere":
        return Sphere(center=_point(row, unit), radius=Length(_length(row, "diameter", unit) / 2))
    if kind in SIDES:
        n = SIDES[kind]
        column = "xyz"[next(i for i in range(3) if n[i])] + "1"
        return HalfSpace(n=n, d=Length(_length(row, column, unit) * sum(n)))
    raise InputError(f"shape: it can be box, cylinder, capsule, sphere, or everything {', '.join(SIDES)} a place")


# --- writing ------------------------------------------------------------------------------------------------------


def write_table(survey: Survey) -> str:
    """A survey as a table in mm. What does not fit a line is left out; `left_out` says how much."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\n")
    writer.writeheader()

    def write(line: Mapping[str, str]) -> None:
        writer.writerow({key: as_text(cell) for key, cell in line.items()})

    for key, line in (("low line", survey.low_line), ("lowered line", survey.lowered_line)):
        if line is not None and tuple(line.n) == (0.0, 0.0, 1.0):
            write({"what": key, "name": key, "z1": _text(line.d)})
    if survey.rails:
        sides = {"y1": _text(survey.rails.left_y_mm), "y2": _text(survey.rails.right_y_mm)}
        write({"what": "rails", "name": "rails", **sides})
    for thing in survey.things:
        shape = _shape_fields(thing)
        if shape:
            gap = "" if thing.needed_gap_mm is None else _text(thing.needed_gap_mm)
            write(
                {
                    "what": "thing",
                    "id": thing.id,
                    "name": thing.name,
                    **shape,
                    "nature": thing.nature,
                    "heat_shy": thing.heat_shy_what,
                    "moves_with": thing.moves_with,
                    "state": thing.state,
                    "needed_gap": gap,
                    "kind": SHIELDED if thing.shielded else "",
                    **_doubt(thing),
                }
            )
    for mark in survey.marks:
        write({"what": "mark", "id": mark.id, "name": mark.name, **_xyz(mark.point), **_doubt(mark)})
    for what, items in (("hang point", survey.hang_points), ("old part", survey.old_parts)):
        for item in items:
            at = _xyz(item.point) if item.point else {}
            write(
                {
                    "what": what,
                    "id": item.id,
                    "name": item.name,
                    **at,
                    "kind": item.kind,
                    "condition": item.condition,
                    **_doubt(item),
                }
            )
    return out.getvalue()


def left_out(survey: Survey) -> list[str]:
    """Describe the parts of a survey that a table does not carry."""
    shapes = sum(_shape_fields(t) is None for t in survey.things)
    counts = (
        (shapes, "outlines, meshes or slanting planes"),
        (len(survey.windows), "windows"),
        (len(survey.groups), "travels"),
        (len(survey.photos), "pictures"),
        (len(survey.ticked), "ticks"),
    )
    return [f"{n} {words}" for n, words in counts if n]


def _text(mm: float) -> str:
    return repr(round(float(mm), 4)).removesuffix(".0")


def _xyz(point: Any, which: str = "1") -> dict[str, str]:
    return {f"{axis}{which}": _text(value) for axis, value in zip("xyz", point, strict=True)}


def _doubt(item: Any) -> dict[str, str]:
    return {"plus_minus": _text(item.plus_minus_mm), "how": item.how_measured}


def _shape_fields(thing: Thing) -> dict[str, str] | None:
    shape = thing.shape
    if isinstance(shape, Box):
        ends = [[c + sign * s / 2 for c, s in zip(shape.center, shape.size, strict=True)] for sign in (-1, 1)]
        turned = {k: f"{v:g}" if v else "" for k, v in zip(("roll", "pitch", "yaw"), shape.rpy_deg, strict=True)}
        return {"shape": "box", **_xyz(ends[0]), **_xyz(ends[1], "2"), **turned}
    if isinstance(shape, Cylinder | Capsule):
        return {"shape": shape.type, **_xyz(shape.a), **_xyz(shape.b, "2"), "diameter": _text(2 * shape.radius)}
    if isinstance(shape, Sphere):
        return {"shape": "sphere", **_xyz(shape.center), "diameter": _text(2 * shape.radius)}
    if isinstance(shape, HalfSpace):
        side = next((key for key, n in SIDES.items() if n == tuple(shape.n)), None)
        if side:
            column = "xyz"[next(i for i in range(3) if SIDES[side][i])] + "1"
            return {"shape": side, column: _text(shape.d * sum(SIDES[side]))}
    return None


def example() -> str:
    """A short table that can be read back: shown beside the import, and in docs/formats/survey-csv.md."""
    lines = (
        ",".join(COLUMNS),
        "low line,,low line,,,,150,,,,,,,,,,,,,,,,",
        "rails,,rails,,,-430,,,430,,,,,,,,,,,,,,",
        "thing,,crossmember,box,1900,-430,305,1990,430,400,,,,,hard,,body,as found,,3,tape,,",
        'thing,,brake pipe,capsule,900,-300,420,2800,-300,420,"1/4""",,,,heat-shy,brake hose,body,as found,,4,tape,,',
        "thing,,floor,above,,,640,,,,,,,,hard,,body,as found,,5,plumb and rule,,",
        "mark,,left seat bolt,,1400,-380,310,,,,,,,,,,,,,2,square off the rail,,",
        "hang point,,left rear rubber,,3300,-380,420,,,,,,,,,,,,,5,tape,existing rubber,cracked",
        "old part,,start flange,,1180,190,262,,,,,,,,,,,,,,,flange,good",
    )
    return "\n".join(lines) + "\n"
