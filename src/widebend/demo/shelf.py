"""What the invented shop has on its shelf."""

from __future__ import annotations

from typing import Any

from ..core.records import StockItem

DEMO_HAND = "demo"  # who put it there: it goes with the demo
TUBE = {"od_mm": 63.5, "wall_mm": 1.5, "material": "304", "supplier": "Norric Tube"}
SMALL = {"supplier": "Hallam Supply"}
BEND = TUBE | {"kind": "bend", "clr_mm": 95.25, "leg_mm": 100.0}


def shelf() -> list[tuple[StockItem, int]]:
    """Items and how many of each."""
    every: list[tuple[dict[str, Any], int]] = [
        (TUBE | {"kind": "straight", "length_mm": 6000.0, "price": 84.0, "bin": "rack 2", "low": 2}, 2),
        (TUBE | {"kind": "straight", "length_mm": 1430.0, "is_offcut": True, "bin": "B4"}, 1),
        (TUBE | {"kind": "straight", "length_mm": 610.0, "is_offcut": True, "bin": "B4"}, 1),
        (BEND | {"angle_deg": 90.0, "price": 19.5, "bin": "C1", "low": 4}, 3),
        (BEND | {"angle_deg": 45.0, "price": 14.0, "bin": "C2", "low": 4}, 9),
        (SMALL | {"kind": "clamp", "name": "clamp over a slip joint", "od_mm": 63.5, "bin": "D3", "low": 4}, 6),
        (SMALL | {"kind": "rubber", "name": "hanger rubber, two holes", "bin": "D1", "low": 6}, 11),
    ]  # fmt: skip
    return [(StockItem.model_validate(values), counted) for values, counted in every]
