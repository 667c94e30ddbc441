"""Hardware made from a few measures: ports and bodies of each kind on the shelf. Usual sizes, nobody's catalogue.

A part's own frame: X from its inlet to its outlet, Y to the right, Z up. Bodies that bend or branch are straight tubes
one after the other; where a tube joins another it runs on into it, so that no corner is left out.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from ...facts import PartKind
from ..errors import InputError
from ..records import Body, Item, Port
from ..records.hardware import Sliced, Slices
from ..space import Vector
from ..units import Length
from . import shelf
from .crossover import x_pipe

Values = Mapping[str, float]


def _body(x: float, long: float, wide: float, high: float, corner: float, y: float = 0.0) -> Body:
    return Body(
        start=(Length(x), Length(y), Length(0.0)),
        length_mm=Length(long),
        width_mm=Length(wide),
        height_mm=Length(high),
        corner_mm=Length(min(corner, wide / 2, high / 2)),
    )


def _round(x: float, long: float, od: float, y: float = 0.0) -> Body:
    return _body(x, long, od, od, od / 2, y)


def _port(port_id: str, x: float, od: float, y: float = 0.0) -> Port:
    inlet = port_id.startswith("in")
    return Port(
        id=port_id,
        role="in" if inlet else "out",
        point=(Length(x), Length(y), Length(0.0)),
        axis=(-1.0 if inlet else 1.0, 0.0, 0.0),
        reference=(0.0, 0.0, 1.0),
        od_mm=Length(od),
    )


def _port_at(port_id: str, point: Sequence[float] | Vector, deg: float, od: float) -> Port:
    """A port that looks `deg` to the right of X (an outlet) or of -X (an inlet)."""
    inlet, t = port_id.startswith("in"), math.radians(deg)
    way = (-math.cos(t), math.sin(t), 0.0) if inlet else (math.cos(t), math.sin(t), 0.0)
    return Port(
        id=port_id,
        role="in" if inlet else "out",
        point=_point(point),
        axis=way,
        reference=(0.0, 0.0, 1.0),
        od_mm=Length(od),
    )


def _point(point: Sequence[float] | Vector) -> tuple[Length, Length, Length]:
    return Length(float(point[0])), Length(float(point[1])), Length(float(point[2]))


def _tube(a: Vector, b: Vector, od: float) -> Body:
    """A round body from one point to another, (3,) each."""
    way = b - a
    long = float(np.linalg.norm(way))
    axis = (float(way[0]) / long, float(way[1]) / long, float(way[2]) / long)
    return Body(
        start=_point(a),
        length_mm=Length(long),
        width_mm=Length(od),
        height_mm=Length(od),
        corner_mm=Length(od / 2),
        axis=axis,
    )


def _tubes(points: Sequence[Vector], od: float) -> list[Body]:
    """Straight tubes through points; their heels are widened as a mitre's heel stands out."""
    out = []
    for i, (a, b) in enumerate(itertools.pairwise(points)):
        turns = [_turn(points[k - 1], points[k], points[k + 1]) for k in (i, i + 1) if 0 < k < len(points) - 1]
        heel = 1.0 / math.cos(max(turns, default=0.0) / 2)
        out.append(_tube(a, b, od * heel))
    return out


def _turn(a: Vector, b: Vector, c: Vector) -> float:
    one, two = b - a, c - b
    return math.acos(max(-1.0, min(1.0, float(one @ two) / float(np.linalg.norm(one) * np.linalg.norm(two)))))


def _bend_points(clr: float, deg: float, *, down: bool = False) -> list[Vector]:
    """A bend's centre line from the origin along X, turning right (or down), as corners of tubes round the arc."""
    n = max(2, math.ceil(deg / 15))
    half = math.radians(deg) / n / 2
    out = [np.zeros(3)]
    for k in range(n):
        t = (2 * k + 1) * half
        reach = clr / math.cos(half)
        out.append(_in_plane(reach * math.sin(t), clr - reach * math.cos(t), down))
    t = math.radians(deg)
    return [*out, _in_plane(clr * math.sin(t), clr * (1 - math.cos(t)), down)]


