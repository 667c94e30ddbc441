"""Another item in a part's place: the inlet stays, what stood on its outlet comes along, the straight behind gives."""

import numpy as np
import pytest

from widebend.core.editing import with_other_item
from widebend.core.errors import EditError
from widebend.core.hardware import SHELF, item_of
from widebend.core.laying import lay_run, system_of
from widebend.core.records import Design, InLine, Item, Straight
from widebend.demo.systems import twin_x


def _muffler(long: float, kind: str = "muffler") -> Item:
    return item_of(kind, "", {m.key: m.usual for m in SHELF[kind].measures} | {"long": long})


def _ports(design: Design) -> dict[str, np.ndarray]:
    return {p.name: p.pose.point for p in system_of(design).ports}


def test_a_longer_muffler_is_held_at_its_inlet_and_its_tip_goes_back_as_far() -> None:
    design = twin_x()
    old = design.part("muffler-1").item
    reach = [abs(i.ports[1].point[0] - i.ports[0].point[0]) for i in (old, _muffler(480.0))]
    before, after = _ports(design), _ports(with_other_item(design, "muffler-1", _muffler(480.0)))
    assert np.linalg.norm(after["muffler-1.in"] - before["muffler-1.in"]) < 1e-6
    for port in ("muffler-1.out", "tip-1.in", "tip-1.out"):
        assert np.linalg.norm(after[port] - before[port]) == pytest.approx(reach[1] - reach[0])
    assert np.linalg.norm(after["muffler-2.in"] - before["muffler-2.in"]) == 0


def test_of_a_part_in_line_the_straight_behind_gives_so_that_the_end_stays() -> None:
    """A part 10 mm longer takes 10 mm of the straight behind it: what is further back has not moved."""
    design = twin_x()
    run, k = next(
        (r, i)
        for r in design.runs
        for i, p in enumerate(r.pieces)
        if isinstance(p, InLine) and i + 1 < len(r.pieces) and isinstance(r.pieces[i + 1], Straight)
    )
    part = design.part(run.pieces[k].part)
    a, b = part.item.ports
    longer = b.replace(point=(type(b.point[0])(b.point[0] + 10.0), *b.point[1:]))
    after = with_other_item(design, part.id, part.item.replace(ports=(a, longer)))
    assert np.linalg.norm(lay_run(design, run).end.point - lay_run(after, after.run(run.id)).end.point) < 1e-6
    assert float(run.pieces[k + 1].length_mm) - float(after.run(run.id).pieces[k + 1].length_mm) == pytest.approx(10.0)
    much = b.replace(point=(type(b.point[0])(b.point[0] + 5000.0), *b.point[1:]))
    with pytest.raises(EditError, match="too long for the straight behind it"):
        with_other_item(design, part.id, part.item.replace(ports=(a, much)))


def test_one_without_a_port_that_is_in_use_is_refused() -> None:
    design = twin_x()
    with pytest.raises(EditError, match="has no “in”"):
        with_other_item(design, "muffler-1", _muffler(300.0).replace(ports=_muffler(300.0).ports[1:]))
