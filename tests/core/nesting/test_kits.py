"""Kits compared by hand: what is in them, what is bought besides, what is left over."""

from __future__ import annotations

import pytest

from widebend.core.errors import InputError
from widebend.core.nesting import Stocked, compare_kits, nest_bends, within
from widebend.core.records import Kit, KitLine, StockItem
from widebend.formats.kit_lines import read_kit_lines

from .test_bends import BEND, _item, _planned


def _kit(name: str, price: float, **counts: int) -> Kit:
    lines = tuple(
        KitLine(count=n, item=StockItem.model_validate(BEND | {"angle_deg": float(deg[1:])}))
        for deg, n in counts.items()
    )
    return Kit(name=name, price=price, lines=lines)


def test_the_cheapest_way_is_found_by_hand() -> None:
    """Three bends of 45: each 14 by itself is 42. A kit of two at 20 and one more is 34; one of four 90s at 60 is
    dearer; a second set of the small one (40) would be dearer than one and a bend.
    """
    priced = [_item("priced", 0, angle_deg=45.0, price=14.0)]
    design, laid, _, _ = _planned([45.0, 45.0, 45.0], priced)

    def lay(shelf):  # type: ignore[no-untyped-def]
        return [], nest_bends(design, [laid], shelf, "least cost", within(1.0))

    kits = [_kit("four", 60.0, d90=4), _kit("two", 20.0, d45=2), _kit("thirties", 1.0, d30=4)]
    found = compare_kits(kits, [Stocked(s.id, s.item, s.count) for s in priced], lay)
    best = found[0]
    assert (best.kit.name, best.sets, best.cost, best.besides) == ("two", 1, 34.0, 1)
    assert next(one for one in found if one.kit is None).cost == 42.0
    four = next(one for one in found if one.kit and one.kit.name == "four")
    assert (four.besides, [n for n, _ in four.over]) == (0, [1])
    assert all(one.kit is None or one.kit.name != "thirties" for one in found)  # it holds nothing of use


def test_kits_are_written_as_a_person_writes_them() -> None:
    lines = read_kit_lines('4 bends 2.5 x 0.065 409, 45 deg, radius 3 3/4", legs 4\n\n1 x gasket ring 63.5', "in")
    assert (lines[0].count, lines[0].item.clr_mm, lines[0].item.leg_mm) == (4, pytest.approx(95.25), 101.6)
    assert (lines[0].item.od_mm, lines[0].item.wall_mm) == (63.5, pytest.approx(1.651))
    assert lines[1].item.name == "ring 63.5"
    good = "1 bend 63.5 x 1.5 304, 45 deg, radius 95"
    for text, words in (
        ("", "a line for each"),
        ("bend", "line 1: how many first"),
        ("2 hoses", "what is it"),
        (f"{good}\n2 bend 63.5 x 1.5 304", "line 2: a bend needs its angle"),
    ):
        with pytest.raises(InputError, match=words):
            read_kit_lines(text, "mm")
