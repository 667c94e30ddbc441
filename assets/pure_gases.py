"""Makes `src/widebend/core/gas/pure_gases.py`: what exhaust is mixed from, by CoolProp's equations of state.

The library takes seconds to load, so its figures ship as a table; a test holds the table against the library.
Run with the test requirements installed: `python assets/pure_gases.py`.
"""

from __future__ import annotations

import sys
import textwrap
from pathlib import Path

from CoolProp import CoolProp

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "src"))

from widebend.core.gas.mixture import GRID_K, KG_MOL  # noqa: E402

NO_CORRELATION = {"CarbonMonoxide": "Nitrogen"}  # as heavy and as like: the library has no viscosity for it
THIN = 1e-4  # kg/m3: a gas so thin is ideal


def figures(name: str) -> tuple[list[float], list[float], list[float]]:
    """Heat capacity [J/kg K], viscosity [Pa s], conductivity [W/m K] of a pure thin gas over the grid."""
    heat, flow = (CoolProp.AbstractState("HEOS", n) for n in (name, NO_CORRELATION.get(name, name)))
    rows = []
    for kelvin in GRID_K:
        for state in (heat, flow):
            state.specify_phase(CoolProp.iphase_gas)
            state.update(CoolProp.DmassT_INPUTS, THIN, float(kelvin))
        rows.append((heat.cp0mass(), flow.viscosity(), flow.conductivity()))
    cp, viscosity, conductivity = zip(*rows, strict=True)
    return list(cp), list(viscosity), list(conductivity)


def text() -> str:
    """The module."""
    head = '"""Pure thin gases over `mixture.GRID_K`: heat capacity [J/kg K], viscosity [Pa s], conductivity [W/m K].'
    said = "Made by `assets/pure_gases.py` with CoolProp 8.0; the viscosity of carbon monoxide is nitrogen's."
    kind = "PURE: dict[str, tuple[tuple[float, ...], tuple[float, ...], tuple[float, ...]]] = {"
    out = [head, "", said, '"""', "", "from __future__ import annotations", "", "# fmt: off", kind]
    for name in KG_MOL:
        out.append(f'    "{name}": (')
        for row in figures(name):
            said = ", ".join(f"{v:.6g}" for v in row)
            out += textwrap.wrap(f"({said}),", 112, initial_indent=" " * 8, subsequent_indent=" " * 9)
        out.append("    ),")
    return "\n".join([*out, "}", ""])


if __name__ == "__main__":
    (ROOT / "src/widebend/core/gas/pure_gases.py").write_text(text())
