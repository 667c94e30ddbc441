"""The basis of every record: frozen, strict, finite numbers, bounded sizes."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..space import unit
from ..units import Length

FORMAT: Literal["widebend-design"] = "widebend-design"
VERSION = 1
MOST_ITEMS = 400  # things, pieces or parts in one list; a whole truck needs about a quarter

Id = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]


def _on_one_line(text: str) -> str:
    """Control characters in a name become spaces: it is printed, sorted, put into tables and headers."""
    return "".join(c if c.isprintable() or c == "\u00a0" else " " for c in text)


Name = Annotated[str, Field(max_length=80), AfterValidator(_on_one_line)]
Positive = Annotated[Length, Field(gt=0)]
NotNegative = Annotated[Length, Field(ge=0)]
Degrees = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]


def _has_length(way: tuple[float, float, float]) -> tuple[float, float, float]:
    unit(way)
    return way


Direction = Annotated[
    tuple[float, float, float], AfterValidator(_has_length), Field(description="a direction; made one long when used")
]
Point = tuple[Length, Length, Length]
PortName = Annotated[str, Field(max_length=81, pattern=r"^[A-Za-z0-9_-]+\.[A-Za-z0-9_-]+$")]


class Record(BaseModel):
    """Base of every record: frozen, strict about unknown fields, no NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    def replace(self, **changes: Any) -> Self:
        """Return the record with some fields changed, unchecked but for their names. Raises TypeError for a field that
        it does not have.
        """
        unknown = [name for name in changes if name not in type(self).model_fields]
        if unknown:
            raise TypeError(f"{type(self).__name__} has no {', '.join(unknown)}")
        return self.model_copy(update=changes)


def unique_ids(what: str, ids: list[str]) -> None:
    """Raises ValueError naming the first id that stands twice."""
    seen: set[str] = set()
    for one in ids:
        if one in seen:
            raise ValueError(f"two {what}s have the id “{one}”")
        seen.add(one)
