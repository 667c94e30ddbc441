"""Generic hardware with true ports and bodies. Sizes are given, nothing here is anyone's catalogue."""

from __future__ import annotations

from ...facts import PartKind
from ..records import Body, Item, Port
from ..units import Length

_FORWARD, _REARWARD, _UP = (-1.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)


def _port(port_id: str, x: float, od: float, y: float = 0.0, z: float = 0.0) -> Port:
    out = port_id != "in"
    return Port(
        id=port_id,
        role="out" if out else "in",
        point=(Length(x), Length(y), Length(z)),
        axis=_REARWARD if out else _FORWARD,
        reference=_UP,
        od_mm=Length(od),
    )


def start_flange(od_mm: float, name: str = "start flange", kind: PartKind = "flange") -> Item:
    """A flange whose face is at its origin and whose port looks along its X: what the gas leaves from."""
    body = Body(
        start=(Length(-10.0), Length(0.0), Length(0.0)),
        length_mm=Length(10.0),
        width_mm=Length(od_mm + 44.0),
        height_mm=Length(od_mm + 20.0),
        corner_mm=Length(od_mm / 2 + 10.0),
    )
    return Item(kind=kind, name=name, ports=(_port("out", 0.0, od_mm),), bodies=(body,))


def can(
    kind: PartKind,
    name: str,
    od_mm: float,
    body_mm: tuple[float, float, float],
    *,
    spigot_mm: float = 50.0,
    corner_mm: float | None = None,
    mass_kg: float | None = None,
) -> Item:
    """A cat, resonator or muffler: a body (length, width, height) with a spigot at each end, centre to centre.

    Its origin is the inlet spigot's end; `corner_mm` none gives a round or oval section. Without a mass it is
    left unknown, not guessed.
    """
    length, width, height = body_mm
    spigots = [
        Body(
            start=(Length(x), Length(0.0), Length(0.0)),
            length_mm=Length(spigot_mm),
            width_mm=Length(od_mm),
            height_mm=Length(od_mm),
            corner_mm=Length(od_mm / 2),
        )
        for x in (0.0, spigot_mm + length)
        if spigot_mm > 0
    ]
    shell = Body(
        start=(Length(spigot_mm), Length(0.0), Length(0.0)),
        length_mm=Length(length),
        width_mm=Length(width),
        height_mm=Length(height),
        corner_mm=Length(min(width, height) / 2 if corner_mm is None else corner_mm),
    )
    ports = (_port("in", 0.0, od_mm), _port("out", length + 2 * spigot_mm, od_mm))
    return Item(kind=kind, name=name, mass_kg=mass_kg, ports=ports, bodies=(shell, *spigots))


def tip(od_mm: float, tip_od_mm: float, length_mm: float, name: str = "tip") -> Item:
    """A straight tip: its inlet at the origin, open at the back."""
    body = Body(
        start=(Length(0.0), Length(0.0), Length(0.0)),
        length_mm=Length(length_mm),
        width_mm=Length(tip_od_mm),
        height_mm=Length(tip_od_mm),
        corner_mm=Length(tip_od_mm / 2),
    )
    ports = (_port("in", 0.0, od_mm), _port("out", length_mm, tip_od_mm))
    return Item(kind="tip", name=name, ports=ports, bodies=(body,))
