"""Limits of the shop's saw and welding on a cut list, and the way round. Nothing said limits nothing."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...facts import METALS
from ..records import Equipment
from ..units import format_angle, format_length
from .cut_pieces import CutPiece


def out_of_reach(cuts: Sequence[CutPiece], able: Equipment, unit: str = "mm") -> list[str]:
    """A sentence for each thing that cannot be done as listed, with what would do."""
    found = []
    metal = [cut for cut in cuts if cut.kind != "part"]
    for cut in metal:
        od, face = float(cut.tube.od_mm), cut.face_deg
        across = od / math.cos(math.radians(face))
        if able.saw_mitre_deg is not None and face > able.saw_mitre_deg:
            found.append(
                f"piece {cut.number} is cut {format_angle(face)} off square, the saw turns "
                f"{format_angle(able.saw_mitre_deg)}: cut it by its template, or in more slices"
            )
        elif able.saw_across_mm is not None and across > able.saw_across_mm:
            wide, takes = (format_length(mm, unit) for mm in (across, able.saw_across_mm))
            found.append(
                f"piece {cut.number} is {wide} across its cut, the saw takes {takes}: turn it in the saw, or "
                "cut it by its template"
            )
    metals = {m for cut in metal if METALS[m := cut.tube.material].processes == {"TIG"}}
    if able.processes and "TIG" not in able.processes and metals:
        found.append(
            f"{' and '.join(sorted(metals))} is welded with TIG, gas on both sides; the shop has "
            f"{', '.join(able.processes)}: have it welded, or take another metal"
        )
    return found
