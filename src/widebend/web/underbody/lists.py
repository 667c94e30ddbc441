"""The lists of a survey besides its things: travel, windows, hang points, old parts and marks, each by its fields."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, get_args

import numpy as np
from pydantic import ValidationError

from ...core.records import (
    AxleTravel,
    Group,
    GroupState,
    HangKind,
    HangPoint,
    Holds,
    MarkPoint,
    Motion,
    OldPart,
    OldPartKind,
    Pivot,
    Rock,
    ShaftSweep,
    Steer,
    Survey,
    Turn,
    Window,
)
from ...core.space import oval, rectangle
from ...core.units import Length, format_angle, format_length
from ...formats.design_json import first_fault
from ..page.reader import AS_IS, EXACT, Before, Reader
from .thing_form import MOVES, UPS, WAYS, angle_text, corners_text, read_corners, text_of

# --- fields ---------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Field:
    """One field of a form: `kind` is length, angle, words, choice or lines; `only` the values of `switch` it is for."""

    key: str
    label: str
    kind: str = "length"
    options: tuple[str, ...] = ()
    hint: str = ""
    only: tuple[str, ...] = ()


@dataclass(frozen=True)
class Row:
    """One line of a list, in words."""

    id: str
    name: str
    words: str
    figures: str


@dataclass(frozen=True)
class Book:
    """One list of a survey: what it is called, its fields, how an item is read, shown and told.

    `switch` names the choice whose value decides which fields are asked.
    """

    key: str
    title: str
    one: str
    place: str
    fields: tuple[Field, ...]
    read: Callable[[Reader, Survey, str], Any]
    show: Callable[[Any, str], dict[str, str]]
    tell: Callable[[Any, Survey, str], Row]
    empty: str
    switch: str = ""
    start: Mapping[str, str] | None = None


def text(value: float | None, unit: str) -> str:
    """A length as it stands in a field."""
    return "" if value is None else text_of(value, unit)


def before_of(book: Book, item: Any, unit: str) -> Before:
    """Return the fields that a form about a list's item changes."""
    return Before(item, book.show(item, unit), book.show(item, EXACT))


def _xyz(point: Any, unit: str, prefix: str = "") -> dict[str, str]:
    return {f"{prefix}{axis}": text(v, unit) for axis, v in zip("xyz", point, strict=True)} if point else {}


def _place(point: Any, unit: str) -> str:
    back, right, up = (format_length(v, unit, 0) for v in point)
    return f"{back} back, {right} right, {up} up"


def _doubt(item: Any, unit: str) -> str:
    return f"± {format_length(item.plus_minus_mm, unit)}" if item.plus_minus_mm else ""


PLACE = (Field("x", "back"), Field("y", "right (left is minus)"), Field("z", "up"))
KNOWN = (Field("plus_minus_mm", "how well known, ±"), Field("how_measured", "how it was taken", "words"))


def _known(reader: Reader, otherwise: float = 0.0) -> dict[str, Any]:
    doubt = reader.optional("plus_minus_mm")
    return {
        "plus_minus_mm": Length(otherwise) if doubt is None else doubt,
        "how_measured": reader.words("how_measured"),
    }


def _shown_known(item: Any, unit: str) -> dict[str, str]:
    return {"name": item.name, "plus_minus_mm": text(item.plus_minus_mm, unit), "how_measured": item.how_measured}


def _name(reader: Reader, example: str) -> str:
    name = reader.words("name")
    if not name:
        reader.errors["name"] = f"what is it? For example: {example}"
    return name


def _made(reader: Reader, make: Callable[[], Any], field: str) -> Any:
    """The record, or its own refusal put at a field. Raises Faults."""
    reader.finish()
    try:
        return make()
    except ValidationError as exc:
        reader.errors[field] = first_fault(exc)[1]
    except ValueError as exc:
        reader.errors[field] = str(exc)
    reader.finish()
    return None


# --- travel ---------------------------------------------------------------------------------------------------------