def _in_plane(x: float, side: float, down: bool) -> Vector:
    return np.array([x, 0.0, -side]) if down else np.array([x, side, 0.0])


def _item(kind: PartKind, name: str, ports: tuple[Port, ...], bodies: tuple[Body, ...]) -> Item:
    return Item(kind=kind, name=name, ports=ports, bodies=bodies)


def _through(kind: PartKind, name: str, od_in: float, od_out: float, long: float, bodies: tuple[Body, ...]) -> Item:
    return _item(kind, name, (_port("in", 0.0, od_in), _port("out", long, od_out)), bodies)


def flange(name: str, v: Values) -> Item:
    thick, od = v["thick"], v["od"]
    ears = _body(0.0, thick, v["wide"], max(v["high"], od + 6), v["high"] / 2)
    return _through("flange", name, od, od, thick, (ears,))


def v_band(side: str) -> Callable[[str, Values], Item]:
    def make(name: str, v: Values) -> Item:
        if v["ring"] <= v["od"]:
            raise InputError(f"the ring is wider than its tube of {v['od']:g} mm")
        item = _through("v-band", name, v["od"], v["od"], v["long"], (_round(0.0, v["long"], v["ring"]),))
        return item.replace(side=side)

    return make


def ball(name: str, v: Values) -> Item:
    """A ball flange: its ears, and the spring bolts that stand out behind them."""
    ears = _body(0.0, v["thick"], v["wide"], max(v["high"], v["od"] + 6), v["high"] / 2)
    bolts = _body(v["thick"], v["springs"], v["wide"], 22.0, 11.0)
    return _through("flange", name, v["od"], v["od"], v["thick"] + v["springs"], (ears, bolts))


def slip(name: str, v: Values) -> Item:
    """One end opened to slide over the next, with its band clamp where one is used."""
    opened = v["od"] + 2 * v["wall"] + 0.5
    bodies = [_round(0.0, v["long"], opened)]
    if v["clamp"] > 0:
        bodies.append(_round(v["long"] / 2 - v["clamp"] / 2, v["clamp"], opened + 16.0))
    return _through("slip-joint", name, v["od"], v["od"], v["long"], tuple(bodies))


def cutout(name: str, v: Values) -> Item:
    """A branch at an angle out of a straight pipe, with its plate or valve at the end."""
    od, long, deg = v["od"], v["long"], v["deg"]
    if not 10 <= deg <= 90:
        raise InputError("a branch leaves at 10° to 90° to the flow")
    t, foot = math.radians(deg), np.array([long * 0.3, 0.0, 0.0])
    end = foot + v["branch"] * np.array([math.cos(t), math.sin(t), 0.0])
    ports = (_port("in", 0.0, od), _port("out", long, od), _port_at("out-branch", end, deg, v["branch_od"]))
    valve = _tube(end - 20.0 * np.array([math.cos(t), math.sin(t), 0.0]), end, v["branch_od"] + 44.0)
    return _item("cutout", name, ports, (_round(0.0, long, od), _tube(foot, end, v["branch_od"]), valve))


def oval(name: str, v: Values) -> Item:
    if v["wide"] < v["high"]:
        raise InputError("an oval is at least as wide as it is high; roll it to stand it up")
    body = _body(0.0, v["long"], v["wide"], v["high"], v["high"] / 2)
    return _through("oval", name, v["od"], v["od"], v["long"], (body,))


def pie_pack(name: str, v: Values) -> Item:
    """Slices that turn the same in one plane, to the right of the flow."""
    slices, deg, clr = round(v["slices"]), v["slices"] * v["each"], v["clr"]
    if not 1 <= slices <= 20 or not 0 < deg <= 180:
        raise InputError("from 1 to 20 slices that turn up to 180° together")
    half = math.radians(v["each"]) / 2
    wedge = clr * math.tan(half)
    points, heading = [np.zeros(3)], 0.0
    for _ in range(slices):
        points.append(points[-1] + wedge * np.array([math.cos(heading), math.sin(heading), 0.0]))
        heading += 2 * half
        points.append(points[-1] + wedge * np.array([math.cos(heading), math.sin(heading), 0.0]))
    corners = [points[0], *points[1:-1:2], points[-1]]
    ports = (_port("in", 0.0, v["od"]), _port_at("out", points[-1], math.degrees(heading), v["od"]))
    made = _item("pie-pack", name, ports, tuple(_tubes(corners, v["od"])))
    return made.replace(slices=Slices(count=slices, turn_each_deg=v["each"], clr_mm=Length(clr)))


