"""Metals that pipe and parts are made of, and what is true of each.

Sources, from memory where no more is said: EN 10088-1 for 304 (1.4301) and 409 (1.4512), 7850 kg/m3 for carbon steel as
EN 10220 uses it, handbook values for the others; growth of the stainless grades above 400 and 500 C from ASM and mill
data; conductivity at several hundred degrees and emissivity after some heat, handbook values; temper colours of carbon
steel, 60 degrees sooner than of 304 (common practice, no source); fillers, AWS A5.9, A5.16 and A5.18. What a process is
not used for is common practice where no text is named.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from .processes import Process

Metal = Literal["mild", "aluminised", "409", "304", "titanium", "aluminium", "cast iron"]
Material = Literal["mild", "aluminised", "409", "304", "titanium"]  # those that tube is made of

STAINLESS_SOURCE, TITANIUM_SOURCE = "AWS A5.9, A5.18, EN ISO 14343 practice", "AWS A5.16"
FLAME = "a flame carburises stainless, and without flux its oxide does not part: TIG or MIG"


@dataclass(frozen=True)
class MetalFacts:
    """Facts about a metal.

    `family`: metals of one family are welded to each other in an exhaust shop. `mean_growth`: for each kelvin from 20 C
    up to a temperature, (C, coefficient). `wires`: the TIG and MIG filler to itself and to other metals; a pair that
    stands in neither row is not welded. `not_by`: why a process does not weld it, where there is more to say than that.
    """

    name: str
    family: str
    is_tube: bool
    density_kg_m3: float
    young_mpa: float
    conductivity_w_mk: float
    emissivity: float
    mean_growth: tuple[tuple[float, float], ...]
    processes: frozenset[Process]
    wires: Mapping[Metal, str] = field(default_factory=dict)
    filler_source: str = STAINLESS_SOURCE
    is_filler_sure: bool = True
    not_by: Mapping[Process, str] = field(default_factory=dict)
    not_welded: str = ""  # why no exhaust shop welds it, with what is done {instead}
    care: str = ""  # what TIG on it asks for besides
    is_stainless: bool = False
    is_coated: bool = False
    is_purged: bool = False  # its root is kept from air
    is_offered: bool = False  # beside another as a wish of a customer
    temper_sooner_k: float = 0.0  # how much sooner than 304 it takes each temper colour


_CARBON_GROWTH = ((100.0, 12.0e-6), (500.0, 14.0e-6))
_ALL: frozenset[Process] = frozenset({"TIG", "MIG", "stick", "gas"})
_ARC: frozenset[Process] = frozenset({"TIG", "MIG", "stick"})

METALS: Mapping[Metal, MetalFacts] = {
    "304": MetalFacts(
        name="304 stainless",
        family="steel",
        is_tube=True,
        density_kg_m3=7900.0,
        young_mpa=200_000.0,
        conductivity_w_mk=21.0,
        emissivity=0.5,
        mean_growth=(
            (100.0, 16.0e-6),
            (200.0, 16.5e-6),
            (300.0, 17.0e-6),
            (400.0, 17.5e-6),
            (500.0, 18.0e-6),
            (538.0, 18.4e-6),
            (649.0, 18.7e-6),
        ),
        processes=_ARC,
        wires={"304": "ER308L", "409": "ER309L", "mild": "ER309L", "aluminised": "ER309L"},
        not_by={"gas": f"{FLAME}, or silver-solder it"},
        is_stainless=True,
        is_purged=True,
        is_offered=True,
    ),
    "409": MetalFacts(
        name="409 stainless",
        family="steel",
        is_tube=True,
        density_kg_m3=7700.0,
        young_mpa=220_000.0,
        conductivity_w_mk=26.0,
        emissivity=0.6,
        mean_growth=((100.0, 10.5e-6), (200.0, 11.0e-6), (300.0, 11.5e-6), (400.0, 12.0e-6), (538.0, 12.4e-6)),
        processes=_ARC,
        wires={"409": "ER409Nb or ER430LNb", "mild": "ER309L", "aluminised": "ER309L"},
        is_filler_sure=False,
        not_by={"gas": FLAME},
        is_stainless=True,
        is_purged=True,
        is_offered=True,
    ),
    "aluminised": MetalFacts(
        name="aluminised steel",
        family="steel",
        is_tube=True,
        density_kg_m3=7850.0,
        young_mpa=210_000.0,
        conductivity_w_mk=42.0,
        emissivity=0.3,
        mean_growth=_CARBON_GROWTH,
        processes=_ALL,
        wires={"aluminised": "ER70S-6 or ERCuSi-A", "mild": "ER70S-6"},
        is_filler_sure=False,
        is_coated=True,
        temper_sooner_k=60.0,
    ),
    "mild": MetalFacts(
        name="mild steel",
        family="steel",
        is_tube=True,
        density_kg_m3=7850.0,
        young_mpa=210_000.0,
        conductivity_w_mk=42.0,
        emissivity=0.8,
        mean_growth=_CARBON_GROWTH,
        processes=_ALL,
        wires={"mild": "ER70S-6"},
        is_offered=True,
        temper_sooner_k=60.0,
    ),
    "titanium": MetalFacts(
        name="titanium",
        family="titanium",
        is_tube=True,
        density_kg_m3=4510.0,
        young_mpa=105_000.0,
        conductivity_w_mk=18.0,
        emissivity=0.5,
        mean_growth=((100.0, 8.6e-6), (315.0, 9.2e-6), (540.0, 9.7e-6)),
        processes=frozenset({"TIG"}),
        wires={"titanium": "ERTi-2"},
        filler_source=TITANIUM_SOURCE,
        not_by={
            "MIG": "titanium takes up air behind a MIG torch and turns brittle: TIG, purged, with a trailing shield",
            "stick": "no electrode shields titanium: TIG, purged, with a trailing shield",
            "gas": "a flame makes titanium brittle: TIG, purged, with a trailing shield",
        },
        care="titanium: purge and trailing shield until it is under 250 °C; blue or grey is cut out",
        is_purged=True,
    ),
    "aluminium": MetalFacts(
        name="aluminium",
        family="aluminium",
        is_tube=False,
        density_kg_m3=2700.0,
        young_mpa=70_000.0,
        conductivity_w_mk=180.0,
        emissivity=0.2,
        mean_growth=((100.0, 23.6e-6), (300.0, 25.6e-6)),
        processes=frozenset(),
        not_welded="aluminium wants alternating current and a shop that does it: send it out, or {instead}",
    ),
    "cast iron": MetalFacts(
        name="cast iron",
        family="cast iron",
        is_tube=False,
        density_kg_m3=7200.0,
        young_mpa=110_000.0,
        conductivity_w_mk=40.0,
        emissivity=0.8,
        mean_growth=((100.0, 10.5e-6), (400.0, 12.5e-6)),
        processes=frozenset(),
        not_welded="cast iron cracks beside a plain weld: {instead}, or have it done hot with nickel",
    ),
}


TUBE_METALS: Mapping[Material, str] = {
    metal: METALS[metal].name for metal in ("304", "409", "aluminised", "mild", "titanium")
}  # their names, the commonest first


def wire_between(one: Metal, other: Metal) -> str | None:
    """The filler that two metals are welded with; None for a pair that is not.

    >>> wire_between("mild", "304")
    'ER309L'
    """
    return METALS[one].wires.get(other) or METALS[other].wires.get(one)
