"""The bore sheet: what the gas has to push against, by place and by piece, and the same for every tube of the shop."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any, get_args

from flask import Blueprint, g, request
from flask.typing import ResponseReturnValue

from ...core.editing import described_part
from ...core.errors import WideBendError
from ...core.gas import ATMOSPHERE_PA, FlowSolution, PressureDrop
from ...core.records import BenchLoss, Design, Inside, Part, StockItem, Tube
from ...core.sizing import Bore, Variant, main_tube, radii_for, stops_telling, variants, with_bore
from ...core.units import SAME_SIZE_MM, Length, format_length, format_speed, format_temperature
from ...core.wording import say
from ...facts import PART_KINDS
from ...store import jobs, stock
from ..drawing.gas_lines import pressure_lines, speed_lines
from ..drawing.lines_ribbon import Lines
from ..layout.sheets import render_sheet
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState
from ..page.figures import number
from ..page.reader import Reader
from .state import GasQuestion, asked, context, edited, name_of, place_words, range_words

room = Blueprint("bore", __name__, url_prefix="/jobs/<int:job_id>/layout/bore")

# sizes that tube is commonly sold in [mm], beside what the shelf has: common practice
USUAL_OD_MM = (44.45, 50.8, 57.15, 63.5, 69.85, 76.2, 88.9, 101.6)
MOST_ROWS = 10
INSIDES: tuple[Inside, ...] = get_args(Inside)


@dataclass(frozen=True)
class Row:
    """A line of the table of losses, with what stands behind its figure."""

    name: str
    pa: float
    range: str
    share: float
    gas_c: float
    speed: float
    why: tuple[str, ...]


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState())


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    """The sheet."""
    now = asked(here)
    rows = rows_of(here.design, now.breath) if now.breath else []
    bores = _bores(here, now) if now.breath else []
    over = next((b for b in bores if abs(b.tube.od_mm - number(request.values.get("over"), 0.0)) < SAME_SIZE_MM), None)
    return render_sheet(
        here,
        said,
        code,
        "bore.show",
        "gas/_bore.html",
        shadows=[] if now.breath else None,
        lead="gas/_lead_bore.html",
        ribbons=_ribbons(now.breath, over),
        rows=rows,
        head=_head(here.design, now.breath),
        over=over,
        variants=_variants(here, now, bores) if now.breath else [],
        steps_said=_steps(here),
        inner=[_inner(p) for p in here.design.parts if PART_KINDS[p.item.kind].has_inside],
        insides=[(i, i or "not said") for i in INSIDES],
        bores=[_bore_row(b, here.design) for b in bores],
        told=_told(bores),
        **context(here, now, "bore"),
    )


def _ribbons(breath: FlowSolution | None, over: Bore | None) -> list[Lines]:
    """Pressure and speed along the system, another size's laid over."""
    if breath is None:
        return []
    other = over.breath if over else None
    return [pressure_lines(breath, g.unit, other), speed_lines(breath, g.unit, other)]


def _steps(here: AtHand) -> list[str]:
    """Where the pipe is of another size than what it meets: the turbine's outlet, a port."""
    return [say(f, here.design, g.unit) for f in here.found.findings if f.code == "step"]


def _variants(here: AtHand, now: GasQuestion, bores: list[Bore]) -> list[Variant]:
    breath = now.breath
    assert breath is not None  # asked before
    own = main_tube(here.design) if bores else None
    smaller = [b.tube for b in bores if own is not None and b.tube.od_mm < own.od_mm - SAME_SIZE_MM]
    with transaction() as connection:
        dies = [die for bender in jobs.equipment(connection).benders for die in bender.dies]
    lost = max((d.lost_bore for d in dies if d.lost_bore > 0), default=None)
    return solved(
        here.design,
        ("variants", now.state, now.open, lost),
        partial(
            variants,
            here.design,
            here.system,
            breath,
            now.state,
            max(smaller, key=lambda t: float(t.od_mm)) if smaller else None,
            lost,
            cutouts_open=now.open,
        ),
    )


