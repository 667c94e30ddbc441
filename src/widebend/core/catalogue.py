"""The shelf: generic hardware, each kind by its own few measures. Sizes are usual ones, nothing is anyone's catalogue.

A part's own frame: X from its inlet to its outlet, Y to the right, Z up. Bodies of branching parts are boxes that hold
the branch: never too small.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from . import shelf
from .errors import InputError
from .records import Body, Item, PartKind, Port
from .units import Length

Values = Mapping[str, float]


@dataclass(frozen=True)
class Measure:
    """One measure of a kind of hardware: its field, what it means, its usual value [mm unless `deg`]."""

    key: str
    words: str
    usual: float
    kind: str = "length"


@dataclass(frozen=True)
class Kind:
    """One kind of hardware on the shelf."""

    key: str
    name: str
    measures: tuple[Measure, ...]
    make: Callable[[str, Values], Item]


def item_of(key: str, name: str, values: Values) -> Item:
    """The item of a kind with its measures. Raises InputError for what cannot be made, KeyError for no such kind."""
    item = SHELF[key].make(name or SHELF[key].name, values)
    return Item.model_validate(item.model_dump())


def _body(x: float, long: float, wide: float, high: float, corner: float, y: float = 0.0) -> Body:
    return Body(
        start=(Length(x), Length(y), Length(0.0)), length_mm=Length(long), width_mm=Length(wide),
        height_mm=Length(high), corner_mm=Length(min(corner, wide / 2, high / 2)),
    )  # fmt: skip


def _round(x: float, long: float, od: float, y: float = 0.0) -> Body:
    return _body(x, long, od, od, od / 2, y)


def _port(port_id: str, x: float, od: float, y: float = 0.0) -> Port:
    inlet = port_id.startswith("in")
    return Port(
        id=port_id, role="in" if inlet else "out", point=(Length(x), Length(y), Length(0.0)),
        axis=(-1.0 if inlet else 1.0, 0.0, 0.0), reference=(0.0, 0.0, 1.0), od_mm=Length(od),
    )  # fmt: skip


def _item(kind: PartKind, name: str, ports: tuple[Port, ...], bodies: tuple[Body, ...]) -> Item:
    return Item(kind=kind, name=name, ports=ports, bodies=bodies)


def _through(kind: PartKind, name: str, od_in: float, od_out: float, long: float, bodies: tuple[Body, ...]) -> Item:
    return _item(kind, name, (_port("in", 0.0, od_in), _port("out", long, od_out)), bodies)


def _flange(name: str, v: Values) -> Item:
    thick, od = v["thick"], v["od"]
    ears = _body(0.0, thick, v["wide"], max(v["high"], od + 6), v["high"] / 2)
    return _through("flange", name, od, od, thick, (ears,))


def _v_band(name: str, v: Values) -> Item:
    return _through("v-band", name, v["od"], v["od"], v["long"], (_round(0.0, v["long"], v["ring"]),))


def _flex(name: str, v: Values) -> Item:
    spigot = v["spigot"]
    bodies = (_round(spigot, v["long"], v["body"]), _round(0.0, spigot, v["od"]),
              _round(spigot + v["long"], spigot, v["od"]))  # fmt: skip
    return _through("flex", name, v["od"], v["od"], v["long"] + 2 * spigot, bodies)


def _can(kind: PartKind) -> Callable[[str, Values], Item]:
    def make(name: str, v: Values) -> Item:
        size = (v["long"], v["wide"], v["high"])
        return shelf.can(kind, name, v["od"], size, spigot_mm=v["spigot"], corner_mm=v.get("corner"))

    return make


def _muffler(name: str, v: Values) -> Item:
    """Inlet and outlet may each stand off the middle; a second outlet where its offset is given."""
    spigot, long, od = v["spigot"], v["long"], v["od"]
    end = long + 2 * spigot
    room = v["wide"] / 2 - od / 2
    for key in ("in_off", "out_off"):
        if abs(v[key]) > room:
            raise InputError(f"a spigot {v[key]:g} mm off the middle leaves the body: at most {room:.0f} mm")
    outs = [("out", v["out_off"])]
    if v["dual"] > 0:
        if v["dual"] < od or v["dual"] / 2 > room:
            raise InputError(f"two outlets need {od:.0f} to {2 * room:.0f} mm between their middles")
        outs = [("out-left", -v["dual"] / 2), ("out-right", v["dual"] / 2)]
    bodies = [_body(spigot, long, v["wide"], v["high"], v["corner"])]
    if spigot > 0:
        bodies.append(_round(0.0, spigot, od, v["in_off"]))
        bodies += [_round(spigot + long, spigot, od, y) for _, y in outs]
    ports = (_port("in", 0.0, od, v["in_off"]), *(_port(name, end, od, y) for name, y in outs))
    return _item("muffler", name, ports, tuple(bodies))


def _reducer(name: str, v: Values) -> Item:
    body = _round(0.0, v["long"], max(v["od"], v["od_out"]))
    return _through("reducer", name, v["od"], v["od_out"], v["long"], (body,))


def _branch(kind: PartKind, ins: tuple[str, ...], outs: tuple[str, ...]) -> Callable[[str, Values], Item]:
    """Two into one, one into two, or a crossover of two pipes side by side."""

    def make(name: str, v: Values) -> Item:
        od, apart, long = v["od"], v["apart"], v["long"]
        if apart < od:
            raise InputError(f"two pipes of {od:g} mm cannot stand {apart:g} mm apart, middle to middle")

        def placed(names: tuple[str, ...], x: float, single: float) -> tuple[Port, ...]:
            if len(names) == 1:
                return (_port(names[0], x, single),)
            return tuple(_port(n, x, od, y) for n, y in zip(names, (-apart / 2, apart / 2), strict=True))

        single = v.get("od_out", od)
        ports = placed(ins, 0.0, single) + placed(outs, long, single)
        return _item(kind, name, ports, (_body(0.0, long, apart + od, max(od, single), od / 2),))

    return make


def _tip(name: str, v: Values) -> Item:
    return shelf.tip(v["od"], v["tip_od"], v["long"], name)


_OD = Measure("od", "tube outside diameter", 63.5)
_SPIGOT = Measure("spigot", "spigot at each end", 45.0)
_APART = Measure("apart", "middle to middle of the two", 120.0)
_CAN = (_OD, Measure("long", "body long", 300.0), Measure("wide", "body wide", 120.0),
        Measure("high", "body high", 120.0), _SPIGOT)  # fmt: skip

SHELF: dict[str, Kind] = {
    kind.key: kind
    for kind in (
        Kind("flange-2", "2-bolt flange", (_OD, Measure("wide", "across the ears", 118.0),
             Measure("high", "across the flats", 86.0), Measure("thick", "thick", 10.0)), _flange),
        Kind("flange-3", "3-bolt flange", (_OD, Measure("wide", "widest", 118.0), Measure("high", "highest", 112.0),
             Measure("thick", "thick", 10.0)), _flange),
        Kind("v-band", "V-band pair", (_OD, Measure("ring", "ring outside diameter", 88.0),
             Measure("long", "both rings, front to back", 24.0)), _v_band),
        Kind("flex", "flex joint", (_OD, Measure("long", "braid long", 100.0), Measure("body", "braid outside", 86.0),
             _SPIGOT), _flex),
        Kind("cat", "catalyst", _CAN, _can("cat")),
        Kind("resonator", "resonator", _CAN, _can("resonator")),
        Kind("muffler", "muffler", (_OD, Measure("long", "body long", 380.0), Measure("wide", "body wide", 230.0),
             Measure("high", "body high", 110.0), Measure("corner", "corners rounded by", 55.0), _SPIGOT,
             Measure("in_off", "inlet off the middle, right is plus", 0.0, "offset"),
             Measure("out_off", "outlet off the middle, right is plus", 0.0, "offset"),
             Measure("dual", "two outlets: middle to middle, 0 = one", 0.0)), _muffler),
        Kind("reducer", "reducer or expander", (_OD, Measure("od_out", "outlet outside diameter", 76.2),
             Measure("long", "long", 80.0)), _reducer),
        Kind("merge", "merge, two into one", (_OD, _APART, Measure("od_out", "outlet outside diameter", 76.2),
             Measure("long", "long", 180.0)), _branch("merge", ("in-left", "in-right"), ("out",))),
        Kind("split", "split, one into two", (_OD, _APART, Measure("od_out", "inlet outside diameter", 76.2),
             Measure("long", "long", 180.0)), _branch("merge", ("in",), ("out-left", "out-right"))),
        Kind("crossover", "X crossover", (_OD, _APART, Measure("long", "long", 300.0)),
             _branch("crossover", ("in-left", "in-right"), ("out-left", "out-right"))),
        Kind("tip", "tip", (_OD, Measure("tip_od", "tip outside diameter", 89.0), Measure("long", "long", 180.0)),
             _tip),
    )
}  # fmt: skip