def turned_tip(*, down: bool) -> Callable[[str, Values], Item]:
    """A tip whose end turns down, or out to the right."""

    def make(name: str, v: Values) -> Item:
        arc = [p + np.array([v["long"], 0.0, 0.0]) for p in _bend_points(v["clr"], v["deg"], down=down)]
        t = math.radians(v["deg"])
        way = (math.cos(t), 0.0, -math.sin(t)) if down else (math.cos(t), math.sin(t), 0.0)
        up = (math.sin(t), 0.0, math.cos(t)) if down else (0.0, 0.0, 1.0)
        out = Port(id="out", role="out", point=_point(arc[-1]), axis=way, reference=up, od_mm=Length(v["tip_od"]))
        bodies = _tubes([np.zeros(3), *arc] if v["long"] > 0 else arc, v["tip_od"])
        return _item("tip", name, (_port("in", 0.0, v["od"]), out), tuple(bodies))

    return make


def rolled_tip(name: str, v: Values) -> Item:
    """A tip with a rolled or double lip, a little wider than itself."""
    item = shelf.tip(v["od"], v["tip_od"], v["long"], name)
    lip = _round(v["long"] - v["lip_long"], v["lip_long"], v["tip_od"] + 2 * v["lip"])
    return item.replace(bodies=(*item.bodies, lip))


def slash_tip(name: str, v: Values) -> Item:
    """A tip cut off square; its body reaches as far as its longer side."""
    if not 0 <= v["deg"] <= 60:
        raise InputError("a slash of 0° to 60°")
    longer = v["tip_od"] * math.tan(math.radians(v["deg"]))
    return shelf.tip(v["od"], v["tip_od"], v["long"] + longer, name)


def twin_tip(name: str, v: Values) -> Item:
    """One inlet, two tips side by side, bent apart and back."""
    if v["apart"] < v["tip_od"]:
        raise InputError(f"two tips of {v['tip_od']:g} mm cannot stand {v['apart']:g} mm apart, middle to middle")
    ports: list[Port] = [_port("in", 0.0, v["od"])]
    bodies: list[Body] = []
    for side, sign in (("left", -1.0), ("right", 1.0)):
        y = sign * v["apart"] / 2
        corners = [
            np.zeros(3),
            np.array([v["long"] * 0.25, 0.0, 0.0]),
            np.array([v["long"] * 0.6, y, 0.0]),
            np.array([v["long"], y, 0.0]),
        ]
        bodies += _tubes(corners[:3], v["od"])
        bodies.append(_tube(corners[2], corners[3], v["tip_od"]))
        ports.append(_port(f"out-{side}", v["long"], v["tip_od"], y))
    return _item("tip", name, tuple(ports), tuple(bodies))


def flex(name: str, v: Values) -> Item:
    spigot = v["spigot"]
    bodies = (
        _round(spigot, v["long"], v["body"]),
        _round(0.0, spigot, v["od"]),
        _round(spigot + v["long"], spigot, v["od"]),
    )
    return _through("flex", name, v["od"], v["od"], v["long"] + 2 * spigot, bodies)


def can(kind: PartKind) -> Callable[[str, Values], Item]:
    def make(name: str, v: Values) -> Item:
        size = (v["long"], v["wide"], v["high"])
        return shelf.can(kind, name, v["od"], size, spigot_mm=v["spigot"], corner_mm=v.get("corner"))

    return make