def rows_of(design: Design, breath: FlowSolution) -> list[Row]:
    """Return losses, the largest first."""
    whole = max(breath.most_pa.usual, 1.0)
    made = [_row(design, t, whole) for t in breath.taken]
    blown = sum(breath.ends_pa.values()) / max(1, len(breath.ends_pa))
    words = "half the density times the speed squared where it leaves: nobody gets that back"
    made.append(Row("blown out at the end", blown, "", blown / whole, 0.0, 0.0, (words,)))
    return sorted(made, key=lambda r: -r.pa)


def _row(design: Design, taken: PressureDrop, whole: float) -> Row:
    return Row(
        name_of(design, taken),
        taken.pa.usual,
        range_words(taken.pa),
        taken.pa.usual / whole,
        taken.gas_c.usual,
        taken.speed,
        why(taken),
    )


def why(taken: PressureDrop) -> tuple[str, ...]:
    """Show how a loss was calculated: its inputs, its methods, its range."""
    flow = f"{taken.kg_s * 1000:.1f} g/s of gas at {format_temperature(taken.gas_c.usual, g.unit)}"
    said = [f"{flow}, up to {format_speed(taken.speed, g.unit)} (Mach {taken.mach:.2f})"]
    if taken.stretch is not None:
        s = taken.stretch
        said.append(
            f"bore {format_length(s.bore_mm, g.unit)}, {format_length(s.long_mm, g.unit, 0)} long: friction by "
            "Colebrook, p = (f L / D + K) ρ v² / 2, the gas cooling and growing denser along it"
        )
    said += [f"K {k:.3f} by {name}" if k > 0 else name for name, k in taken.methods]
    if len(taken.methods) > 1:
        said.append("the median counts; least and most are the range, with how sure the flow and its heat are")
    return tuple(said)


def _head(design: Design, breath: FlowSolution | None) -> dict[str, Any] | None:
    """The one sentence above: what is asked for, what is bare pipe, what takes most."""
    if breath is None:
        return None
    worst = max(breath.taken, key=lambda t: t.pa.usual)
    start = max(breath.starts_pa, key=lambda i: breath.starts_pa[i].usual)
    return {
        "pa": breath.most_pa.usual,
        "range": range_words(breath.most_pa),
        "bare": breath.bare_pa,
        "share": breath.most_pa.usual / ATMOSPHERE_PA,
        "gauge": breath.gauges_pa[start].usual,
        "worst": name_of(design, worst),
        "worst_pa": worst.pa.usual,
        "kg_s": breath.gas.kg_s,
        "in_c": breath.gas.enters_c,
        "because": breath.gas.because,
        "rpm": breath.gas.rpm,
        "loose": breath.ways.loose,
        "tapped": breath.ways.tapped,
        "chokes": _choke_words(design, breath),
    }


def _choke_words(design: Design, breath: FlowSolution) -> str:
    if breath.chokes is None:
        return ""
    return place_words(design, breath.chokes.key)


# --- what is inside ---------------------------------------------------------------------------------------------------


def _inner(part: Part) -> dict[str, Any]:
    item, bench = part.item, part.item.measured
    said = item.inside or ("straight through, not said" if item.kind != "cat" else f"{item.cells or 400} cells")
    return {
        "id": part.id,
        "name": part.name or item.kind,
        "is_can": PART_KINDS[item.kind].is_silencer,
        "said": said,
        "inside": item.inside,
        "packed": item.packed,
        "pa": f"{bench.pa / 1000:g}" if bench else "",
        "flow": f"{bench.kg_s * 1000:g}" if bench else "",
        "by": bench.by if bench else "",
    }


@room.post("/part")
def describe(job_id: int) -> ResponseReturnValue:
    """Say how a can is made inside, and what it was measured to take."""

    def change(here: AtHand, reader: Reader) -> tuple[Design, str]:
        inside: Inside = reader.choice("inside", INSIDES, "")  # type: ignore[assignment]
        bench = None
        if reader.given("pa") or reader.given("flow"):
            pa, flow = reader.number("pa", 0.001, 200), reader.number("flow", 1, 5000)
            bench = BenchLoss(pa=pa * 1000, kg_s=flow / 1000, by=reader.words("by"))
        reader.finish()
        part, packed = request.form.get("part", ""), request.form.get("packed", "yes") == "yes"
        made = described_part(here.design, part, inside, packed=packed, measured=bench)
        return made, "wrote down what is inside a part"

    return edited(job_id, "bore", render, change)