AXLE, ARMS, ROCK, SHAFT, TURN, SLIDE = (
    "axle, straight up and down",
    "wheels on arms about a pivot",
    "rocks on its mounts",
    "propshaft with the axle",
    "steering, turning",
    "steering, sliding across",
)
AXES = {"fore and aft": (1.0, 0.0, 0.0), "across": (0.0, 1.0, 0.0), "upright": (0.0, 0.0, 1.0)}
# a mover that does not move would be checked as if it stood, and nothing would say so
STANDS_STILL = "how far do the wheels go down and up from ride? With 0 and 0 it does not move"
TRAVEL = (
    Field("id", "what moves", "choice", MOVES[1:]),
    Field("how", "how it moves", "choice", (AXLE, ARMS, ROCK, SHAFT, TURN, SLIDE)),
    Field("measured_at", "it stood at, when measured", "choice", ("ride", "droop", "bump"), only=(AXLE, ARMS)),
    Field("droop", "wheel down from ride", only=(AXLE, ARMS)),
    Field("bump", "wheel up from ride", only=(AXLE, ARMS)),
    Field("px", "pivot, back", only=(ARMS, ROCK, TURN)),
    Field("py", "pivot, right", only=(ARMS, ROCK, TURN)),
    Field("pz", "pivot, up", only=(ARMS, ROCK, TURN)),
    Field("hx", "wheel middle, back", only=(ARMS,)),
    Field("hy", "wheel middle, right", only=(ARMS,)),
    Field("hz", "wheel middle, up", only=(ARMS,)),
    Field("axis", "it turns about an axis", "choice", tuple(AXES), only=(ARMS, ROCK, TURN)),
    Field("deg", "degrees each way", "angle", only=(ROCK, TURN)),
    Field("side", "how far each way", only=(SLIDE,)),
    Field("px2", "front joint, back", only=(SHAFT,)),
    Field("py2", "front joint, right", only=(SHAFT,)),
    Field("pz2", "front joint, up", only=(SHAFT,)),
    Field("hx2", "rear joint, back", only=(SHAFT,)),
    Field("hy2", "rear joint, right", only=(SHAFT,)),
    Field("hz2", "rear joint, up", only=(SHAFT,)),
    Field("follows", "goes with", "choice", ("rear-axle", "front-axle"), only=(SHAFT,)),
)


def _read_travel(reader: Reader, survey: Survey, item_id: str) -> Group:
    group_id = item_id or reader.choice("id", MOVES[1:], "rear-axle")
    was = reader.before.item if reader.before else None
    how = reader.choice("how", TRAVEL[1].options, AXLE)
    at = reader.choice("measured_at", ("ride", "droop", "bump"), "ride")
    name = was.name if was else group_id.replace("-", " ")
    if how == AS_IS:  # positions that were listed one by one
        values = {"id": group_id, "name": name, "states": was.states if was else (), "measured_at": at}
    else:
        values = {"id": group_id, "name": name, "motion": _motion(reader, how, survey), "measured_at": at}
    group = _made(reader, lambda: Group.model_validate(values), "how")
    assert isinstance(group, Group)  # _made raised otherwise
    return group


def _motion(reader: Reader, how: str, survey: Survey) -> Motion | None:
    chosen = reader.choice("axis", AXES, "across")
    axis = AXES[chosen] if chosen in AXES else _axis_before(reader)
    if how in (AXLE, ARMS):
        droop, bump = reader.length("droop", 0.0, 600.0), reader.length("bump", 0.0, 600.0)
        pivot = None
        if how == ARMS:
            about, hub = reader.point("px", "py", "pz"), reader.point("hx", "hy", "hz")
            pivot = Pivot(about=about, axis=axis, hub=hub)
        if not reader.errors and max(float(droop), float(bump)) == 0.0:
            reader.errors["droop"] = STANDS_STILL
        return None if reader.errors else AxleTravel(droop_mm=droop, bump_mm=bump, pivot=pivot)
    if how == SHAFT:
        front, rear = reader.point("px2", "py2", "pz2"), reader.point("hx2", "hy2", "hz2")
        follows = reader.choice("follows", ("rear-axle", "front-axle"), "rear-axle")
        if survey.group(follows) is None:
            reader.errors["follows"] = f"the {follows.replace('-', ' ')} has no travel yet: enter that first"
        return None if reader.errors else ShaftSweep(front=front, rear=rear, follows=follows)
    if how == SLIDE:
        side = reader.length("side", 0.5, 400.0)
        return None if reader.errors else Steer(side_mm=side)
    about, deg = reader.point("px", "py", "pz"), reader.angle("deg", "turn", 0.1, 80.0)
    if how == ROCK and "deg" not in reader.errors and deg > 30:
        reader.errors["deg"] = "an engine on its mounts rocks a few degrees; at most 30° can be entered"
    if reader.errors:
        return None
    return Rock(about=about, axis=axis, deg=deg) if how == ROCK else Steer(about=about, axis=axis, turn_deg=deg)


def _axis_before(reader: Reader) -> Any:
    """The slanted axis that a group turned about before."""
    motion = reader.before.item.motion if reader.before else None
    pivot = getattr(motion, "pivot", None)
    return pivot.axis if pivot else getattr(motion, "axis", AXES["across"])


