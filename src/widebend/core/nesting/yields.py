"""What a bar or a kit yields, said before it is ordered: how many pieces come out, and which offer is cheapest."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..errors import InputError
from .bars import Saw


def yield_of(length_mm: float, piece_mm: float, saw: Saw) -> int:
    """How many equal pieces a bar gives with the saw's kerf between them and facing on each."""
    if length_mm <= 0 or piece_mm <= 0:
        raise InputError("a bar and a piece need a length of more than nothing")
    each = piece_mm + saw.facing_mm
    return max(0, int((length_mm + saw.kerf_mm + 1e-9) // (each + saw.kerf_mm)))


@dataclass(frozen=True)
class KitOffer:
    """A kit on offer: so many of each item for a price."""

    id: str
    holds: Mapping[str, int]
    price: float


def best_kit(offers: Sequence[KitOffer], wanted: Mapping[str, int], singles: Mapping[str, float]) -> tuple[
    float, dict[str, int], dict[str, int]
]:  # fmt: skip
    """The cheapest way to have all that is wanted: (price, kits by id, single items by name), to the proven optimum.

    `singles` are prices of items bought one by one. Raises InputError for what nobody offers.
    """
    from ortools.sat.python import cp_model

    nobody = [item for item in wanted if item not in singles and not any(o.holds.get(item) for o in offers)]
    if nobody:
        raise InputError(f"nobody offers {nobody[0]}: say what one costs, or take it off")
    model = cp_model.CpModel()
    most = sum(wanted.values())
    kits = {o.id: model.new_int_var(0, most, "") for o in offers}
    alone = {item: model.new_int_var(0, n if item in singles else 0, "") for item, n in wanted.items()}
    for item, n in wanted.items():
        model.add(sum(o.holds.get(item, 0) * kits[o.id] for o in offers) + alone[item] >= n)
    model.minimize(
        sum(round(o.price * 100) * kits[o.id] for o in offers)
        + sum(round(singles.get(item, 0.0) * 100) * n for item, n in alone.items())
    )
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 7
    solver.solve(model)
    return (
        solver.objective_value / 100,
        {name: n for name, v in kits.items() if (n := solver.value(v))},
        {name: n for name, v in alone.items() if (n := solver.value(v))},
    )
