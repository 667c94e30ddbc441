"""Cutting stock against published instances, exhaustive search and what a bar holds."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.errors import InputError
from widebend.core.nesting import Bar, Cut, Nest, Saw, nest, yield_of

NO_KERF = Saw(kerf_mm=0.0)

# A paper mill's order, the cutting-stock example of encyclopaedias and tutorials (from memory): 73 rolls of 5600;
# Chvatal, Linear Programming (1983), ch. 13 (from memory): 453 rolls of 100 in; Winston, Operations Research (data from
# memory, value derived with another model): 19 boards of 17 ft
PUBLISHED = {
    "mill": (
        5600,
        73,
        {
            1380: 22,
            1520: 25,
            1560: 12,
            1710: 14,
            1820: 18,
            1880: 18,
            1930: 20,
            2000: 10,
            2050: 12,
            2100: 14,
            2140: 16,
            2150: 18,
            2200: 20,
        },
    ),
    "Chvatal": (100, 453, {45: 97, 36: 610, 31: 395, 14: 211}),
    "Winston": (17, 19, {3: 25, 5: 20, 9: 15}),
}


@pytest.mark.parametrize("name", PUBLISHED)
def test_published_instances_at_their_optimum(name: str) -> None:
    long, rolls, demand = PUBLISHED[name]
    cuts = [Cut(str(width), width, count) for width, count in demand.items()]
    found = nest([Bar("roll", long)], cuts, NO_KERF)
    assert found.proven
    assert len(found.layouts) == rolls
    _holds(found, cuts, NO_KERF)


@pytest.mark.parametrize(
    ("kerf", "piece", "count", "bars"),
    [
        (4, 250, 20, 7),  # derived by hand: three pieces and two kerfs a bar; without kerf it would be 5
        (4, 498, 10, 5),  # 498 + 4 + 498 = 1000: the last cut is free where the bar ends
        (0, 250, 20, 5),
    ],
)
def test_kerf_between_pieces_only(kerf: float, piece: float, count: int, bars: int) -> None:
    found = nest([Bar("bar", 1000)], [Cut("p", piece, count)], Saw(kerf_mm=kerf))
    assert len(found.layouts) == bars
    assert found.proven


def test_two_stock_lengths() -> None:
    """Derived with another model (pattern enumeration, an LP's bound): 26,000 mm."""
    cuts = [Cut("a", 2300, 3), Cut("b", 1700, 4), Cut("c", 1250, 5), Cut("d", 800, 6)]
    found = nest([Bar("long", 6000), Bar("short", 4000)], cuts, Saw(kerf_mm=3))
    assert found.bought_mm == 26_000
    _holds(found, cuts, Saw(kerf_mm=3))


def test_offcuts_first_and_never_more_than_there_are() -> None:
    bars = [Bar("rest", 700, 1, is_offcut=True), Bar("shelf", 3000, 1), Bar("new", 6000, cost=60.0)]
    found = nest(bars, [Cut("p", 650, 1), Cut("q", 1200, 2)], Saw(), "tidy shelf")
    assert [(one.bar.id, one.pieces) for one in found.layouts] == [("rest", ("p",)), ("shelf", ("q", "q"))]
    left_out = nest(bars[:2], [Cut("q", 1200, 4), Cut("much", 9000, 1)], Saw())
    assert left_out.short == ("much", "q", "q")


def test_the_vice_holds_a_part() -> None:
    """20 mm rings from 100 mm ends: the last of them cannot be held, so every end keeps 60."""
    rings, saw = [Cut("ring", 20, 4)], Saw(kerf_mm=2, hold_mm=60)
    assert len(nest([Bar("end", 100)], rings, Saw(kerf_mm=2)).layouts) == 1
    assert [len(one.pieces) for one in nest([Bar("end", 100)], rings, saw).layouts] == [1, 1, 1, 1]
    with_long = nest([Bar("end", 150)], [Cut("ring", 20, 3), Cut("leg", 70, 1)], saw)
    assert len(with_long.layouts) == 1


@pytest.mark.parametrize("seed", range(20))
def test_small_cases_equal_exhaustive_search(seed: int) -> None:
    rng = np.random.default_rng(seed)
    pieces = [int(v) for v in rng.integers(200, 1400, 6)]
    saw = Saw(kerf_mm=3)
    found = nest([Bar("bar", 2000)], [Cut(f"p{k}", v) for k, v in enumerate(pieces)], saw)
    assert found.proven
    assert len(found.layouts) == _fewest(pieces, 2000, 3)


def _fewest(pieces: list[int], bar: int, kerf: int) -> int:
    """Tries every split of the pieces into bars."""
    for bars in itertools.count(1):
        for split in itertools.product(range(bars), repeat=len(pieces)):
            loads = [[p for p, b in zip(pieces, split, strict=True) if b == k] for k in range(bars)]
            if all(sum(load) + kerf * (len(load) - 1) <= bar for load in loads):
                return bars
    raise AssertionError


def test_what_is_not_proven_is_not_said_to_be() -> None:
    """With no time to speak of all pieces are laid as by hand, and how far from the best that may be is said."""
    rng = np.random.default_rng(3)
    cuts = [Cut(f"p{k}", float(round(v))) for k, v in enumerate(rng.uniform(100, 1900, 40))]
    bars = [*(Bar(f"s{k}", float(round(v)), 1) for k, v in enumerate(rng.uniform(300, 3000, 20))), Bar("new", 6000.0)]
    found = nest(bars, cuts, Saw(), "least bought", 0.02)
    _holds(found, cuts, Saw())
    assert not found.short
    assert not found.proven
    assert nest(bars, cuts, Saw(), "least bought", 3.0).bought_mm <= found.bought_mm


@settings(max_examples=40, deadline=None)
@given(
    lengths=st.lists(st.integers(50, 1900), min_size=1, max_size=9),
    kerf=st.sampled_from([0.0, 1.5, 3.2]),
    facing=st.sampled_from([0.0, 0.5]),
)
def test_stock_is_pieces_kerf_and_rest(lengths: list[int], kerf: float, facing: float) -> None:
    cuts = [Cut(f"p{k}", v) for k, v in enumerate(lengths)]
    saw = Saw(kerf, facing)
    bars = [Bar("rest", 900.0, 2, is_offcut=True), Bar("new", 2000.0)]
    found = nest(bars, cuts, saw)
    _holds(found, cuts, saw)
    assert nest(bars, cuts, saw) == found  # the same question has the same answer


def _holds(found: Nest, cuts: list[Cut], saw: Saw) -> None:
    """Every piece once, and each bar is its pieces, the kerfs between them and its rest."""
    lengths = {c.id: c.length_mm for c in cuts}
    made = [name for one in found.layouts for name in one.pieces]
    assert sorted(made + list(found.short)) == sorted(c.id for c in cuts for _ in range(c.count))
    for one in found.layouts:
        taken = sum(lengths[name] + saw.facing_mm for name in one.pieces) + saw.kerf_mm * len(one.pieces)
        rest = max(0.0, one.bar.length_mm + saw.kerf_mm - taken)
        assert one.rest_mm == pytest.approx(rest, abs=0.02 * len(one.pieces))
        assert taken <= one.bar.length_mm + saw.kerf_mm + 1e-6


def test_what_a_bar_yields_is_said_before_it_is_ordered() -> None:
    """By hand: 1 m of flat gives four brackets of 215 and three kerfs (869 mm), not five (1,083)."""
    assert yield_of(1000, 215, Saw(kerf_mm=2)) == 4
    assert yield_of(430, 215, Saw(kerf_mm=0)) == 2
    assert yield_of(100, 215, Saw()) == 0


@pytest.mark.parametrize(
    ("bar", "cut"),
    [
        (Bar("b", -1), Cut("c", 5)),
        (Bar("b", 5, -1), Cut("c", 5)),
        (Bar("b", 5), Cut("c", 0)),
        (Bar("b", 5), Cut("c", 5, -1)),
    ],
)
def test_what_is_no_bar_or_piece_is_refused(bar: Bar, cut: Cut) -> None:
    with pytest.raises(InputError):
        nest([bar], [cut], Saw())