def muffler(name: str, v: Values) -> Item:
    """Inlet and outlet may each stand off the middle, or be two, where it is said how far apart."""
    spigot, long, od = v["spigot"], v["long"], v["od"]
    end = long + 2 * spigot
    room = v["wide"] / 2 - od / 2
    for key in ("in_off", "out_off"):
        if abs(v[key]) > room:
            raise InputError(f"a spigot {v[key]:g} mm off the middle leaves the body: at most {room:.0f} mm")
    ins = _one_or_two("in", v["in_off"], v["twin"], od, room)
    outs = _one_or_two("out", v["out_off"], v["dual"], od, room)
    bodies = [_body(spigot, long, v["wide"], v["high"], v["corner"])]
    if spigot > 0:
        bodies += [_round(0.0, spigot, od, y) for _, y in ins]
        bodies += [_round(spigot + long, spigot, od, y) for _, y in outs]
    ports = (*(_port(name, 0.0, od, y) for name, y in ins), *(_port(name, end, od, y) for name, y in outs))
    return _item("muffler", name, ports, tuple(bodies))


def _one_or_two(which: str, off: float, apart: float, od: float, room: float) -> list[tuple[str, float]]:
    """One spigot so far off the middle, or two so far apart: each with its place across."""
    if apart <= 0:
        return [(which, off)]
    if apart < od or apart / 2 > room:
        raise InputError(f"two {which}lets need {od:.0f} to {2 * room:.0f} mm between their middles")
    return [(f"{which}-left", -apart / 2), (f"{which}-right", apart / 2)]


def transverse(name: str, v: Values) -> Item:
    """A muffler across the vehicle: in at the middle of its front, out at both ends, to the left and to the right."""
    spigot, wide, od = v["spigot"], v["wide"], v["od"]
    if od > v["long"]:
        raise InputError(f"the spigots at its ends need a body of {od:.0f} mm front to back or more")
    middle = spigot + v["long"] / 2
    body = _body(spigot, v["long"], wide, v["high"], v["corner"])
    ends = [np.array([middle, side * (wide / 2 + spigot), 0.0]) for side in (-1.0, 1.0)]
    bodies = [body]
    if spigot > 0:
        bodies.append(_round(0.0, spigot, od))
        bodies += [
            _tube(np.array([middle, side * wide / 2, 0.0]), end, od)
            for side, end in zip((-1.0, 1.0), ends, strict=True)
        ]
    outs = (
        _port_at(f"out-{side}", end, deg, od)
        for side, end, deg in zip(("left", "right"), ends, (-90.0, 90.0), strict=True)
    )
    return _item("muffler", name, (_port("in", 0.0, od), *outs), tuple(bodies))


def reducer(name: str, v: Values) -> Item:
    body = _round(0.0, v["long"], max(v["od"], v["od_out"]))
    return _through("reducer", name, v["od"], v["od_out"], v["long"], (body,))


def branch(ins: tuple[str, ...], outs: tuple[str, ...]) -> Callable[[str, Values], Item]:
    """Two into one, or one into two: legs at half the angle to each side of the trunk."""

    def make(name: str, v: Values) -> Item:
        od, half, long = v["od"], math.radians(v["deg"] / 2), v["long"]
        if not 10 <= v["deg"] <= 120:
            raise InputError("the two pipes meet at 10° to 120°")
        leg = long / math.cos(half)
        apart = 2 * leg * math.sin(half)
        if apart < od:
            raise InputError(f"two pipes of {od:g} mm cannot stand {apart:.0f} mm apart: longer, or a wider angle")
        single, trunk = v["od_out"], max(od, v["od_out"]) * 0.5
        sign = -1.0 if len(ins) == 2 else 1.0  # which way along X the two legs open
        crotch = np.array([long if len(ins) == 2 else trunk, 0.0, 0.0])
        ends = [
            crotch + sign * leg * np.array([math.cos(half), 0.0, 0.0]) + np.array([0.0, y * apart / 2, 0.0])
            for y in (-1.0, 1.0)
        ]
        end = np.array([long + trunk if len(ins) == 2 else 0.0, 0.0, 0.0])
        ports = [
            _port_at(n, e, v["deg"] / 2 * y, od)
            for n, e, y in zip(ins if len(ins) == 2 else outs, ends, (-1.0, 1.0), strict=True)
        ]
        ports.append(_port_at((outs if len(ins) == 2 else ins)[0], end, 0.0, single))
        bodies = [*(_tube(e, crotch, od) for e in ends), _tube(crotch, end, max(od, single))]
        return _item("merge", name, tuple(ports), tuple(bodies))

    return make


