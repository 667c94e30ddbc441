"""Cautions before the first arc, shown where they apply: on the cut list and the shop sheet.

Common practice, no single source; local codes and licensed practice come first. docs/sources.md.
"""

from ...core.records import Design
from ...core.review import Review
from ...core.wording import say

USE_CODES = ("emissions", "use-unsaid", "class")

CAUTIONS = (
    "Rated stands or lift, wheels chocked. Prop a section before cutting it or trusting its tacks.",
    "Battery off, engine computer unplugged, earth clamp close to the weld. Nothing that burns near: fuel lines and "
    "tank shielded or out, extinguisher at hand. No chlorinated degreaser near an arc.",
    "Stainless and galvanised fumes harm: extract them, wear the mask. Engine running: outdoors or extracted.",
    "Catalysts, filters and their sensors stay where the law of the place wants them. Local codes decide.",
)


def cautions_for(design: Design, found: Review, unit: str = "mm") -> list[str]:
    """The cautions of a job: what becomes of emissions parts and where it may be driven first, then the usual ones."""
    own = [say(f, design, unit) for f in found.findings if f.code in USE_CODES]
    if design.use.written:
        read = f"; caution read by {design.use.acknowledged_by}" if design.use.acknowledged_by else ""
        on = f", {design.use.acknowledged_on}" if design.use.acknowledged_on else ""
        own.append(f"Use in writing: {design.use.written}{read}{on}")
    return [*own, *CAUTIONS]
