"""The invented shop's shelf."""

from __future__ import annotations

from typing import Any

from ..core.records import Kit, KitLine, StockItem

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
    ]
    return [(StockItem.model_validate(values), counted) for values, counted in every]


def kits() -> list[Kit]:
    """Kits of the invented suppliers."""
    straight, bend = TUBE | {"kind": "straight", "length_mm": 1000.0}, BEND
    builder = [(4, bend | {"angle_deg": 90.0}), (4, bend | {"angle_deg": 45.0}), (2, straight)]
    narrow = {"material": "409", "clr_mm": 63.5}
    side = [
        (2, bend | narrow | {"angle_deg": 90.0}),
        (2, bend | narrow | {"angle_deg": 45.0}),
        (2, straight | {"material": "409", "length_mm": 1500.0}),
    ]
    return [
        Kit(
            name=name,
            supplier="Norric Tube",
            price=price,
            lines=tuple(KitLine(count=n, item=StockItem.model_validate(item)) for n, item in lines),
        )
        for name, price, lines in (("builder's kit 63.5", 139.0, builder), ("side exit kit 63.5, 409", 96.0, side))
    ]