def _show_travel(group: Group, unit: str) -> dict[str, str]:
    motion = group.motion
    out = {"id": group.id, "measured_at": group.measured_at, "how": AXLE, "axis": "across"}
    if isinstance(motion, AxleTravel):
        out |= {"droop": text(motion.droop_mm, unit), "bump": text(motion.bump_mm, unit)}
        if motion.pivot:
            out |= {"how": ARMS, "axis": _axis_name(motion.pivot.axis)}
            out |= _xyz(motion.pivot.about, unit, "p") | _xyz(motion.pivot.hub, unit, "h")
    elif isinstance(motion, ShaftSweep):
        ends = {**_xyz(motion.front, unit, "p"), **_xyz(motion.rear, unit, "h")}
        out |= {"how": SHAFT, "follows": motion.follows} | {f"{k}2": v for k, v in ends.items()}
    elif isinstance(motion, Rock):
        out |= {
            "how": ROCK,
            "deg": angle_text(motion.deg, unit),
            "axis": _axis_name(motion.axis),
            **_xyz(motion.about, unit, "p"),
        }
    elif isinstance(motion, Steer):
        if motion.turn_deg:
            out |= {"how": TURN, "deg": angle_text(motion.turn_deg, unit), "axis": _axis_name(motion.axis)}
            out |= _xyz(motion.about, unit, "p")
        else:
            out |= {"how": SLIDE, "side": text(motion.side_mm, unit)}
    elif group.states:
        heights = [float(state.shift[2]) for state in group.states]
        out |= {"how": AS_IS, "droop": text(-min(heights), unit), "bump": text(max(heights), unit)}
    return out


def _axis_name(axis: Any) -> str:
    return next((name for name, way in AXES.items() if tuple(way) == tuple(axis)), AS_IS)


def travel_words(group: Group, unit: str) -> str:
    """How a group moves, in a few words."""
    motion = group.motion
    if isinstance(motion, AxleTravel):
        words = f"{format_length(motion.droop_mm, unit, 0)} down, {format_length(motion.bump_mm, unit, 0)} up"
        return words + (", on arms" if motion.pivot else "")
    if isinstance(motion, Rock):
        return f"rocks {format_angle(motion.deg)} each way"
    if isinstance(motion, ShaftSweep):
        return f"swings with the {motion.follows.replace('-', ' ')}"
    if isinstance(motion, Steer):
        each = format_angle(motion.turn_deg) if motion.turn_deg else format_length(motion.side_mm, unit, 0)
        return f"{each} each way"
    return ", ".join(_state_words(s, unit) for s in group.states)


def _state_words(state: GroupState, unit: str) -> str:
    turn: Turn | None = state.turn
    rise = float(state.shift[2])
    figure = format_angle(turn.deg) if turn else (f"{'+' if rise > 0 else ''}{format_length(rise, unit, 0)}")
    return f"{state.name} {figure}"


def _tell_travel(group: Group, survey: Survey, unit: str) -> Row:
    things = sum(t.moves_with == group.id for t in survey.things)
    at = f"measured at {group.measured_at}; " if isinstance(group.motion, AxleTravel) else ""
    words = f"{at}{things} thing{'s' if things != 1 else ''} with it"
    return Row(group.id, group.name or group.id, words, travel_words(group, unit))


# --- windows --------------------------------------------------------------------------------------------------------

ROUND, OBLONG, CORNERS = "oval", "rectangle", "corners"
WINDOW = (
    Field("name", "name", "words", hint="hole in the crossmember"),
    *PLACE,
    Field("way", "the pipe goes through", "choice", tuple(WAYS)),
    Field("form", "its outline", "choice", (ROUND, OBLONG, CORNERS)),
    Field("wide", "wide", only=(ROUND, OBLONG)),
    Field("high", "high", only=(ROUND, OBLONG)),
    Field("corners", "corners: across, up from its middle, one a line", "lines", only=(CORNERS,)),
    Field("thickness", "how thick"),
    Field("through", "cut out of", "choice", hint="a thing, or nothing"),
    Field("needed_gap_mm", "own needed gap", hint="empty = by rule"),
    KNOWN[0],
)
NOTHING = "nothing"
LEAST_OVAL, OVAL_CORNERS = 20, 48  # a tube through the middle has 0.2 % less room than through the true curve


