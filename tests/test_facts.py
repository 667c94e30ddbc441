"""The tables of facts answer for every name that a record may hold."""

from __future__ import annotations

from itertools import combinations_with_replacement
from typing import get_args

import pytest

from widebend.facts import (
    JOINTS,
    METALS,
    PART_KINDS,
    PROCESSES,
    TUBE_METALS,
    JointKind,
    Material,
    Metal,
    PartKind,
    Process,
    wire_between,
)


def test_every_name_has_its_row() -> None:
    assert set(METALS) == set(get_args(Metal))
    assert set(TUBE_METALS) == set(get_args(Material)) == {metal for metal, facts in METALS.items() if facts.is_tube}
    assert set(JOINTS) == set(get_args(JointKind))
    assert set(PART_KINDS) == set(get_args(PartKind))
    assert set(PROCESSES) == set(get_args(Process))


@pytest.mark.parametrize(("one", "other"), [*combinations_with_replacement(get_args(Metal), 2)])
def test_metals_of_one_family_that_some_process_welds_have_a_wire(one: Metal, other: Metal) -> None:
    a, b = METALS[one], METALS[other]
    welds = a.family == b.family and bool(a.processes & b.processes)
    assert (wire_between(one, other) is not None) == welds
    assert wire_between(one, other) == wire_between(other, one)
    assert welds or a.family != b.family or a.not_welded


def test_density_and_stiffness_are_those_of_the_standard() -> None:
    """EN 10088-1 for 1.4301 and 1.4512: 7.9 and 7.7 kg/dm3, 200 and 220 GPa; EN 10220: 7.85. From memory."""
    assert [METALS[m].density_kg_m3 for m in ("304", "409", "mild")] == [7900.0, 7700.0, 7850.0]
    assert [METALS[m].young_mpa for m in ("304", "409")] == [200_000.0, 220_000.0]


def test_what_comes_apart_is_bought_and_tightened() -> None:
    """A joint that comes apart has a torque and something to buy; a weld has neither: common practice, no source."""
    for facts in JOINTS.values():
        assert bool(facts.torque_nm) == bool(facts.bought) == facts.comes_apart
