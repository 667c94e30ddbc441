"""Money as it is typed: two decimals outside, whole minor units inside."""

from __future__ import annotations

from decimal import Decimal, InvalidOperation

MOST = 10_000_000


def parse_money(text: str) -> int:
    """An amount as it is typed, with a point or a comma, in minor units. Raises ValueError in the trade's words.

    >>> parse_money("12.50"), parse_money("1 200,5"), parse_money("90")
    (1250, 120050, 9000)
    """
    plain = text.strip().replace(" ", "").replace(",", ".")
    try:
        value = Decimal(plain)
    except InvalidOperation as exc:
        raise ValueError("an amount like 12.50") from exc
    if not value.is_finite() or value < 0 or value > MOST:
        raise ValueError(f"an amount from 0 to {MOST:,}".replace(",", " "))
    if -int(value.normalize().as_tuple().exponent) > 2:
        raise ValueError("no more than two decimals")
    return int(value * 100)