def _read_window(reader: Reader, survey: Survey, item_id: str) -> Window:
    name, center = _name(reader, "hole in the crossmember"), reader.point("x", "y", "z")
    way, form = reader.choice("way", WAYS, "back"), reader.choice("form", (ROUND, OBLONG, CORNERS), ROUND)
    outline: Any = ()
    was = reader.before.item if reader.before else None
    if was and reader.same("form", "wide", "high", "corners"):
        outline = was.outline
    elif form == CORNERS:
        outline = read_corners(reader, "corners")
    else:
        wide, high = reader.length("wide", 5.0, 3000.0), reader.length("high", 5.0, 3000.0)
        if not reader.errors:
            outline = oval(wide, high, OVAL_CORNERS) if form == ROUND else rectangle(wide, high)
    axis, up = (was.axis, was.reference) if was and reader.same("way") else (WAYS[way], UPS[way])
    things = {t.name: t.id for t in survey.things} | {t.id: t.id for t in survey.things}
    through = reader.form.get("through", NOTHING)
    if through != NOTHING and through not in things:
        reader.errors["through"] = "that thing is no longer here"
    doubt = reader.optional("plus_minus_mm")
    values = {
        "id": item_id,
        "name": name,
        "center": center,
        "axis": axis,
        "reference": up,
        "outline": outline,
        "thickness_mm": reader.optional("thickness") or Length(0.0),
        "through": things.get(through),
        "needed_gap_mm": reader.optional("needed_gap_mm"),
        "plus_minus_mm": doubt or Length(0.0),
    }
    window = _made(reader, lambda: Window.model_validate(values), "corners" if form == CORNERS else "wide")
    assert isinstance(window, Window)  # _made raised otherwise
    return window


def _show_window(window: Window, unit: str) -> dict[str, str]:
    across = [float(c[0]) for c in window.outline]
    up = [float(c[1]) for c in window.outline]
    wide, high = max(across) - min(across), max(up) - min(up)
    usual = (w for w, axis in WAYS.items() if axis == tuple(window.axis) and UPS[w] == tuple(window.reference))
    way = next(usual, AS_IS)
    form = CORNERS
    if sorted(window.outline) == sorted(rectangle(wide, high)):
        form = OBLONG
    elif _is_oval(window.outline, wide, high):
        form = ROUND
    gap = "" if window.needed_gap_mm is None else text(window.needed_gap_mm, unit)
    return {
        "name": window.name,
        **_xyz(window.center, unit),
        "way": way,
        "form": form,
        "wide": text(wide, unit),
        "high": text(high, unit),
        "corners": corners_text(window.outline, unit),
        "needed_gap_mm": gap,
        "thickness": text(window.thickness_mm, unit),
        "through": window.through or NOTHING,
        "plus_minus_mm": text(window.plus_minus_mm, unit),
    }


def _is_oval(outline: Sequence[Sequence[float]], wide: float, high: float) -> bool:
    """Whether an outline is the oval that this form makes of these sizes, or made with fewer corners before."""
    made = np.array(oval(wide, high, len(outline)))
    return len(outline) >= LEAST_OVAL and np.allclose(np.array(outline, dtype=float), made, atol=1e-6)


def _tell_window(window: Window, survey: Survey, unit: str) -> Row:
    thing = survey.thing(window.through) if window.through else None
    through = f"cut out of the {thing.name}" if thing else "stands free"
    return Row(window.id, window.name, through, _place(window.center, unit))


# --- places ---------------------------------------------------------------------------------------------------------

HANG = (
    Field("name", "name", "words", hint="left rear rubber"),
    Field("kind", "what it is", "choice", get_args(HangKind)),
    *PLACE,
    Field("thread", "thread, for a bolt hole", "words", hint="M8, 5/16 UNC"),
    Field("holds", "what else that bolt holds", "choice", get_args(Holds)),
    Field("old_rod", "its old rod reaches", "length", hint="from the rubber's eye to its end; empty: none"),
    Field("condition", "condition", "words"),
    *KNOWN,
)
OLD = (
    Field("name", "name", "words", hint="start flange"),
    Field("kind", "what it is", "choice", get_args(OldPartKind)),
    *PLACE,
    Field("condition", "condition", "words", hint="good, pitted, ears cracked"),
    *KNOWN,
)
MARK = (Field("name", "name", "words", hint="left seat bolt"), *PLACE, *KNOWN)


def _read_hang(reader: Reader, _survey: Survey, item_id: str) -> HangPoint:
    values = {
        "id": item_id,
        "name": _name(reader, "left rear rubber"),
        "point": reader.point("x", "y", "z"),
        "kind": reader.choice("kind", get_args(HangKind), "existing rubber"),
        "thread": reader.words("thread", 40),
        "condition": reader.words("condition"),
        "holds": reader.choice("holds", get_args(Holds), ""),
        "old_rod_mm": reader.optional("old_rod") or Length(0.0),
        **_known(reader),
    }
    made = _made(reader, lambda: HangPoint.model_validate(values), "name")
    assert isinstance(made, HangPoint)  # _made raised otherwise
    return made


