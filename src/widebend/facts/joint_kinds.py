"""How two pieces are joined, and what is true of each way. Figures are common practice, no source, where none is named:
a V-band clamp's screw and a two-bolt flange's ears as they are met in the shop; torques for dry steel threads of the
usual sizes, before which the maker's own goes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

JointKind = Literal["butt", "slip", "v-band", "flange", "clamp"]


@dataclass(frozen=True)
class JointFacts:
    """Facts about a kind of joint.

    `name` and, on its own, `full_name`. `welds`: rings of weld that make it. `joins_any_metal`: nothing is welded
    across it. `turns`: pipe can be turned in it until it is tight. `stands_off_mm`, `long_mm`: its body off the tube,
    and along it, 0 along for its overlap. `bought`: its hardware where no side is a part that is half of it;
    `bought_half`: where one is; `bought_on`: where such a part meets the vehicle's.
    """

    name: str
    full_name: str
    welds: int
    comes_apart: bool
    joins_any_metal: bool = False
    turns: bool = False
    stands_off_mm: float = 0.0
    long_mm: float = 0.0
    torque_nm: tuple[float, float] | None = None
    bought: str = ""
    bought_half: str = ""
    bought_on: str = ""
    weld_note: str = ""


JOINTS: Mapping[JointKind, JointFacts] = {
    "butt": JointFacts("butt weld", "butt weld", welds=1, comes_apart=False),
    "slip": JointFacts(
        "slip",
        "slip joint",
        welds=0,
        comes_apart=True,
        turns=True,
        stands_off_mm=2.0,
        torque_nm=(45.0, 60.0),
        bought="clamp over a slip joint",
        weld_note="weld the outer edge; slot the outer pipe first so that it closes round",
    ),
    "v-band": JointFacts(
        "V-band",
        "V-band",
        welds=2,
        comes_apart=True,
        joins_any_metal=True,
        turns=True,
        stands_off_mm=14.0,
        long_mm=25.0,
        torque_nm=(10.0, 15.0),
        bought="V-band, two halves and its clamp",
        bought_half="V-band, one half and its clamp",
        bought_on="clamp for a V-band",
    ),
    "flange": JointFacts(
        "flange",
        "flange",
        welds=2,
        comes_apart=True,
        joins_any_metal=True,
        stands_off_mm=22.0,
        long_mm=20.0,
        torque_nm=(25.0, 50.0),
        bought="flange, a pair with gasket and bolts",
        bought_half="flange, one with gasket and bolts",
        bought_on="gasket and bolts for a flange",
    ),
    "clamp": JointFacts(
        "band clamp",
        "band clamp",
        welds=0,
        comes_apart=True,
        joins_any_metal=True,
        turns=True,
        stands_off_mm=10.0,
        long_mm=30.0,
        torque_nm=(45.0, 60.0),
        bought="clamp",
    ),
}


def joint_of(part_kind: str) -> JointFacts | None:
    """Return the facts of a part as a joint, whole or one half of it; None for one that is none.

    >>> joint_of("v-band").name
    'V-band'
    """
    return next((facts for kind, facts in JOINTS.items() if kind == part_kind), None)
