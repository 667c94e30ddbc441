"""One way to make a system with its price: metal by the metre, bends and parts, hours; what has none is said."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..nesting import PartsLine, Stocked, TubeNest, is_tube
from ..records import Pricing
from ..units import format_length
from .history import Corrected
from .sums import Totals, exactly, half_up, totals

OfferGroup = Literal["metal", "parts", "work"]

MEASURES = {"m": "a metre", "kg": "a kilogram", "m³": "a cubic metre"}
BULK = {"g": "kg", "l": "m³"}  # what is bought by a thousand of what it is counted in


@dataclass(frozen=True)
class OfferLine:
    """A line the customer sees: how many of what, each and together in minor units. `key` is what its price is told by,
    empty for work; `of_job` says that it is this job's own, as of a muffler, and not the same in all. `cost` is what it
    costs us, before mark-up: of work nothing.
    """

    group: OfferGroup
    words: str
    count: float
    unit: str
    each: int
    price: int
    key: str = ""
    is_known: bool = True
    of_job: bool = False
    cost: int = 0

    @property
    def ask(self) -> str:
        """Return the key its price is asked by, where none is known."""
        return "" if self.is_known else self.key

    @property
    def by(self) -> str:
        """Of how much of it the price is told."""
        return MEASURES.get(self.unit, "each")


@dataclass(frozen=True)
class Offer:
    """An offer: its lines, its hours with their range, what it comes to."""

    name: str
    lines: tuple[OfferLine, ...]
    hours: Corrected
    totals: Totals

    @property
    def unpriced(self) -> tuple[str, ...]:
        """Return the lines without a price."""
        return tuple(dict.fromkeys(line.ask for line in self.lines if line.ask))


def offer_of(
    name: str,
    nests: Sequence[TubeNest],
    parts: Sequence[PartsLine],
    shelf: Sequence[Stocked],
    hours: Corrected,
    pricing: Pricing,
    job_prices: Mapping[str, int],
) -> Offer:
    """The offer for what a job takes, with what its parts cost us by their words in minor units. Straight tube is
    charged by what is used of it or by the bars that are bought, as the shop does; the rest by the piece.
    """
    lines = [*_tube(nests, shelf, pricing), *_parts(parts, pricing, job_prices), _work(hours, pricing)]
    return Offer(name, tuple(lines), hours, totals((line.price for line in lines), pricing.tax, pricing.deposit))


def _tube(nests: Sequence[TubeNest], shelf: Sequence[Stocked], pricing: Pricing) -> Iterator[OfferLine]:
    for one in nests:
        tube = one.tube
        size = f"{format_length(tube.od_mm)} x {format_length(tube.wall_mm)} {tube.material}"
        charged_m = _charged_mm(one, pricing) / 1000.0
        ask = f"a metre of {size}"
        sold = next((s.item for s in shelf if is_tube(s.item, tube) and s.item.price and s.item.length_mm), None)
        cost = pricing.each.get(ask)
        if cost is None and sold and sold.price and sold.length_mm:
            cost = half_up(exactly(sold.price) * 100_000 / exactly(sold.length_mm))
        words = f"tube {size}" if pricing.tube_by == "the metre" else f"tube {size}, whole bars"
        yield _line("metal", words, round(charged_m, 3), "m", cost, pricing.metal_markup, ask)


def _charged_mm(one: TubeNest, pricing: Pricing) -> float:
    """Return the length of tube a customer is charged [mm]: what is used with its saw cuts, or instead of what is used
    of a bar that is bought, the bar.
    """
    left = {name: cut.length_mm + one.saw.kerf_mm for name, cut in one.cuts.items()}
    bars = 0.0
    for layout in one.nest.layouts if pricing.tube_by == "the bar" else ():
        if layout.bar.is_bought:
            bars += layout.bar.length_mm
            for piece in layout.pieces:
                left.pop(piece, None)
    return bars + sum(left.values())


def _parts(parts: Sequence[PartsLine], pricing: Pricing, job_prices: Mapping[str, int]) -> Iterator[OfferLine]:
    for line in parts:
        if line.by_metre:
            continue
        if line.unit in BULK:
            yield _bulk(line, pricing)
            continue
        of_job = line.group == "joints and parts"
        known = (job_prices if of_job else pricing.each).get(line.words)
        cost = known if known is not None else half_up(exactly(line.each) * 100) if line.each is not None else None
        metal = line.group in ("tube", "bends")
        share = pricing.metal_markup if metal else pricing.parts_markup
        yield _line(
            "metal" if metal else "parts",
            line.words,
            float(line.wanted),
            line.unit,
            cost,
            share,
            line.words,
            of_job=of_job,
        )


def _bulk(line: PartsLine, pricing: Pricing) -> OfferLine:
    """Return the price of consumables by weight or volume, priced as it is sold: a gram costs less than money has
    figures.
    """
    unit = BULK[line.unit]
    ask = f"{MEASURES[unit]} of {line.words}"
    of_a_thousandth = pricing.each.get(line.words)  # as it was told before it was asked for by the whole
    cost = pricing.each.get(ask, of_a_thousandth * 1000 if of_a_thousandth is not None else None)
    return _line("parts", line.words, float(line.wanted) / 1000, unit, cost, pricing.parts_markup, ask)


def _line(
    group: OfferGroup,
    words: str,
    count: float,
    unit: str,
    cost: int | None,
    markup: float,
    key: str,
    *,
    of_job: bool = False,
) -> OfferLine:
    each = half_up(cost * (1 + exactly(markup))) if cost is not None else 0
    many = exactly(count)
    return OfferLine(
        group,
        words,
        count,
        unit,
        each,
        half_up(many * each),
        key,
        cost is not None,
        of_job,
        half_up(many * (cost or 0)),
    )


def _work(hours: Corrected, pricing: Pricing) -> OfferLine:
    billed = round(hours.hours, 1)
    return OfferLine("work", "work", billed, "h", pricing.hour, half_up(exactly(billed) * pricing.hour))
