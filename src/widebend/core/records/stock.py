"""Stock records: kinds of stock with their measures, and offcuts, one by one."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ...facts import Material
from ..units import format_length
from .base import Name, NotNegative, Positive, Record
from .design import Price

StockKind = Literal[
    "straight", "bend", "pie pack", "flat bar", "rod", "plate", "hardware", "rubber", "clamp", "gasket", "other"
]
ROUND: tuple[StockKind, ...] = ("straight", "bend", "pie pack")  # tube: nothing is made of the wrong one
_BENT = ("od_mm", "wall_mm", "material", "angle_deg", "clr_mm")
NEEDS: dict[StockKind, tuple[str, ...]] = {
    "straight": ("od_mm", "wall_mm", "material", "length_mm"),
    "bend": _BENT,
    "pie pack": _BENT,
    "flat bar": ("length_mm",),
    "rod": ("od_mm", "length_mm"),
}
WORDS = {
    "od_mm": "outside diameter",
    "wall_mm": "wall",
    "material": "material",
    "length_mm": "length",
    "angle_deg": "angle",
    "clr_mm": "radius",
}


class StockItem(Record):
    """Things on the shelf that are alike, or one offcut. Lengths mm, angles deg.

    Of a bend `angle_deg` is what it turns (U 180), `leg_mm` the straight at each whole end; of a pie pack what one
    slice turns. `measured_*` stand where an item is off its nominal size. `low` is the count to order at.
    """

    kind: StockKind
    name: Name = ""
    od_mm: Positive | None = None
    wall_mm: Positive | None = None
    material: Material | None = None
    finish: Name = ""
    length_mm: Positive | None = None
    angle_deg: Annotated[float, Field(gt=0, le=180)] | None = None
    clr_mm: Positive | None = None
    leg_mm: NotNegative | None = None
    whole_ends: Annotated[int, Field(ge=0, le=2)] = 2
    is_offcut: bool = False
    measured_od_mm: Positive | None = None
    measured_clr_mm: Positive | None = None
    out_of_round_mm: NotNegative | None = None
    supplier: Name = ""
    pack: Annotated[int, Field(ge=1, le=10_000)] = 1
    lead_days: Annotated[int, Field(ge=0, le=400)] | None = None
    price: Price | None = None
    bin: Name = ""
    low: Annotated[int, Field(ge=0, le=10_000)] = 0

    @model_validator(mode="after")
    def _whole(self) -> Self:
        missing = [key for key in NEEDS.get(self.kind, ()) if getattr(self, key) is None]
        if missing:
            raise ValueError(f"a {self.kind} needs its {WORDS[missing[0]]}")
        if self.kind not in NEEDS and not self.name:
            raise ValueError(f"a {self.kind} needs a name")
        if self.od_mm and self.wall_mm and self.wall_mm >= self.od_mm / 2:
            raise ValueError(f"a wall of {self.wall_mm:g} mm does not fit a tube of {self.od_mm:g} mm")
        if self.od_mm and self.clr_mm and self.clr_mm < self.od_mm / 2:
            raise ValueError(f"a radius of {self.clr_mm:g} mm is less than half the tube")
        return self

    def words(self, unit: str = "mm") -> str:
        """Describe it in words."""
        tube = ""
        if self.kind in ROUND and self.od_mm and self.wall_mm:
            tube = f"{format_length(self.od_mm, unit)} x {format_length(self.wall_mm, unit)} {self.material}"
        elif self.od_mm:
            tube = format_length(self.od_mm, unit)
        said = [
            " ".join(w for w in ("offcut of" if self.is_offcut else "", self.name or self.kind) if w),
            f"{self.angle_deg:g}°" if self.angle_deg else "",
            tube,
            f"radius {format_length(self.clr_mm, unit, 2)}" if self.clr_mm else "",
            f"{format_length(self.length_mm, unit, 0)} long" if self.length_mm else "",
        ]
        return ", ".join(word for word in said if word)


class KitLine(Record):
    """This many of one thing in a kit."""

    count: Annotated[int, Field(ge=1, le=1000)]
    item: StockItem


class Kit(Record):
    """A kit: things a supplier sells together at one price."""

    name: Annotated[Name, Field(min_length=1)]
    supplier: Name = ""
    price: Price
    lead_days: Annotated[int, Field(ge=0, le=400)] | None = None
    lines: Annotated[tuple[KitLine, ...], Field(min_length=1, max_length=40)]
