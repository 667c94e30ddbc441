"""What the gas does in a twin system of sixty pieces: pressure, heat, sound, timed."""

from __future__ import annotations

from bench.timing import median_ms
from bench.twin_system import twin_design
from widebend.core.gas import STATES, FlowSolution, breath_of
from widebend.core.heat import covered, heat_near
from widebend.core.laying import system_of
from widebend.core.records import Design, Engine
from widebend.core.sound import drones, heard, levels_by_speed


def bench_gas() -> None:
    """All that the gas does in a twin system of sixty pieces: three states, heat at what is near, levels and drones."""
    design = twin_with_engine()
    system = system_of(design)
    engine = design.settings.engine
    assert engine is not None  # it was just put in

    def one() -> FlowSolution:
        return breath_of(design, system, "full", covered(design))

    def all_of_it() -> None:
        for state in STATES:
            breath = breath_of(design, system, state, covered(design))
        heat_near(design, breath)
        breath = breath_of(design, system, "cruise", covered(design))
        drones(engine, breath, levels_by_speed(engine, breath, heard(breath)), design.settings.rules)

    all_of_it()
    pieces = sum(len(r.pieces) for r in system.runs)
    print(
        f"twin system, {pieces} pieces: one state {median_ms(one, 15):.0f} ms, three states with their ranges, heat at "
        f"{len(design.survey.things)} things, levels by order and drones {median_ms(all_of_it, 9):.0f} ms (asked: 300)"
    )


def twin_with_engine() -> Design:
    """The twin system of sixty pieces, with what fires into it."""
    design = twin_design()
    engine = Engine(cylinders=8, firing="each bank uneven", litres=5.0, power_kw=300.0)
    return design.replace(settings=design.settings.replace(engine=engine))
