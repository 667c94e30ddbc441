"""Reading and showing the big pieces: start, muffler (the finish), tip, and what the job is made from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

from ...core.editing import placed_at
from ...core.errors import InputError
from ...core.hardware import can as shelf_can
from ...core.hardware import start_flange
from ...core.hardware import tip as shelf_tip
from ...core.laying import part_frames
from ...core.records import Design, Item, Part, Placed, Prices, Run, Settings, Tube
from ...core.space import flow_of, heading_deg, inclination_deg
from ...core.units import Length, as_typed, format_length, parse_angle, parse_length
from ...facts import TUBE_METALS
from ..page.reader import Before, Reader

T = TypeVar("T")

START, MUFFLER, TIP, RUN = "start", "muffler", "tip", "r1"
SHELL = ("long", "wide", "high")

# A first try for an empty job, in mm: an ordinary 63.5 cat-back from behind a gearbox to a muffler ahead of the axle.
# Common practice, no source; every value is there to be typed over.
DEFAULTS = {
    "s_x": 1300.0,
    "s_y": 60.0,
    "s_z": 260.0,
    "od": 63.5,
    "wall": 1.5,
    "m_x": 2700.0,
    "m_y": 260.0,
    "m_z": 230.0,
    "m_long": 380.0,
    "m_wide": 230.0,
    "m_high": 110.0,
    "t_od": 76.2,
    "t_long": 150.0,
    "shortest": 40.0,
}
PLACES = ("s_x", "s_y", "s_z", "m_x", "m_y", "m_z")
ANGLES = {"s_heading": 0.0, "s_slope": 0.0, "m_heading": 0.0, "m_slope": 0.0}


def is_simple(design: Design) -> bool:
    """Whether the first form fits: nothing is placed yet, or what is placed began with it."""
    return design.part(START) is not None or not (design.parts or design.runs)


def read_made_from(form: Mapping[str, str], unit_key: str, design: Design) -> Design:
    """The design with other radii, angles and shortest straight. Raises Faults."""
    reader = Reader(form, unit_key)
    settings = _settings(reader, design.settings)
    reader.finish()
    return design.replace(settings=settings)


def shown(design: Design, unit_key: str, *, example: bool = False) -> dict[str, str]:
    """The layout as the form's fields; of what is not there yet the sizes are usual ones, the places empty or the
    example's.
    """
    values: dict[str, float | None] = {k: v if example or k not in PLACES else None for k, v in DEFAULTS.items()}
    values |= ANGLES
    run = design.run(RUN)
    start, muffler, tip = (design.part(i) for i in (START, MUFFLER, TIP))
    if muffler and not tip:
        values["t_long"] = 0.0  # none wanted is not the same as not said
    if run:
        values |= {"od": run.tube.od_mm, "wall": run.tube.wall_mm}
    for prefix, part in (("s", start), ("m", muffler)):
        if part and part.placed:
            at = part.placed.pose()
            values |= dict(zip((f"{prefix}_x", f"{prefix}_y", f"{prefix}_z"), part.placed.point, strict=True))
            values |= {f"{prefix}_heading": heading_deg(at.flow) or 0.0, f"{prefix}_slope": inclination_deg(at.flow)}
    if muffler:
        shell = muffler.item.bodies[0]
        values |= {"m_long": shell.length_mm, "m_wide": shell.width_mm, "m_high": shell.height_mm}
    if tip:
        values |= {"t_od": tip.item.ports[1].od_mm, "t_long": tip.item.bodies[0].length_mm}
    values["shortest"] = design.settings.shortest_straight_mm
    out = {key: _text(key, value, unit_key) for key, value in values.items()}
    out["material"] = run.tube.material if run else "304"
    out["clr"] = ", ".join(_typed(c, unit_key) for c in design.settings.clr_mm)
    out["angles"] = ", ".join(f"{a:g}" for a in design.settings.angles_deg)
    out["free"] = "yes" if design.settings.free_angles else ""
    prices = design.settings.prices.model_dump()
    out |= {f"price_{key}": "" if price is None else f"{price:g}" for key, price in prices.items()}
    return out


def _text(key: str, value: float | None, unit_key: str) -> str:
    if value is None:
        return ""
    return f"{round(value, 3):g}" if key in ANGLES else _typed(value, unit_key)


def _typed(value: float, unit_key: str) -> str:
    return as_typed(value, "mm" if unit_key == "mm" else "in") or format_length(value, unit_key, 2, suffix=False)


def read_layout(form: Mapping[str, str], unit_key: str, shown_in: str, design: Design) -> Design:
    """The design with the big pieces placed as the form says; what is as it was shown (in the unit `shown_in`) stays as
    it is to the last figure. Raises Faults with every wrong field.
    """
    reader = Reader(form, unit_key, Before(design, shown(design, shown_in), {}))
    now = design.run(RUN)
    same = now is not None and reader.same("od", "wall")
    od, wall = (now.tube.od_mm, now.tube.wall_mm) if now and same else _tube_size(reader)
    if not reader.errors and wall >= od / 2:
        reader.errors["wall"] = f"a wall of {wall:g} mm does not fit a tube of {od:g} mm"
    material = reader.choice("material", TUBE_METALS, "304")
    start, finish = (_placed(reader, prefix, design.part(part)) for prefix, part in (("s", START), ("m", MUFFLER)))
    can = design.part(MUFFLER)
    same = can is not None and reader.same("m_long", "m_wide", "m_high")
    body = _size(can.item) if can and same else tuple(float(reader.length(f"m_{k}", 20.0, 2000.0)) for k in SHELL)
    tip = design.part(TIP)
    same = tip is not None and reader.same("t_long", "t_od")
    tip_long = (tip.item.bodies[0].length_mm if tip and same else reader.optional("t_long")) or Length(0.0)
    if tip_long > 2000:
        reader.errors["t_long"] = "at most 2000 mm: is that the whole pipe?"
    tip_od = tip.item.ports[1].od_mm if tip and same else reader.length("t_od", 10.0, 300.0) if tip_long else od
    settings = _settings(reader, design.settings)
    reader.finish()
    assert start and finish  # finish() raised otherwise
    tube = Tube(od_mm=od, wall_mm=wall, material=material)  # type: ignore[arg-type]
    muffler = shelf_can("muffler", "muffler", od, (body[0], body[1], body[2]))
    placed = [
        _part(design, START, "start flange", start_flange(od), start),
        _part(design, MUFFLER, "muffler", muffler, finish),
    ]
    if tip_long > 0:
        outlet = part_frames(placed[1])["out"]
        point = tuple(Length(float(v)) for v in outlet.point)
        axis = tuple(float(v) for v in outlet.flow)
        at = Placed(point=point, axis=axis)  # type: ignore[arg-type]  # three values each
        placed.append(_part(design, TIP, "tip", shelf_tip(od, tip_od, tip_long), at))
    others = [p for p in design.parts if p.id not in (START, MUFFLER, TIP)]
    run = design.run(RUN) or Run(id=RUN, start=f"{START}.out", aim=f"{MUFFLER}.in", tube=tube)
    run = run.replace(tube=tube)
    runs = (run, *(r for r in design.runs if r.id != RUN))
    update = {"parts": (*placed, *others), "runs": runs, "settings": settings}
    return design.replace(**update).validated()


def _part(design: Design, part_id: str, name: str, item: Item, at: Placed) -> Part:
    """The part at its place; an item of the same size that stands there already keeps its spigots and its mass."""
    known = design.part(part_id)
    if known and _mouths(known.item) == _mouths(item) and _size(known.item) == _size(item):
        return known.replace(placed=at)
    return Part(id=part_id, name=name, item=item, placed=at)


def _mouths(item: Item) -> list[float]:
    return [float(port.od_mm) for port in item.ports]


def _size(item: Item) -> tuple[float, float, float]:
    shell = item.bodies[0]
    return float(shell.length_mm), float(shell.width_mm), float(shell.height_mm)


def _tube_size(reader: Reader) -> tuple[Length, Length]:
    return reader.length("od", 10.0, 300.0), reader.length("wall", 0.4, 10.0)


def _placed(reader: Reader, prefix: str, known: Part | None) -> Placed | None:
    """A place and a direction: heading off the rail (right is plus) and slope (up is plus)."""
    if known and known.placed and reader.same(*(f"{prefix}_{k}" for k in ("x", "y", "z", "heading", "slope"))):
        return known.placed
    x, y, z = (reader.length(f"{prefix}_{k}", -5000.0, 12_000.0) for k in "xyz")
    heading, slope = reader.angle(f"{prefix}_heading", "heading"), reader.angle(f"{prefix}_slope", "slope", -90.0, 90.0)
    return None if reader.errors else placed_at((x, y, z), flow_of(heading, slope))


def _settings(reader: Reader, settings: Settings) -> Settings:
    radii: Sequence[Length] = settings.clr_mm
    if not reader.same("clr"):
        radii = _list(reader, "clr", lambda t: parse_length(t, reader.unit, least=5.0, most=2000.0), 1, 8)
    angles = _list(reader, "angles", _angle, 0, 24)
    kept = reader.same("shortest")
    shortest = settings.shortest_straight_mm if kept else reader.length("shortest", 0.0, 1000.0)
    free = reader.form.get("free") == "yes"
    if not angles and not free and "angles" not in reader.errors:
        reader.errors["angles"] = "give at least one angle, or allow any angle"
    return settings.replace(
        clr_mm=tuple(radii),
        angles_deg=tuple(angles),
        shortest_straight_mm=shortest,
        free_angles=free,
        prices=_prices(reader, settings.prices),
    )


def _prices(reader: Reader, known: Prices) -> Prices:
    """Return the form's prices: empty is not known; a form without the fields leaves them."""
    said: dict[str, float | None] = known.model_dump()
    for key in said:
        text = reader.form.get(f"price_{key}")
        if text is not None:
            said[key] = reader.number(f"price_{key}", 0.0, 1e6) if text.strip() else None
    return Prices(**said)


def _angle(text: str) -> float:
    return parse_angle(text, "angle", 1.0, 180.0)


def _list(reader: Reader, field: str, read: Callable[[str], T], least: int, most: int) -> list[T]:
    """Values apart by commas; one that cannot be read is named."""
    items = [t for t in reader.form.get(field, "").split(",") if t.strip()]
    try:
        values = [read(t) for t in items]
    except InputError as exc:
        reader.errors[field] = str(exc)
        return []
    if not least <= len(values) <= most:
        reader.errors[field] = f"from {least} to {most} values, apart by commas"
    return values
