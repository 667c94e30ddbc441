"""How the invented systems hang: from which points, where, on which rubber."""

from __future__ import annotations

from ..core.hanging import RUBBERS
from ..core.records import Design, Hanger, HangWay
from ..core.units import Length

Place = (
    tuple[str, str, float] | tuple[str, tuple[float, float, float]]
)  # run, piece, along; or a part and a place on it


def _hanger(number: int, point: str, place: Place, rubber: str, way: HangWay = "rubber") -> Hanger:
    """One hanger: on a piece of a run, or on a part."""
    named = {"id": f"hanger-{number}", "hang_point": point, "rubber": RUBBERS[rubber], "way": way}
    if len(place) == 3:
        run, piece, along = place
        return Hanger.model_validate(named | {"run": run, "piece": piece, "along_mm": Length(along)})
    part, at = place
    return Hanger.model_validate(named | {"part": part, "at": at})


def _hung(design: Design, *hangers: tuple[str, Place, str, HangWay]) -> Design:
    made = tuple(_hanger(k, *one) for k, one in enumerate(hangers, 1))
    return design.replace(hangers=made).validated()


def twin_hung(design: Design) -> Design:
    """The twin: both sides alike, on tunnel bolts behind the X and on the old rubbers ahead of the mufflers."""
    made = _hung(
        design,
        ("h3", ("r2", "p1", 122.1), "two-hole", "rubber"),
        ("h4", ("r4", "p1", 122.1), "two-hole", "rubber"),
        ("h1", ("r2", "p5", 218.0), "two-hole-stiff", "rubber"),
        ("h2", ("r4", "p5", 218.0), "two-hole-stiff", "rubber"),
    )
    mirrored = tuple(h.replace(rod_left=h.run == "r2") for h in made.hangers)
    return made.replace(hangers=mirrored).validated()


def truck_hung(design: Design) -> Design:
    """The lowered pickup: banks on the rails, each side pipe on a bobbin that lies across."""
    return _hung(
        design,
        ("h1", ("r1", "p3", 454.6), "two-hole", "rubber"),
        ("h3", ("r3", "p3", 479.7), "two-hole", "rubber"),
        ("h6", ("r2", "p1", 309.8), "bobbin-50", "bobbin sheared"),
        ("h5", ("muffler-2", (150.0, 0.0, 32.0)), "bobbin-50", "bobbin sheared"),
    )


def quad_hung(design: Design) -> Design:
    """The saloon's rear: on its old rubber, and on bolts beside the spare well."""
    return _hung(
        design,
        ("h2", ("r2", "p5", 143.3), "two-hole", "rubber"),
        ("h3", ("muffler-1", (325.5, 0.0, 60.0)), "two-hole", "rubber"),
        ("h4", ("muffler-2", (325.5, 0.0, 60.0)), "two-hole", "rubber"),
    )
