"""A system of 40 pieces among 40 things, some of which move: invented, for timing only."""

from __future__ import annotations

import numpy as np

from widebend.core.hardware import shelf
from widebend.core.records import (
    Bend,
    Design,
    InLine,
    LowLine,
    Part,
    Piece,
    Placed,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
)
from widebend.core.units import Length
from widebend.demo.examples import axle_travel, bar, block, roof


def big_design() -> Design:
    """40 pieces (two of them parts in line) past 40 things; six of the things move in three positions."""
    pieces: list[Piece] = []
    for i in range(38):
        if i % 2 == 0:
            pieces.append(Straight(id=f"p{i}", length_mm=Length(90.0)))
        else:
            side = 90.0 if (i // 2) % 2 else -90.0
            angle = 12.0 if i == 1 else 24.0
            pieces.append(Bend(id=f"p{i}", angle_deg=angle, clr_mm=Length(95.25), roll_deg=side))
    pieces[10:10] = [InLine(id="cat", part="cat")]
    pieces[25:25] = [InLine(id="res", part="res")]
    parts = (
        Part(
            id="s",
            item=shelf.start_flange(63.5),
            placed=Placed(point=(Length(900), Length(100), Length(260)), axis=(1, 0, 0)),
        ),
        Part(id="cat", item=shelf.can("cat", "cat", 63.5, (260, 118, 118))),
        Part(id="res", item=shelf.can("resonator", "resonator", 63.5, (350, 100, 100))),
        Part(
            id="m",
            item=shelf.can("muffler", "muffler", 63.5, (420, 230, 120)),
            placed=Placed(point=(Length(5200), Length(100), Length(260)), axis=(1, 0, 0)),
        ),
    )
    tube = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
    run = Run(id="r1", start="s.out", aim="m.in", tube=tube, pieces=tuple(pieces))
    return Design(survey=_survey(), parts=parts, runs=(run,), settings=Settings(clr_mm=(Length(95.25),)))


def _survey() -> Survey:
    rng = np.random.default_rng(11)
    things: list[Thing] = [roof("floor", "floor", 560)]
    for i in range(39):
        x, y = 900 + 105.0 * i, float(rng.uniform(-350, 450))
        z = float(rng.uniform(330, 480))
        moves = "rear-axle" if i % 7 == 3 else "body"
        if i % 3 == 0:
            things.append(bar(f"t{i}", f"bar {i}", (x, y - 200, z), (x, y + 200, z), 25, moves_with=moves))
        else:
            things.append(block(f"t{i}", f"block {i}", (x, y, z), (x + 90, y + 120, z + 80), moves_with=moves))
    return Survey(things=tuple(things), groups=(axle_travel(90, 80),), low_line=LowLine(d=Length(150)))
