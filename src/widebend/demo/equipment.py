"""The invented shop's equipment: one bender with two dies, one of them learnt from test bends."""

from __future__ import annotations

from ..core.records import Bender, Die, Equipment, TestBend
from ..core.units import Length

# what was set and what came out, made up so that the die opens some 2.4 % and half a degree
TESTS = ((30.0, 28.7), (45.0, 43.5), (60.0, 58.0), (90.0, 87.4), (30.0, 28.8), (60.0, 58.1))


def equipment() -> Equipment:
    """The demo's saw, welding, tables, lift and bender."""
    tests = tuple(TestBend(set_deg=s, got_deg=g) for s, g in TESTS)
    dies = (
        Die(od_mm=Length(63.5), clr_mm=Length(95.25), grip_mm=Length(65.0), between_mm=Length(70.0), tests=tests),
        Die(od_mm=Length(76.2), clr_mm=Length(114.3), grip_mm=Length(80.0), between_mm=Length(85.0)),
    )
    bender = Bender(id="b1", name="rotary bender", most_deg=180.0, longest_mm=Length(4000.0), dies=dies)
    return Equipment(
        saw_across_mm=Length(150.0),
        saw_mitre_deg=45.0,
        rod_mm=Length(12.0),
        plate_mm=Length(5.0),
        processes=("TIG", "MIG"),
        table_mm=Length(2400.0),
        lift_mm=Length(1850.0),
        benders=(bender,),
    )
