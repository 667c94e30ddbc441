"""Random edits, one after the other, through the one door: a design that lays and reviews, or a refusal in words."""

import numpy as np
import pytest
from bench.random_edits import edited

from widebend.core.errors import EditError
from widebend.core.records import Configuration, Design, Fitted, Hanger, InLine, Run, Straight, Tap
from widebend.core.review import review
from widebend.demo.examples import cat_back
from widebend.demo.systems import pie_downpipe, twin_x


def test_random_edits_give_a_sound_design_or_a_refusal() -> None:
    rng, done, refused = np.random.default_rng(6), 0, 0
    for design in (twin_x(), pie_downpipe()):
        for k in range(90):
            after = edited(design, rng)
            if after is None:
                refused += 1
                continue
            done += 1
            design = after
            if k % 9 == 0:
                review(Design.model_validate(design.model_dump(mode="json")))
    assert done > 60
    assert refused > 20


def _circle(design: Design) -> dict:
    """The run starts from a part that it carries itself."""
    run = next(r for r in design.runs if any(isinstance(p, InLine) for p in r.pieces))
    part = next(p.part for p in run.pieces if isinstance(p, InLine))
    itself = run.replace(start=f"{part}.{design.part(part).item.ports[0].id}", twin_of=None)
    return {"runs": tuple(itself if r.id == run.id else r for r in design.runs)}


LEG = Straight(id="p1", length_mm=9)
BROKEN = {
    "in a circle": _circle,
    "which is not there": lambda d: {"hangers": (Hanger(id="h", run="r1", piece="nowhere", along_mm=0),)},
    "take it off on the Fit step": lambda d: {"fitted": (Fitted(run="nobody", piece="p1", planned=LEG),)},
    "a port that no part has": lambda d: {"settings": d.settings.replace(fixed_at="no.where")},
    "no other run": lambda d: {"runs": (d.runs[0].replace(twin_of="ghost"), *d.runs[1:])},
}


@pytest.mark.parametrize("words", BROKEN)
def test_what_points_nowhere_is_refused_in_words(words: str) -> None:
    design = twin_x()
    with pytest.raises(EditError, match=words):
        design.replace(**BROKEN[words](design)).validated()


def test_a_branch_of_a_branch_is_laid() -> None:
    design = pie_downpipe()
    branch = next(r for r in design.runs if isinstance(r.start, Tap))
    tap = Tap(run=branch.id, piece=branch.pieces[0].id, along_mm=30, roll_deg=0.0)
    second = branch.replace(id="second", start=tap, pieces=(Straight(id="a", length_mm=50),))
    found = review(design.replace(runs=(*design.runs, second)).validated())
    assert any(r.run.id == "second" for r in found.system.runs)


def test_a_part_with_any_name_is_said_whole() -> None:
    from widebend.core.wording import say

    design = pie_downpipe()
    cats = tuple(p.replace(name="a|b|c") for p in design.parts)
    named = design.replace(parts=cats).validated()
    assert all(say(f, named) for f in review(named).findings)


def test_a_configuration_that_later_edits_broke_says_so() -> None:
    from widebend.core.editing import configured

    design = twin_x()
    carried = next(p.part for r in design.runs for p in r.pieces if isinstance(p, InLine))
    held = design.settings.replace(fixed_at=f"{carried}.{design.part(carried).item.ports[0].id}")
    left = configured(design.replace(settings=held), Configuration(id="c", name="c", without=(carried,)))
    assert left.settings.fixed_at is None


def test_a_run_that_aims_for_what_hangs_on_itself_is_refused() -> None:
    """Found by 5,000 random edits: laying either of the two would need the other first, for ever."""
    base = cat_back()
    carrier = base.runs[0]
    part = next(p.part for p in carrier.pieces if isinstance(p, InLine))
    on_it = Run(id="r9", start=f"{part}.out", aim=None, tube=carrier.tube)
    fine = base.replace(runs=(carrier, on_it)).validated()
    assert fine.run("r9") is not None
    looped = carrier.replace(aim=f"{part}.in")
    with pytest.raises(EditError, match="in a circle"):
        base.replace(runs=(looped, on_it)).validated()
