"""What an answer says of its gaps is what the review says once it is taken: over jobs of random things that move."""

from __future__ import annotations

import contextlib

import numpy as np
import pytest

from widebend.core.errors import EditError
from widebend.core.hardware import shelf
from widebend.core.records import (
    AxleTravel,
    Capsule,
    Design,
    Group,
    LowLine,
    Part,
    Placed,
    Rock,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
)
from widebend.core.review import review
from widebend.core.routing import Proposals, Wish, propose, seek, taken
from widebend.core.units import Length

TUBE = Tube(od_mm=Length(50.8), wall_mm=Length(1.5))


SYSTEM = ("r1", "r2", "m", "b")


def _lengths(values: np.ndarray) -> tuple[Length, ...]:
    return tuple(Length(round(float(v), 1)) for v in values)


def _job(seed: int) -> Design:
    """A run to be found from a flange that rocks with the engine, past bars that stay, travel and rock, beside a
    second pipe that hangs.
    """
    rng = np.random.default_rng(seed)
    start = Part(
        id="s",
        item=shelf.start_flange(50.8),
        moves="engine",
        placed=Placed(point=_lengths(np.array([800.0, 0.0, 350.0])), axis=(1, 0, 0)),
    )
    can = Part(
        id="m",
        item=shelf.can("muffler", "can", 50.8, (220, 120, 400), spigot_mm=60),
        moves="hung",
        placed=Placed(point=_lengths(rng.uniform((2300, -150, 200), (2301, 150, 500))), axis=(1, 0, 0)),
    )
    beside = Part(
        id="b",
        item=shelf.start_flange(50.8),
        moves="hung",
        placed=Placed(point=_lengths(np.array([900.0, 160.0, 350.0])), axis=(1, 0, 0)),
    )
    things = []
    for k, group in enumerate(("body", "axle", "engine", "body")):
        middle = rng.uniform((1100, -150, 250), (2100, 150, 450))
        way = rng.normal(size=3) * (20, 150, 150)
        things.append(
            Thing(
                id=f"t{k}",
                name=f"bar {k}",
                moves_with=group,
                shape=Capsule(a=_lengths(middle - way), b=_lengths(middle + way), radius=Length(15)),
            )
        )
    groups = (
        Group(id="axle", motion=AxleTravel(droop_mm=Length(60), bump_mm=Length(60))),
        Group(id="engine", motion=Rock(about=_lengths(np.array([400, 0, 500])), axis=(1, 0, 0), deg=2.0)),
    )
    runs = (
        Run(id="r1", name="left", start="s.out", aim="m.in", tube=TUBE),
        Run(id="r2", name="right", start="b.out", tube=TUBE, pieces=(Straight(id="x", length_mm=Length(500)),)),
    )
    return Design(
        survey=Survey(things=tuple(things), groups=groups, low_line=LowLine(d=Length(-100))),
        parts=(start, can, beside),
        runs=runs,
        settings=Settings(clr_mm=(Length(76.2),)),
    )


def _holds(design: Design, found: Proposals) -> int:
    for index, answer in enumerate(found.found):
        after = review(taken(design, "r1", found, index))
        # what rocks with the engine may be met by what rocks with it, not gone through
        gaps = [
            (g.margin_mm, g.obstacle.thing.name)
            for g in after.gaps
            if g.run == "r1" and not (g.together and g.gap_mm > -3.0)
        ]
        own = [(f.margin_mm, f.thing_name) for f in after.findings if f.thing in SYSTEM and "r1" in (f.run, f.thing)]
        least, name = min([*gaps, *own, (80.0, "")])
        assert answer.worst_margin_mm == pytest.approx(least, abs=1e-9), (answer.worst_thing, name)
        assert answer.worst_thing in (name, "pipe itself", "right pipe", "can")
        assert answer.keeps_gaps == (
            not any(
                f.code in ("touches", "tight", "own")
                for f in after.findings
                if "r1" in (f.run, f.thing) and f.thing != "m"
            )
        )
    return len(found.found)


@pytest.mark.parametrize("seed", range(12))
def test_an_answer_says_what_the_review_says_once_it_is_taken(seed: int) -> None:
    design = _job(seed)
    count = _holds(design, propose(design, "r1"))
    if seed < 4:
        with contextlib.suppress(EditError):  # no way at all
            count += _holds(design, seek(design, "r1", Wish()))
    assert count
