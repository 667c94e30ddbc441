"""What gives when a piece changes and the finish is held; slices put in by hand; loops said to be loops."""

from __future__ import annotations

import numpy as np
import pytest

from widebend.core.editing import HOLD
from widebend.core.editing import edits as editing
from widebend.core.editing.holding import hold_finish
from widebend.core.errors import EditError
from widebend.core.hardware import SHELF, item_of
from widebend.core.laying import lay_run
from widebend.core.records import Bend, Design, InLine, Part, Run, SegmentedBend, Straight
from widebend.core.review import CLOSES_MM
from widebend.core.routing import propose
from widebend.core.units import Length
from widebend.demo.examples import first_job


def _leg(key: str, long: float, **more: object) -> Straight:
    return Straight(id=key, length_mm=Length(long), **more)


def _bend(key: str, deg: float, roll: float) -> Bend:
    return Bend(id=key, angle_deg=deg, clr_mm=Length(95.25), roll_deg=roll)


JOG = (_leg("a", 400), _bend("b", 30, 90), _leg("c", 300), _bend("d", 30, 270), _leg("e", 500))


def _design(*pieces: object) -> Design:
    base = first_job()
    return base.replace(runs=(base.runs[0].replace(pieces=pieces),))


def _end(design: Design) -> np.ndarray:
    laid = lay_run(design, design.runs[0])
    assert laid is not None
    return np.array(laid.end.point)


def _lengths(run: Run) -> dict[str, float]:
    return {p.id: float(p.length_mm) for p in run.pieces if isinstance(p, Straight)}


def test_a_straight_that_runs_the_same_way_gives_alone() -> None:
    design = _design(*JOG)
    longer = editing.set_piece(design, "r1", "a", {"length_mm": Length(470)}, HOLD)
    assert np.linalg.norm(_end(longer) - _end(design)) < 1e-6
    assert _lengths(longer.runs[0]) == pytest.approx({"a": 470, "c": 300, "e": 430})
    assert [p for p in longer.runs[0].pieces if isinstance(p, Bend)] == [JOG[1], JOG[3]]


def test_a_part_put_into_a_straight_takes_its_length_out_of_it() -> None:
    """The last straight of a short run: nothing behind it could give anything."""
    item = item_of("flex", "flex", {m.key: m.usual for m in SHELF["flex"].measures})
    long = float(item.ports[1].point[0]) - float(item.ports[0].point[0])
    design = _design(*JOG).replace(parts=(*first_job().parts, Part(id="fx", name="flex", item=item)))
    carried, new = editing.carry(design, "r1", "e", "fx", HOLD)
    assert np.linalg.norm(_end(carried) - _end(design)) < 1e-6
    assert _lengths(carried.runs[0]) == pytest.approx({"a": 400, "c": 300, "e": 500 - abs(long)})
    assert isinstance(next(p for p in carried.runs[0].pieces if p.id == new), InLine)


def test_what_could_give_is_said_with_its_figure() -> None:
    """The last straight made 190 longer: only the first runs the same way, and it stands ahead."""
    with pytest.raises(EditError, match="Shorten piece 1 by 190 mm and carry the rest"):
        editing.set_piece(_design(*JOG), "r1", "e", {"length_mm": Length(690)}, HOLD)
    locked = (JOG[0], *(piece.replace(locked=True) for piece in JOG[1:]))
    with pytest.raises(EditError, match="Unlock piece 2 or 3 or 4"):
        editing.set_piece(_design(*locked), "r1", "a", {"length_mm": Length(470)}, HOLD)


def test_several_straights_give_where_one_alone_cannot() -> None:
    """A square: what one straight lacks two others make up, exactly."""
    square = (
        _leg("a", 300),
        _bend("b", 90, 90),
        _leg("c", 300),
        _bend("d", 90, 90),
        _leg("e", 300, locked=True),
        _bend("f", 90, 90),
        _leg("g", 300),
    )
    design = _design(*square)
    moved = hold_finish(design, design.runs[0], [square[0].replace(length_mm=Length(320)), *square[1:]], 0)
    held = _design(*moved)
    assert np.linalg.norm(_end(held) - _end(design)) < 1e-6
    assert moved[4] == square[4]


def test_slices_are_put_in_by_hand_and_changed_and_a_pack_becomes_slices() -> None:
    design, new = editing.insert(_design(*JOG), "r1", "a", "pie")
    pie = next(p for p in design.runs[0].pieces if p.id == new)
    assert isinstance(pie, SegmentedBend)
    assert pie.slices * pie.turn_each_deg == pytest.approx(45.0)
    assert float(pie.clr_mm) == pytest.approx(31.75 + 6 / (2 * np.tan(np.radians(7.5))), abs=0.01), "6 mm at the throat"
    changed = editing.set_piece(design, "r1", new, {"slices": 5, "turn_each_deg": 12.0, "clr_mm": Length(90)})
    assert next(p for p in changed.runs[0].pieces if p.id == new).slices == 5
    with pytest.raises(EditError, match="more than 0° up to 180°"):
        editing.set_piece(design, "r1", new, {"slices": 60})
    item = item_of("pie-pack", "pack", {"od": 63.5, "clr": 80.0, "slices": 6, "each": 10.0})
    packed = _design(*JOG).replace(parts=(*first_job().parts, Part(id="pk", name="pack", item=item)))
    carried, new = editing.carry(packed, "r1", "a", "pk")
    made = next(p for p in carried.runs[0].pieces if p.id == new)
    assert isinstance(made, SegmentedBend)
    assert (made.slices, made.turn_each_deg, float(made.clr_mm)) == (6, 10.0, 80.0)
    assert carried.part("pk") is None


def test_closing_a_run_that_was_drawn_past_its_finish_starts_anew_behind_what_stays() -> None:
    """900 mm past the finish and no way on but round: from the start there is one that is no loop."""
    design = _design(_leg("a", 300, locked=True), _leg("b", 2000))
    found = propose(design, "r1")
    assert found.kept == 1
    assert not found.found[0].answer.goes_round
    rounds = [p.answer.goes_round for p in found.found if p.keeps_gaps]
    assert rounds == sorted(rounds)  # loops come last
    laid = found.found[0].laid[-1].outlet.point
    target = lay_run(design, design.runs[0])
    assert target is not None and target.aim is not None
    assert np.linalg.norm(laid - target.aim.point) < CLOSES_MM
