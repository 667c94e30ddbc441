"""Where the design may be driven: emissions parts that it takes out, moves or bypasses, and the rules of a class.

We invent no law: what is legal differs by place, and the finding says so. docs/sources.md, "Emissions and use".
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...facts import PART_KINDS
from ..laying import System
from ..records import Design, EmissionPart
from .findings import Finding, point

IN_PLACE_MM = 50.0  # a catalyst whose inlet sits further than this from where it was has been moved: common practice


def use_findings(design: Design, system: System) -> Iterator[Finding]:
    """Emissions parts in the design, whether its use is in writing, and a class's rules."""
    touched = [(part, fate) for part in design.use.emissions if (fate := fate_of(design, system, part)) in NOT_KEPT]
    road = design.settings.use == "road"
    for part, fate in touched:
        yield Finding(
            "emissions",
            part=part.part or "",
            names=(part.name or part.what, fate),
            checked=road,
            at=part.at and point(np.asarray(part.at, dtype=float)),
        )
    if touched and not (design.use.written and design.use.acknowledged_by):
        yield Finding("use-unsaid")
    yield from _class_findings(design, system)


NOT_KEPT = ("moved", "bypassed", "removed", "found removed")


def fate_of(design: Design, system: System, part: EmissionPart) -> str:
    """Return the fate of a part: as entered, or removed or moved when the design shows that it is."""
    if part.fate != "stays in place" or part.part is None:
        return part.fate
    placed = next((at for p, at in system.parts if p.id == part.part), None)
    if placed is None:
        return "removed"
    if part.at is not None and np.linalg.norm(placed.point - np.asarray(part.at, dtype=float)) > IN_PLACE_MM:
        return "moved"
    return part.fate


def _class_findings(design: Design, system: System) -> Iterator[Finding]:
    rules = design.use.class_rules
    for part in design.use.emissions:
        fate = fate_of(design, system, part)
        gone = fate in ("bypassed", "removed", "found removed")
        if part.what == "catalyst" and "catalysts stay" in rules and gone:
            yield Finding("class", names=("catalysts stay", part.name or part.what, fate))
        if part.what == "catalyst" and "catalysts stay in place" in rules and (gone or fate == "moved"):
            yield Finding("class", names=("catalysts stay in place", part.name or part.what, fate))
    kinds = {p.item.kind for p, _ in system.parts}
    if any(r.startswith("catalysts") for r in rules) and not any(e.what == "catalyst" for e in design.use.emissions):
        yield Finding("class", names=("catalysts stay",))
    if "silencer stays" in rules and not any(PART_KINDS[kind].is_silencer for kind in kinds):
        yield Finding("class", names=("silencer stays",))
