"""Photos that were placed at once, as data: for what the queue found."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np

from ..core.photos import FoundTag, LeftOut, PlacedPhoto, Solved, lens_of

_ARRAYS = {"turn", "middle", "place", "spread", "place_spread", "shift", "lens"}


def solved_data(solved: Solved) -> dict[str, Any]:
    """A solution as plain data."""
    data: dict[str, Any] = _plain(solved)
    return data


def _plain(value: Any) -> Any:
    if is_dataclass(value):
        return {one.name: _plain(getattr(value, one.name)) for one in fields(value)}
    if isinstance(value, np.ndarray):
        return value.tolist()
    return [_plain(one) for one in value] if isinstance(value, tuple | list) else value


def read_solved(data: dict[str, Any]) -> Solved:
    """A solution from its data."""
    return Solved(
        tuple(
            FoundTag(**_arrays(row), diameter_mm=tuple(row["diameter_mm"]) if row["diameter_mm"] else None)
            for row in data["tags"]
        ),
        tuple(PlacedPhoto(**_arrays(row)) for row in data["photos"]),
        tuple(LeftOut(**row) for row in data["left_out"]),
        (data["scale"][0], data["scale"][1]),
        tuple(data["hangs_on"]),
        tuple((str(what), float(mm)) for what, mm in data["off"]),
        tuple(data["tape_off"]),
        data["lacking"],
        tuple(data["disagree"]),
        float(data["whole_mm"]),
    )


def _arrays(row: dict[str, Any]) -> dict[str, Any]:
    arrays = {
        key: np.array(value, dtype=float) if key in _ARRAYS else value
        for key, value in row.items()
        if key != "diameter_mm"
    }
    if "lens" in arrays:  # older programs kept its first five figures
        arrays["lens"] = lens_of(*arrays["lens"])
    return arrays
