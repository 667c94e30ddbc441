"""Putting what was measured where it belongs: a new place, an old one, a thing, a part's direction, a run's pieces."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import request

from ...core.editing import placed_at
from ...core.errors import EditError
from ...core.hardware import start_flange
from ...core.records import (
    Bend,
    Capsule,
    Design,
    HangPoint,
    MarkPoint,
    OldPart,
    Part,
    Piece,
    Run,
    Sphere,
    Straight,
    Survey,
    Thing,
    Tube,
)
from ...core.survey import bounds, moved
from ...core.units import Length
from ..page.at_hand import AtHand
from ..page.figures import typing_unit
from ..page.reader import Reader
from .measuring_forms import Answer

NEW_RUN = "r1"
SOMEWHERE, AHEAD = (Length(1000.0), Length(0.0), Length(250.0)), (1, 0, 0)  # a guess, to be put right on Layout


def targets(answer: Answer, here: AtHand) -> list[tuple[str, str]]:
    """Where an answer can go: key and words."""
    survey = here.design.survey
    if answer.copy is not None:
        runs = [(f"run:{r.id}", f"the pieces of {r.name or r.id}, in place of what is there") for r in here.design.runs]
        return runs or [(f"run:{NEW_RUN}", "a first run, from a start flange that you then put in its place on Layout")]
    if answer.heading is not None:
        return [(f"way:{p.id}", f"the direction of the {p.name or p.item.kind}") for p in here.design.parts if p.placed]
    if answer.size is not None:
        round_things = [t for t in survey.things if hasattr(t.shape, "radius")]
        return [(f"dia:{t.id}", f"the diameter of the {t.name}") for t in round_things]
    new = [
        ("new:hang", "a new hang point"),
        ("new:old", "a new old part"),
        ("new:mark", "a new mark"),
        ("new:thing", "a new thing, a ball of 20 mm"),
    ]
    lists: tuple[tuple[str, Any], ...] = (
        ("hang", survey.hang_points),
        ("old", survey.old_parts),
        ("mark", survey.marks),
    )
    old = [(f"{kind}:{i.id}", f"{i.name}, in place of its own") for kind, items in lists for i in items]
    return new + [t for thing in survey.things for t in _thing_targets(thing)] + old


def _thing_targets(thing: Thing) -> list[tuple[str, str]]:
    if isinstance(thing.shape, Capsule) or thing.shape.type == "cylinder":
        return [(f"a:{thing.id}", f"one end of the {thing.name}"), (f"b:{thing.id}", f"other end of the {thing.name}")]
    return [(f"middle:{thing.id}", f"the middle of the {thing.name}")] if bounds(thing.shape) else []


def with_answer(survey: Survey, kind: str, item: str, answer: Answer) -> tuple[Survey, str]:
    known: dict[str, Any] = {
        "plus_minus_mm": Length(round(answer.plus_minus_mm, 1)),
        "how_measured": answer.how[:80],
    }
    if kind in ("a", "b", "middle", "dia"):
        return _with_thing(survey, kind, item, answer, known)
    assert answer.point is not None  # the targets of an answer without a place are others
    x, y, z = (Length(round(float(v), 2)) for v in answer.point)
    if kind == "new":
        return _with_new(survey, item, (x, y, z), known)
    place = {"hang": "hang_points", "old": "old_parts", "mark": "marks"}[kind]
    items = getattr(survey, place)
    changed = tuple(i.replace(point=(x, y, z), **known) if i.id == item else i for i in items)
    return survey.replace(**{place: changed}), next(i.name for i in items if i.id == item)


def _with_new(
    survey: Survey, kind: str, point: tuple[Length, Length, Length], known: dict[str, Any]
) -> tuple[Survey, str]:
    place = {"hang": "hang_points", "old": "old_parts", "mark": "marks", "thing": "things"}[kind]
    items = getattr(survey, place)
    taken = {i.id for i in items}
    item_id = next(f"m{n}" for n in range(1, 1000) if f"m{n}" not in taken)
    name = request.form.get("name", "").strip()[:80] or f"point {len(items) + 1}"
    made: Any
    if kind == "thing":
        made = Thing(id=item_id, name=name, shape=Sphere(center=point, radius=Length(10.0)), **known)
    else:
        makers: dict[str, Callable[..., Any]] = {"hang": HangPoint, "old": OldPart, "mark": MarkPoint}
        made = makers[kind](id=item_id, name=name, point=point, **known)
    return survey.replace(**{place: (*items, made)}), name


def _with_thing(survey: Survey, kind: str, item: str, answer: Answer, known: dict[str, Any]) -> tuple[Survey, str]:
    thing = survey.thing(item)
    assert thing is not None  # it was among the targets
    shape = thing.shape
    if kind == "dia":
        assert answer.size is not None  # it was among the targets
        shape = shape.replace(radius=Length(round(answer.size.mm / 2, 2)))
        known = {"how_measured": known["how_measured"]}  # a diameter says nothing of the place
    elif kind == "middle":
        around = bounds(shape)
        assert around is not None and answer.point is not None  # it was among the targets
        shape = moved(shape, answer.point - (around[0] + around[1]) / 2)
    else:
        assert answer.point is not None  # it was among the targets
        end = tuple(Length(round(float(v), 2)) for v in answer.point)
        shape = shape.model_validate({**shape.model_dump(), kind: end})
    changed = thing.replace(shape=shape, **known)
    things = tuple(changed if t.id == item else t for t in survey.things)
    return survey.replace(things=things), thing.name


def _with_first_run(design: Design, od: Length) -> Design:
    """A design that has nothing yet with a start flange, somewhere under the vehicle, and a run from it."""
    start = Part(id="start", name="start flange", item=start_flange(float(od)), placed=placed_at(SOMEWHERE, AHEAD))
    run = Run(id=NEW_RUN, start="start.out", tube=Tube(od_mm=od, wall_mm=Length(1.5)))
    return design.replace(parts=(*design.parts, start), runs=(run,))


def with_copy(design: Design, run_id: str, answer: Answer) -> Design:
    if not design.runs and run_id == NEW_RUN:
        reader = Reader(request.form, typing_unit())
        od = reader.length("od", 10.0, 300.0)
        reader.finish()
        design = _with_first_run(design, od)
    run = design.run(run_id)
    assert run is not None and answer.copy is not None  # it was among the targets
    if any(not isinstance(p, Straight | Bend) or p.locked for p in run.pieces):
        raise EditError("the run has locked pieces or parts in line: take them out first, then copy the old pipe", "to")
    pieces: tuple[Piece, ...] = answer.copy.pieces
    changed = Run.model_validate({**run.model_dump(), "pieces": [p.model_dump() for p in pieces], "joints": []})
    runs = tuple(changed if r.id == run_id else r for r in design.runs)
    return design.replace(runs=runs).validated()


def with_way(design: Design, part_id: str, answer: Answer) -> Design:
    part = design.part(part_id)
    assert part is not None and part.placed is not None and answer.heading is not None  # it was among the targets
    x, y, z = (float(v) for v in answer.heading.direction)
    placed = part.placed.replace(axis=(x, y, z))
    parts = tuple(p.replace(placed=placed) if p.id == part_id else p for p in design.parts)
    return design.replace(parts=parts).validated()
