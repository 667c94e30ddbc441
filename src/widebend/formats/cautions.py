"""What can hurt someone before the first arc, shown where it bites: on the cut list and the shop sheet.

Common practice, no single source; local codes and licensed practice come first. docs/sources.md.
"""

CAUTIONS = (
    "Rated stands or lift, wheels chocked. Prop a section before cutting it or trusting its tacks.",
    "Battery off, engine computer unplugged, earth clamp close to the weld. Nothing that burns near: fuel lines and "
    "tank shielded or out, extinguisher at hand. No chlorinated degreaser near an arc.",
    "Stainless and galvanised fumes harm: extract them, wear the mask. Engine running: outdoors or extracted.",
    "Catalysts, filters and their sensors stay where the law of the place wants them. Local codes decide.",
)