# --- which bore ---------------------------------------------------------------------------------------------------


def _bores(here: AtHand, now: GasQuestion) -> list[Bore]:
    """Every size the shop stocks, the design's own among them; the one asked for laid again."""
    try:
        own = main_tube(here.design)
    except WideBendError:
        return []
    with transaction() as connection:
        shelf = [one.item for one in stock.shelf(connection)]
    radii, prices = _radii(shelf), _prices(shelf)
    sizes = _sizes(own, shelf)
    lay = number(request.values.get("lay"), 0.0)
    found = []
    for od in sizes:
        tube = own if abs(od - own.od_mm) < SAME_SIZE_MM else own.replace(od_mm=Length(od))
        relaid = abs(od - lay) < SAME_SIZE_MM and tube != own
        price, bent = _price(prices, od), radii_for(tube, radii)
        try:
            found.append(
                solved(
                    here.design,
                    ("bore", od, now.state, now.open, price, bent, relaid),
                    partial(with_bore, here.design, tube, now.state, price, bent, relaid=relaid, cutouts_open=now.open),
                )
            )
        except WideBendError:
            continue
    return found


def _sizes(own: Tube, shelf: list[StockItem]) -> list[float]:
    known = {float(i.od_mm) for i in shelf if i.kind == "straight" and i.od_mm} | {float(own.od_mm)}
    near = [od for od in USUAL_OD_MM if all(abs(od - k) > 0.3 for k in known)]
    near.sort(key=lambda od: abs(od - float(own.od_mm)))
    return sorted([*known, *near[: max(0, 6 - len(known))]])[:MOST_ROWS]


def _radii(shelf: list[StockItem]) -> Mapping[float, list[float]]:
    out: dict[float, list[float]] = {}
    for item in shelf:
        if item.kind == "bend" and item.od_mm and item.clr_mm:
            out.setdefault(float(item.od_mm), []).append(float(item.clr_mm))
    return out


def _prices(shelf: list[StockItem]) -> Mapping[float, float]:
    """Return the price of a metre, where the shelf has one."""
    return {
        float(i.od_mm): float(i.price) / float(i.length_mm) * 1000
        for i in shelf
        if i.kind == "straight" and i.od_mm and i.price and i.length_mm and not i.is_offcut
    }


def _price(prices: Mapping[float, float], od: float) -> float | None:
    return next((p for k, p in prices.items() if abs(k - od) < SAME_SIZE_MM), None)


def _bore_row(bore: Bore, design: Design) -> dict[str, Any]:
    own = abs(bore.tube.od_mm - main_tube(design).od_mm) < SAME_SIZE_MM
    wrong = []
    if bore.misses:
        wrong.append(f"{bore.misses} run{'s' if bore.misses > 1 else ''} not closed")
    if bore.touches:
        wrong.append(f"{bore.touches} place{'s' if bore.touches > 1 else ''} touch{'' if bore.touches > 1 else 'es'}")
    if bore.tight:
        wrong.append(f"{bore.tight} tight")
    return {
        "od": float(bore.tube.od_mm),
        "own": own,
        "laid": bore.laid,
        "pa": bore.pa.usual,
        "range": range_words(bore.pa),
        "share": bore.pa.usual / ATMOSPHERE_PA,
        "speed": bore.fastest,
        "kg": bore.mass_kg,
        "price": bore.price,
        "low": bore.low_line_mm,
        "wrong": wrong,
        "chokes": bore.breath.chokes is not None,
        "length": bore.length_m * 1000,
    }


def _told(bores: list[Bore]) -> str:
    """Where bigger stops telling, in words."""
    if len(bores) < 2:
        return ""
    last = stops_telling(bores)
    if last is None:
        return "Each of these sizes takes off more than half of what the methods doubt: bigger still tells."
    return (
        f"Past {format_length(last.od_mm, g.unit)} the next size takes off less than half of what the methods "
        "doubt: that is no longer told by any figure here."
    )
