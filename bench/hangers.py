"""A system of 60 pieces on eight hangers: how long its loads take; the demo's systems hung by one button."""

from __future__ import annotations

import time

from bench.big_system import big_design
from bench.timing import median_ms
from widebend.core.hanger_search import mock_up, propose_hangers
from widebend.core.hanging import hang, hang_faults
from widebend.core.laying import system_of
from widebend.core.records import Bend, Design, Hanger, Piece, Run, Settings, Straight, Tube
from widebend.core.review import review
from widebend.core.units import Length
from widebend.demo.examples import cat_back
from widebend.demo.hung import twin_hung
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

PIECES, HANGERS = 60, 8


def long_design() -> Design:
    """60 pieces of pipe in a row, hung at eight of its straights."""
    pieces: list[Piece] = []
    for k in range(PIECES):
        side = 90.0 if (k // 2) % 2 else -90.0
        bend = Bend(id=f"p{k}", angle_deg=12.0 if k == 1 else 24.0, clr_mm=Length(95.25), roll_deg=side)
        pieces.append(bend if k % 2 else Straight(id=f"p{k}", length_mm=Length(90.0)))
    bare = big_design()
    run = Run(id="r1", start="s.out", tube=Tube(od_mm=Length(63.5), wall_mm=Length(1.5)), pieces=tuple(pieces))
    every = PIECES // HANGERS
    hangers = tuple(
        Hanger(id=f"h{n}", run="r1", piece=f"p{2 * ((n + 1) * every // 2) - 2}", along_mm=Length(45.0))
        for n in range(HANGERS)
    )
    return Design(parts=bare.parts[:1], runs=(run,), hangers=hangers, settings=Settings(clr_mm=(Length(95.25),)))


def bench_hangers() -> None:
    """Loads, sag and five ways of swinging of 60 pieces on eight hangers; and *hang it* on each system of the demo."""
    design = long_design()
    system = system_of(design)
    hung = hang(design, system)
    print(f"{len(system.runs[0].pieces)} pieces, {len(hung.carried)} hangers, {len(hung.nodes)} nodes")
    print(f"loads and sag                        {median_ms(lambda: hang(design, system, modes=0)):10.1f} ms")
    print(f"and five ways of swinging            {median_ms(lambda: hang(design, system)):10.1f} ms")
    print(f"and what is wrong                    {median_ms(lambda: hang_faults(design, system, hung)):10.1f} ms")
    hung_twin = twin_hung(twin_x())
    bare = hung_twin.replace(hangers=())
    print(f"the twin looked at, by the usual swing {median_ms(lambda: review(bare)):8.1f} ms")
    print(f"and as its four hangers let it move  {median_ms(lambda: review(hung_twin)):10.1f} ms")
    print(f"the twin propped                     {median_ms(lambda: mock_up(bare, system_of(bare))):10.1f} ms")
    for name, made in (
        ("estate", cat_back),
        ("twin", twin_x),
        ("truck", low_truck),
        ("quad", quad_rear),
        ("downpipe", pie_downpipe),
    ):
        one = made()
        laid = system_of(one)
        begun = time.perf_counter()
        answer = propose_hangers(one, laid)
        spent = time.perf_counter() - begun
        said = "needs none" if answer.needs_none else f"{len(answer.found)} ways"
        print(f"hang it: {name:28s}{spent * 1000:10.0f} ms   {said}")
