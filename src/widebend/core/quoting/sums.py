"""Totals in whole minor units: every line is rounded by itself, half up; tax and deposit once, on the sum."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal


@dataclass(frozen=True)
class Totals:
    """Net, tax, what is to pay, and the part of it that is asked before work begins."""

    net: int
    tax: int
    total: int
    deposit: int


def half_up(value: Decimal) -> int:
    """To a whole minor unit, a half away from nothing.

    >>> half_up(Decimal("2.5")), half_up(Decimal("-2.5")), half_up(Decimal("2.49"))
    (3, -3, 2)
    """
    return int(value.quantize(Decimal(1), rounding=ROUND_HALF_UP))


def exactly(value: float) -> Decimal:
    """A figure as it is written, not as the machine holds it: 0.1 is a tenth."""
    return Decimal(repr(float(value)))


def money(minor: float, currency: str = "") -> str:
    """An amount in words.

    >>> money(123456, "€"), money(-5)
    ('€ 1 234.56', '-0.05')
    """
    whole, cents = divmod(abs(int(minor)), 100)
    grouped = f"{whole:,}".replace(",", " ")
    return f"{currency + ' ' if currency else ''}{'-' if minor < 0 else ''}{grouped}.{cents:02d}"


def changed_lines(was: Mapping[str, int], now: Mapping[str, int]) -> list[tuple[str, int, int]]:
    """Lines by their words that cost another amount than they did, or came, or went: then and now in minor units.

    >>> changed_lines({"tip": 100, "weld": 5}, {"tip": 120, "flex": 7, "weld": 5})
    [('tip', 100, 120), ('flex', 0, 7)]
    """
    return [
        (words, was.get(words, 0), now.get(words, 0))
        for words in {**was, **now}
        if was.get(words, 0) != now.get(words, 0)
    ]


CLOCKED_SHARE, CLOCKED_H = 0.25, 1.0  # clocks of less say nothing of what was worked: common practice, no source


def earned_an_hour(net: int, material: int, hours: float, billed_h: float = 0.0) -> float | None:
    """Return the earnings of an hour worked in minor units: invoiced less metal and parts at our cost; None where less
    was clocked than an hour, or than a quarter of the hours invoiced: the clocks did not run.

    >>> earned_an_hour(142_000, 27_500, 12.5), earned_an_hour(100, 0, 0.0), earned_an_hour(142_000, 27_500, 1 / 3600)
    (9160.0, None, None)
    >>> earned_an_hour(142_000, 27_500, 2.0, billed_h=12.5) is None
    True
    """
    return (net - material) / hours if hours >= max(CLOCKED_H, CLOCKED_SHARE * billed_h) else None


def totals(lines: Iterable[int], tax: float, deposit: float) -> Totals:
    """The totals of lines in minor units.

    >>> totals([1999, 501], 0.2, 0.3)
    Totals(net=2500, tax=500, total=3000, deposit=900)
    """
    net = sum(lines)
    due = half_up(net * exactly(tax))
    return Totals(net, due, net + due, half_up((net + due) * exactly(deposit)))
