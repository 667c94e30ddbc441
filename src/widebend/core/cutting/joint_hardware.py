"""What a job's pipe is put together with besides cut metal: V-bands, flanges, clamps, and the parts themselves."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..laying import LaidRun
from ..records import Design, InLine

# what a joint takes, where neither side is a part that is one half of it already
WHOLE = {"v-band": "V-band, two halves and its clamp", "flange": "flange, a pair with gasket and bolts",
         "clamp": "clamp", "slip": "clamp over a slip joint"}  # fmt: skip
HALF = {"v-band": "V-band, one half and its clamp", "flange": "flange, one with gasket and bolts"}
MADE_OF = {"crossover": "two bends sliced lengthwise: the sheet X, Y, H and faces has the cut"}


@dataclass(frozen=True)
class Fitting:
    """What is needed and how many; `od_mm` the tube it goes on, 0 where a part says it by itself."""

    words: str
    od_mm: float
    count: int
    note: str = ""


def fittings(design: Design, runs: Sequence[LaidRun]) -> list[Fitting]:
    """What the joints of these runs take, then the design's parts, each once with its count."""
    joints = Counter(joint for laid in runs for joint in _joints(design, laid))
    joints.update(("end cap", float(laid.pieces[-1].tube.od_mm)) for laid in runs if laid.run.capped and laid.pieces)
    parts = Counter((p.name or p.item.kind, p.item.kind) for p in design.parts)
    return [
        *(Fitting(words, od, n) for (words, od), n in sorted(joints.items())),
        *(Fitting(name, 0.0, n, MADE_OF.get(kind, "")) for (name, kind), n in parts.items()),
    ]


def _joints(design: Design, laid: LaidRun) -> Iterator[tuple[str, float]]:
    at = {piece.piece.id: k for k, piece in enumerate(laid.pieces)}
    for joint in laid.run.joints:
        if joint.kind == "butt" or not laid.pieces:
            continue
        k = at.get(joint.after, -1)
        tube = laid.pieces[max(k, 0)].tube
        behind = laid.pieces[k + 1].piece if k + 1 < len(laid.pieces) else laid.run.aim
        ahead = laid.pieces[k].piece if k >= 0 else laid.run.start
        half = joint.kind in HALF and (is_half(design, ahead) or is_half(design, behind))
        yield (HALF if half else WHOLE)[joint.kind], float(tube.od_mm)


def is_half(design: Design, side: object) -> bool:
    """Whether a port or part by its name, or a part in line, is itself one half of a flange or V-band joint."""
    part_id = side.part if isinstance(side, InLine) else side.partition(".")[0] if isinstance(side, str) else ""
    part = design.part(part_id)
    return part is not None and part.item.kind in ("flange", "v-band")