def x_crossover(name: str, v: Values) -> Item:
    """Two equal bends sliced on the plane between them, with a leg on each end: core.crossover gives the slice."""
    x = x_pipe(v["od"], v["clr"], v["bend"], v["off"])
    half = math.radians(x.lead_deg)
    ports: list[Port] = []
    bodies: list[Body] = []
    for side, sign in (("left", -1.0), ("right", 1.0)):
        arc = [p - np.array([x.along_mm / 2, 0.0, 0.0]) for p in _arc_points(v["clr"], v["bend"], v["off"])]
        first = arc[0] + v["leg"] * np.array([-math.cos(half), math.sin(half), 0.0])
        last = arc[-1] + v["leg"] * np.array([math.cos(half), math.sin(half), 0.0])
        line = [p * [1.0, sign, 1.0] - [first[0], 0.0, 0.0] for p in (first, *arc, last)]
        ports += [
            _port_at(f"in-{side}", line[0], sign * x.lead_deg, v["od"]),
            _port_at(f"out-{side}", line[-1], sign * x.lead_deg, v["od"]),
        ]
        bodies += _tubes(line if v["leg"] > 0 else line[1:-1], v["od"])
    made = Sliced(angle_deg=v["bend"], clr_mm=Length(v["clr"]), seam_mm=Length(x.cut.seam_mm))
    return _item("crossover", name, tuple(ports), tuple(bodies)).replace(sliced=made)


def _arc_points(clr: float, deg: float, off: float) -> list[Vector]:
    """The right-hand bend of an X: it comes in from the right, is nearest the plane at its middle, and leaves again."""
    n, half = max(2, math.ceil(deg / 15)), math.radians(deg) / 2
    step = 2 * half / n
    reach = clr / math.cos(step / 2)
    turns = [-half, *(-half + step * (k + 0.5) for k in range(n)), half]
    radii = [clr, *[reach] * n, clr]
    out = [np.array([q * math.sin(t), clr + off - q * math.cos(t), 0.0]) for t, q in zip(turns, radii, strict=True)]
    return [p + np.array([clr * math.sin(half), 0.0, 0.0]) for p in out]


def h_crossover(name: str, v: Values) -> Item:
    """Two straight pipes with a stub between them."""
    od, long, y = v["od"], v["long"], v["apart"] / 2
    if v["apart"] <= od or v["stub"] > od:
        raise InputError(f"the pipes must stand more than {od:g} mm apart, and the stub be no wider than they are")
    ports = tuple(
        _port(f"{way}-{side}", 0.0 if way == "in" else long, od, s * y)
        for side, s in (("left", -1.0), ("right", 1.0))
        for way in ("in", "out")
    )
    middle = long / 2
    stub = _tube(np.array([middle, -y, 0.0]), np.array([middle, y, 0.0]), v["stub"])
    return _item("crossover", name, ports, (_round(0.0, long, od, -y), _round(0.0, long, od, y), stub))


def cat(name: str, v: Values) -> Item:
    item = can("cat")(name, v)
    return item.replace(cells=round(v["cells"]))


def same_end(name: str, v: Values) -> Item:
    """A muffler whose gas leaves by the end it came in at."""
    od, apart, spigot = v["od"], v["apart"], v["spigot"]
    if apart < od or apart / 2 + od / 2 > v["wide"] / 2:
        raise InputError(f"the two spigots stand {od:g} to {v['wide'] - od:.0f} mm apart on a body that wide")
    out = Port(
        id="out",
        role="out",
        point=_point((0.0, apart / 2, 0.0)),
        axis=(-1.0, 0.0, 0.0),
        reference=(0.0, 0.0, 1.0),
        od_mm=Length(od),
    )
    bodies = [_body(spigot, v["long"], v["wide"], v["high"], v["corner"])]
    if spigot > 0:
        bodies += [_round(0.0, spigot, od, y) for y in (-apart / 2, apart / 2)]
    return _item("muffler", name, (_port("in", 0.0, od, -apart / 2), out), tuple(bodies))


def tip(name: str, v: Values) -> Item:
    return shelf.tip(v["od"], v["tip_od"], v["long"], name)
