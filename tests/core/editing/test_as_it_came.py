"""A bend that came out over stays: what is not cut yet takes it up, the end stays where it was."""

import numpy as np
import pytest

from widebend.core.editing import leave_as_it_came
from widebend.core.errors import EditError
from widebend.core.laying import lay_run
from widebend.core.records import Design, Run
from widebend.demo.systems import twin_x


def _run_with_bends(design: Design) -> Run:
    return max(design.runs, key=lambda r: sum(p.kind == "bend" for p in r.pieces))


def test_the_end_stays_and_what_is_made_does_not_give() -> None:
    design = twin_x()
    run = _run_with_bends(design)
    bend = next(p for p in run.pieces if p.kind == "bend")
    first = run.pieces[0]
    after = leave_as_it_came(design, run.id, bend.id, {"angle_deg": bend.angle_deg + 0.5}, {first.id})
    ends = [lay_run(d, d.run(run.id)).end for d in (design, after)]
    assert np.linalg.norm(ends[0].point - ends[1].point) < 0.01
    assert ends[0].flow @ ends[1].flow == pytest.approx(1.0, abs=1e-9)
    pieces = {p.id: p for p in after.run(run.id).pieces}
    assert pieces[bend.id].angle_deg == pytest.approx(bend.angle_deg + 0.5)
    assert not pieces[bend.id].locked
    assert pieces[first.id] == first


def test_what_cannot_give_is_said() -> None:
    design = twin_x()
    run = _run_with_bends(design)
    bend = next(p for p in run.pieces if p.kind == "bend")
    with pytest.raises(EditError, match="cannot"):
        leave_as_it_came(design, run.id, bend.id, {"angle_deg": 20.0}, {p.id for p in run.pieces})
    with pytest.raises(EditError, match="no longer"):
        leave_as_it_came(design, run.id, "none", {}, set())
