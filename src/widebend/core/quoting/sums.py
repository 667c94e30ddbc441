"""Totals in whole minor units: every line is rounded by itself, half up; tax and deposit once, on the sum."""

from __future__ import annotations

from collections.abc import Iterable
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


def totals(lines: Iterable[int], tax: float, deposit: float) -> Totals:
    """What lines in minor units come to.

    >>> totals([1999, 501], 0.2, 0.3)
    Totals(net=2500, tax=500, total=3000, deposit=900)
    """
    net = sum(lines)
    due = half_up(net * exactly(tax))
    return Totals(net, due, net + due, half_up((net + due) * exactly(deposit)))