def _show_hang(item: HangPoint, unit: str) -> dict[str, str]:
    more = {"kind": item.kind, "thread": item.thread, "condition": item.condition, "holds": item.holds}
    if item.old_rod_mm:
        more["old_rod"] = format_length(item.old_rod_mm, unit, suffix=False)
    return _shown_known(item, unit) | _xyz(item.point, unit) | more


def _tell_hang(item: HangPoint, _survey: Survey, unit: str) -> Row:
    holds = f"holds {item.holds} too" if item.holds else ""
    rod = f"old rod reaches {format_length(item.old_rod_mm, unit)}" if item.old_rod_mm else ""
    words = ", ".join(w for w in (item.kind, item.thread, holds, rod, item.condition, item.how_measured) if w)
    return Row(item.id, item.name, words, f"{_place(item.point, unit)} {_doubt(item, unit)}".strip())


def _read_old(reader: Reader, _survey: Survey, item_id: str) -> OldPart:
    here = any(reader.given(k) for k in "xyz")
    values = {
        "id": item_id,
        "name": _name(reader, "start flange"),
        "point": reader.point("x", "y", "z") if here else None,
        "kind": reader.choice("kind", get_args(OldPartKind), "other"),
        "condition": reader.words("condition"),
        **_known(reader),
    }
    made = _made(reader, lambda: OldPart.model_validate(values), "name")
    assert isinstance(made, OldPart)  # _made raised otherwise
    return made


def _show_old(item: OldPart, unit: str) -> dict[str, str]:
    return _shown_known(item, unit) | _xyz(item.point, unit) | {"kind": item.kind, "condition": item.condition}


def _tell_old(item: OldPart, _survey: Survey, unit: str) -> Row:
    words = ", ".join(w for w in (item.kind, item.condition, item.how_measured) if w)
    place = _place(item.point, unit) if item.point else "on the bench"
    return Row(item.id, item.name, words, f"{place} {_doubt(item, unit)}".strip())


def _read_mark(reader: Reader, _survey: Survey, item_id: str) -> MarkPoint:
    point = reader.point("x", "y", "z")
    values = {"id": item_id, "name": _name(reader, "left seat bolt"), "point": point, **_known(reader, 2.0)}
    made = _made(reader, lambda: MarkPoint.model_validate(values), "name")
    assert isinstance(made, MarkPoint)  # _made raised otherwise
    return made


def _show_mark(item: MarkPoint, unit: str) -> dict[str, str]:
    return _shown_known(item, unit) | _xyz(item.point, unit)


def _tell_mark(item: MarkPoint, _survey: Survey, unit: str) -> Row:
    return Row(item.id, item.name, item.how_measured, f"{_place(item.point, unit)} {_doubt(item, unit)}".strip())


BOOKS: dict[str, Book] = {
    book.key: book
    for book in (
        Book(
            "travel",
            "travel",
            "what moves",
            "groups",
            TRAVEL,
            _read_travel,
            _show_travel,
            _tell_travel,
            "Nothing moves yet. An axle, an engine, a propshaft and the steering each have their travel.",
            "how",
            {"id": "rear-axle", "how": AXLE, "measured_at": "ride", "axis": "across"},
        ),
        Book(
            "windows",
            "windows",
            "a window",
            "windows",
            WINDOW,
            _read_window,
            _show_window,
            _tell_window,
            "No windows. Enter an opening that the pipe must pass: a hole in a crossmember, a tunnel's mouth.",
            "form",
            {"way": "back", "form": ROUND},
        ),
        Book(
            "hang-points",
            "hang points",
            "a hang point",
            "hang_points",
            HANG,
            _read_hang,
            _show_hang,
            _tell_hang,
            "No hang points yet. Welding to the body is avoided: find rubbers, bolt holes, strap points.",
        ),
        Book(
            "old-parts",
            "old parts",
            "an old part",
            "old_parts",
            OLD,
            _read_old,
            _show_old,
            _tell_old,
            "No old parts kept. Flanges, V-band halves, tips, hangers and bosses in good order can be used again.",
        ),
        Book(
            "marks",
            "marks",
            "a mark",
            "marks",
            MARK,
            _read_mark,
            _show_mark,
            _tell_mark,
            "No marks yet. Three marks whose places are known let a tape find any point: square them off the rail.",
        ),
    )
}
