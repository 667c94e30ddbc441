"""A twin system of 60 pieces among 60 things, rocking, swinging, growing past an axle: invented, for timing only."""

from __future__ import annotations

import numpy as np

from widebend.core.editing import mirror_run
from widebend.core.hardware import shelf
from widebend.core.records import (
    Bend,
    Design,
    Group,
    InLine,
    LowLine,
    Part,
    Piece,
    Placed,
    Rock,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
)
from widebend.core.units import Length
from widebend.demo.examples import axle_travel, bar, block, roof


def twin_design() -> Design:
    """Two mirrored runs of 30 pieces, with flex, cat and resonator, past 60 things and an axle."""
    pieces: list[Piece] = []
    for i in range(27):
        if i % 2 == 0:
            pieces.append(Straight(id=f"p{i}", length_mm=Length(110.0)))
        else:
            side = -90.0 if (i // 2) % 2 else 90.0
            pieces.append(Bend(id=f"p{i}", angle_deg=12.0 if i == 1 else 24.0, clr_mm=Length(95.25), roll_deg=side))
    for at, name in ((3, "flex"), (8, "cat"), (20, "res")):
        pieces.insert(at, InLine(id=name, part=name))
    spigots = {"spigot_mm": 40.0}
    parts = (
        Part(
            id="s",
            item=shelf.start_flange(63.5),
            placed=Placed(point=(Length(900), Length(330), Length(260)), axis=(1, 0, 0)),
        ),
        Part(id="flex", item=shelf.can("flex", "flex", 63.5, (100, 86, 86), **spigots)),
        Part(id="cat", item=shelf.can("cat", "cat", 63.5, (260, 118, 118), **spigots)),
        Part(id="res", item=shelf.can("resonator", "resonator", 63.5, (350, 100, 100), **spigots)),
        Part(
            id="m",
            item=shelf.can("muffler", "muffler", 63.5, (420, 230, 120), **spigots),
            placed=Placed(point=(Length(4900), Length(330), Length(260)), axis=(1, 0, 0)),
        ),
    )
    tube = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
    run = Run(id="r1", start="s.out", aim="m.in", tube=tube, pieces=tuple(pieces))
    one = Design(survey=_survey(), parts=parts, runs=(run,), settings=Settings(clr_mm=(Length(95.25),)))
    return mirror_run(one, "r1")


def _survey() -> Survey:
    rng = np.random.default_rng(7)
    things: list[Thing] = [roof("floor", "floor", 560)]
    for i in range(59):
        x, y = 900 + 68.0 * i, float(rng.uniform(-420, 420))
        z = float(rng.uniform(330, 480))
        moves = "rear-axle" if i % 7 == 3 else "engine" if i < 6 else "body"
        if i % 3 == 0:
            things.append(bar(f"t{i}", f"bar {i}", (x, y - 120, z), (x, y + 120, z), 25, moves_with=moves))
        else:
            things.append(block(f"t{i}", f"block {i}", (x, y, z), (x + 90, y + 120, z + 80), moves_with=moves))
    rock = Rock(about=(Length(300), Length(0), Length(450)), axis=(0, 1, 0), deg=2.0)
    groups = (axle_travel(90, 80), Group(id="engine", name="engine", motion=rock))
    return Survey(things=tuple(things), groups=groups, low_line=LowLine(d=Length(150)))
