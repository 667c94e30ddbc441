"""A laid system as a frame: pipe from its tube, bends as chords, parts as stiff bodies with their mass, flex joints
soft, the engine end fixed, hangers as springs at the rod's eye.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ...facts import METALS, PART_KINDS, PartKind
from ..cutting import tube_mass_per_metre
from ..laying import ON_ITS_WAY_MM, LaidPiece, System, along_piece, fitted_of, part_axes
from ..records import Bend, Design, Hanger, InLine, Mitre, Part, SegmentedBend, Tap, Tube
from ..space import Vector
from .frame import Frame, Member, Spring, at_arm, lever
from .rubbers import hold, rubber_of

POISSON = 0.3
NEAR_MM = 8.0  # a hanger so near a node is held by it: members of next to no length spoil the arithmetic
CHORD_DEG = 22.5  # a bend is this many degrees a chord: within a thousandth of a finer one in the tests
MEETS_MM = 5.0  # a run's end this near its aim is welded to it
# A flex of bellows and braid: pushed together [N/mm], bent [N mm/rad], twisted. Common practice, no source.
FLEX_N_MM, FLEX_BEND, FLEX_TWIST = 25.0, 60_000.0, 1e8
STUB_MM = 20.0  # of pipe that turns and slides freely where a slip joint is not tightened

Key = tuple[
    str, str, str
]  # what a node is: ("piece", "run:index", "in" or "out"), ("port", part, port), ("mass", part, "")


@dataclass(frozen=True)
class HangState:
    """In what state the system hangs: slip joints tightened or not, water in it [kg/m], hangers left out;
    pulled to the right by so much of its weight, as in a turn of the road.
    """

    tightened: bool = True
    water_kg_m: float = 0.0
    without: frozenset[str] = frozenset()
    side_g: float = 0.0


@dataclass(frozen=True)
class Eye:
    """Where a hanger's rod is hooked into its rubber, and the rubber's pin above it (3,) [mm]; its node, and what its
    rubbers do (3, 3) [N/mm].
    """

    hanger: Hanger
    node: int
    place: Vector
    eye: Vector
    pin: Vector
    stiffness: Vector


@dataclass
class Model:
    """The frame with what its nodes and members are. `water` (members,) [kg/mm] lies in them when it is wet; `flexes`
    and `pieces` are members by part id and by (run id, index); `held` nodes by the port that is held.
    """

    frame: Frame
    nodes: Mapping[Key, int]
    eyes: tuple[Eye, ...]
    flexes: Mapping[str, int]
    pieces: Mapping[tuple[str, int], tuple[int, ...]]
    held: Mapping[str, int]
    masses: Mapping[str, float]
    guessed: tuple[str, ...]
    water: Vector


@dataclass
class _Build:
    """A frame while it is put together."""

    points: list[Vector] = field(default_factory=list)
    same: dict[int, int] = field(default_factory=dict)
    nodes: dict[Key, int] = field(default_factory=dict)
    members: list[tuple[int, int, dict[str, float]]] = field(default_factory=list)
    wet: list[float] = field(default_factory=list)
    lumps: list[tuple[int, float]] = field(default_factory=list)
    rigid: list[tuple[int, int]] = field(default_factory=list)  # a can or a plate flange gives nothing beside its pipe
    pieces: dict[tuple[str, int], list[int]] = field(default_factory=dict)
    flexes: dict[str, int] = field(default_factory=dict)

    def node(self, point: Vector, key: Key | None = None) -> int:
        self.points.append(np.asarray(point, dtype=float))
        self.same[len(self.points) - 1] = len(self.points) - 1
        if key is not None:
            self.nodes[key] = len(self.points) - 1
        return len(self.points) - 1

    def root(self, node: int) -> int:
        while self.same[node] != node:
            node = self.same[node]
        return node

    def join(self, a: int, b: int) -> None:
        """Two nodes are one: they are welded, bolted or clamped there."""
        a, b = self.root(a), self.root(b)
        if a != b:
            self.same[b] = a

    def member(self, a: int, b: int, kind: dict[str, float], water_kg_mm: float = 0.0) -> int:
        self.members.append((a, b, kind))
        self.wet.append(water_kg_mm)
        return len(self.members) - 1


def model_of(design: Design, system: System, how: HangState | None = None) -> Model:
    """The frame of a system. Raises InputError where it cannot be laid."""
    state, build = how or HangState(), _Build()
    masses, guessed = _masses(system)
    for part, _ in system.parts:
        _part(build, system, part, masses[part.id])
    hung = _hung_at(design, system)
    for run in system.runs:
        loose = {j.after for j in run.run.joints if j.kind == "slip"} if not state.tightened else set()
        before = _start(build, system, run.run.start)
        if run.pieces and "start" in loose and before is not None:
            before = _loose(build, before, run.start.point, run.start.flow, run.pieces[0].tube)
        for piece in run.pieces:
            first, last = _piece(build, run.run.id, piece, hung, state)
            if before is not None:
                build.join(before, first)
            before = last
            if piece.piece.id in loose:
                before = _loose(build, last, piece.outlet.point, piece.outlet.flow, piece.tube)
        aim = _port(build, run.run.aim) if run.run.aim else None
        meets = ON_ITS_WAY_MM if fitted_of(design, run.run.id) else MEETS_MM
        if run.pieces and before is not None and aim is not None and run.miss_mm < meets:
            build.join(before, aim)
    for hanger in design.hangers:  # a bar across two pipes ties them, whether its rubber is there or not
        ends = [build.nodes.get(key) for key in (_on_key(*on_pipe) for on_pipe in _on_pipes(hanger))]
        if len(ends) == 2 and None not in ends:
            build.rigid.append((ends[0], ends[1]))  # type: ignore[arg-type]
    for a, b in system.faces:
        one, other = _port(build, a.name), _port(build, b.name)
        if one is not None and other is not None:
            build.join(one, other)
    return _model(build, design, system, state, masses, guessed)


def _model(
    build: _Build,
    design: Design,
    system: System,
    state: HangState,
    masses: Mapping[str, float],
    guessed: tuple[str, ...],
) -> Model:
    roots = sorted({build.root(n) for n in range(len(build.points))})
    number = {root: k for k, root in enumerate(roots)}
    place = {n: number[build.root(n)] for n in range(len(build.points))}
    points = np.array([build.points[root] for root in roots]).reshape(-1, 3)
    kept = [
        k
        for k, (a, b, _) in enumerate(build.members)
        if place[a] != place[b] and np.linalg.norm(points[place[b]] - points[place[a]]) > 1e-3
    ]
    for a, b, _ in (build.members[k] for k in set(range(len(build.members))) - set(kept)):
        place = {n: place[a] if at == place[b] else at for n, at in place.items()}
    used = sorted(set(place.values()))
    tight = {old: k for k, old in enumerate(used)}
    place = {n: tight[at] for n, at in place.items()}
    points = points[used]
    index = {old: k for k, old in enumerate(kept)}
    members = tuple(Member(place[a], place[b], **kind) for a, b, kind in (build.members[k] for k in kept))
    nodes = {key: place[n] for key, n in build.nodes.items()}
    eyes = tuple(_eyes(design, system, nodes, points, state))
    held = {name: nodes[("port", *_split(name))] for name in _held_ports(system)}
    springs = tuple(Spring(e.node, at_arm(e.stiffness, e.eye - points[e.node])) for e in eyes)
    frame = Frame(
        points,
        members,
        springs,
        tuple((place[n], kg) for n, kg in build.lumps),
        tuple((place[a], place[b]) for a, b in build.rigid),
        tuple(held.values()),
    )
    pieces = {key: tuple(index[m] for m in own if m in index) for key, own in build.pieces.items()}
    water = np.array([build.wet[k] for k in kept]) * (1.0 if state.water_kg_m else 0.0)
    return Model(
        frame,
        nodes,
        eyes,
        {p: index[m] for p, m in build.flexes.items() if m in index},
        pieces,
        held,
        masses,
        guessed,
        water,
    )


def _hold(hanger: Hanger) -> Vector:
    return hold(hanger.way, rubber_of(hanger), hanger.rubbers)


def _split(port: str) -> tuple[str, str]:
    part, _, name = port.partition(".")
    return part, name


def _port(build: _Build, name: str) -> int | None:
    return build.nodes.get(("port", *_split(name)))


def usual_kg(kind: PartKind) -> float:
    """Return the usual mass of a kind of part [kg]: common practice, no source."""
    return PART_KINDS[kind].usual_kg


def _masses(system: System) -> tuple[dict[str, float], tuple[str, ...]]:
    """Every part's mass [kg]; and the names of those whose mass is the usual one of their kind."""
    guessed = tuple(p.name or p.item.kind for p, _ in system.parts if p.item.mass_kg is None)
    return {
        p.id: p.item.mass_kg if p.item.mass_kg is not None else usual_kg(p.item.kind) for p, _ in system.parts
    }, guessed


def _held_ports(system: System) -> list[str]:
    """The ports that are held by what is no part of the system: of a flange or ring that nothing feeds, or any part
    that nothing feeds; and of a flange or ring that leads on to nothing of it.
    """
    fed = {r.run.aim for r in system.runs if r.run.aim}
    carried = {p.piece.part for r in system.runs for p in r.pieces if isinstance(p.piece, InLine)}
    met = {q.name for a, b in system.faces for q in (a, b)}
    left = {r.run.start for r in system.runs if isinstance(r.run.start, str)}
    found = []
    for part, _ in system.parts:
        inlets = [f"{part.id}.{p.id}" for p in part.item.ports if p.role == "in"]
        outlets = [f"{part.id}.{p.id}" for p in part.item.ports if p.role != "in"]
        if (
            PART_KINDS[part.item.kind].joins_pipes
            and any(i in fed for i in inlets)
            and not any(o in met or o in left for o in outlets)
        ):
            found.append(outlets[0] if outlets else inlets[0])
            continue
        starts = any(isinstance(r.run.start, str) and r.run.start in outlets for r in system.runs)
        if part.id in carried or not (starts or any(o in met for o in outlets)):
            continue
        if all(i not in fed and i not in met for i in inlets) and (
            PART_KINDS[part.item.kind].joins_pipes or not inlets
        ):
            found.append(inlets[0] if inlets else outlets[0])
    return found


def _part(build: _Build, system: System, part: Part, kg: float) -> None:
    """A part: its mass at the middle of its bodies, stiffly held to its ports; a flex soft between its two."""
    ports = {
        q.port.id: build.node(q.pose.point, ("port", part.id, q.port.id)) for q in system.ports if q.part.id == part.id
    }
    if part.item.kind == "flex" and len(ports) == 2:
        a, b = ports.values()
        long = float(np.linalg.norm(build.points[b] - build.points[a]))
        soft = {"ea": FLEX_N_MM * long, "ei": FLEX_BEND * long, "gj": FLEX_TWIST * long}
        build.flexes[part.id] = build.member(a, b, soft)
        build.lumps += [(a, kg / 2), (b, kg / 2)]
        build.nodes[("mass", part.id, "")] = b
        return
    middle = build.node(_middle(system, part), ("mass", part.id, ""))
    for node in ports.values():
        build.rigid.append((node, middle))
    build.lumps.append((middle, kg))


def _middle(system: System, part: Part) -> Vector:
    """The middle of a part's bodies by their volume; of one without any, of its ports."""
    bodies = [b for b in system.bodies if b.part.id == part.id]
    if bodies:
        volumes = np.array([b.bulk for b in bodies])
        return np.asarray(volumes @ np.array([b.middle for b in bodies]) / volumes.sum())
    return np.asarray(np.mean([q.pose.point for q in system.ports if q.part.id == part.id], axis=0))


def _start(build: _Build, system: System, start: str | Tap) -> int | None:
    """The node a run leaves: a port, or the side of another pipe."""
    if not isinstance(start, Tap):
        return _port(build, start)
    run = next((r for r in system.runs if r.run.id == start.run), None)
    sits = next((p for p in run.pieces if p.piece.id == start.piece), None) if run else None
    key = ("on", f"{start.run}:{start.piece}", f"{float(start.along_mm):.3f}")
    if sits is None or key not in build.nodes:
        return None
    branch = next(r for r in system.runs if r.run.start == start)
    skin = build.node(branch.start.point)
    build.rigid.append((build.nodes[key], skin))
    return skin


def _loose(build: _Build, node: int, point: Vector, flow: Vector, tube: Tube) -> int:
    """Pipe behind a slip joint that is not tightened: it slides and turns on what it is pushed over."""
    bent = _tube(tube) | {"ea": 1.0 * STUB_MM, "gj": 1e3 * STUB_MM, "kg_mm": 0.0}
    # the stub lies back in what it is pushed over, so that the far end stays where it is
    root = build.node(point - STUB_MM * flow)
    build.rigid.append((node, root))
    behind = build.node(point)
    build.member(root, behind, bent)
    return behind


def _tube(tube: Tube) -> dict[str, float]:
    """A tube as a member: EA, EI, GJ and its mass [kg/mm]."""
    od, bore = float(tube.od_mm), float(tube.od_mm - 2 * tube.wall_mm)
    young = METALS[tube.material].young_mpa
    area, second = math.pi / 4 * (od**2 - bore**2), math.pi / 64 * (od**4 - bore**4)
    return {
        "ea": young * area,
        "ei": young * second,
        "gj": young / (2 * (1 + POISSON)) * 2 * second,
        "kg_mm": tube_mass_per_metre(tube) / 1000.0,
    }


def bend_factor(tube: Tube, clr_mm: float) -> float:
    """How much more a bend gives than straight tube: thin tube flattens as it is bent. 1.65 / h, h = t R / r^2, never
    less than 1 (ASME B31.3 appendix D, from memory).

    >>> round(bend_factor(Tube(od_mm=63.5, wall_mm=1.5), 95.25), 2)
    11.1
    """
    wall, mean = float(tube.wall_mm), float(tube.od_mm - tube.wall_mm) / 2
    return max(1.0, 1.65 * mean**2 / (wall * clr_mm))


Places = Mapping[tuple[str, str], Sequence[float]]


def _on_pipes(hanger: Hanger) -> list[tuple[str, str, float]]:
    """The places on pipe (run id, piece id, along [mm]) that a hanger holds: none on a part, two by a bar across."""
    found = []
    if hanger.run and hanger.piece:
        found.append((hanger.run, hanger.piece, float(hanger.along_mm)))
    if hanger.also_run and hanger.also_piece:
        found.append((hanger.also_run, hanger.also_piece, float(hanger.also_along_mm)))
    return found


def _on_key(run: str, piece: str, along: float) -> Key:
    return "on", f"{run}:{piece}", f"{along:.3f}"


def held_places(hanger: Hanger, system: System) -> list[tuple[LaidPiece, Vector]]:
    """The pieces of pipe that a hanger holds, and where on their middle lines (3,); none for what is not laid."""
    found = []
    for run_id, piece_id, along in _on_pipes(hanger):
        run = next((r for r in system.runs if r.run.id == run_id), None)
        piece = next((p for p in run.pieces if p.piece.id == piece_id), None) if run else None
        if piece is not None:
            found.append((piece, along_piece(piece, min(1.0, along / max(piece.length_mm, 1e-9)))[0]))
    return found


def _hung_at(design: Design, system: System) -> dict[tuple[str, str], list[float]]:
    """How far along each piece (run id, piece id) something is hung or branches off [mm]."""
    found: dict[tuple[str, str], list[float]] = {}
    for hanger in design.hangers:
        for run_id, piece, along in _on_pipes(hanger):
            found.setdefault((run_id, piece), []).append(along)
    for run in system.runs:
        if isinstance(run.run.start, Tap):
            tap = run.run.start
            found.setdefault((tap.run, tap.piece), []).append(float(tap.along_mm))
    return found


def _piece(build: _Build, run: str, piece: LaidPiece, hung: Places, state: HangState) -> tuple[int, int]:
    """One piece of a run: its first and last node."""
    name, own = f"{run}:{piece.index}", build.pieces.setdefault((run, piece.index), [])
    if isinstance(piece.piece, InLine):
        part = piece.piece.part
        return build.nodes[("port", part, piece.piece.enter)], build.nodes[("port", part, piece.piece.leave)]
    first = build.node(piece.inlet.point, ("piece", name, "in"))
    kind = _tube(piece.tube)
    if piece.length_mm < 1e-6 or isinstance(piece.piece, Mitre):
        build.nodes[("piece", name, "out")] = first
        return first, first
    if piece.length_mm < NEAR_MM / 2:
        last = build.node(piece.outlet.point, ("piece", name, "out"))
        build.rigid.append((first, last))
        build.lumps.append((first, kind["kg_mm"] * piece.length_mm))
        return first, last
    if isinstance(piece.piece, Bend):
        kind["ei"] /= bend_factor(piece.tube, float(piece.piece.clr_mm))
    water = state.water_kg_m * 1e-3
    shares = _shares(piece, hung.get((run, piece.piece.id), ()))
    before, at = first, piece.inlet.point
    # chords are shorter than the arc: the mass is the arc's
    points = [along_piece(piece, share)[0] for share, _ in shares]
    chords = sum(float(np.linalg.norm(b - a)) for a, b in zip([at, *points], points, strict=False))
    kind["kg_mm"] *= piece.length_mm / chords
    for (share, hangs), point in zip(shares, points, strict=True):
        last = share >= 1.0 - 1e-9
        node = build.node(point, ("piece", name, "out") if last else None)
        own.append(build.member(before, node, kind, water))
        for along in hangs:
            build.nodes[("on", f"{run}:{piece.piece.id}", f"{along:.3f}")] = node
        before = node
    for along in hung.get((run, piece.piece.id), ()):
        build.nodes.setdefault(("on", f"{run}:{piece.piece.id}", f"{along:.3f}"), first)
    return first, before


def _shares(piece: LaidPiece, hung: Sequence[float]) -> list[tuple[float, list[float]]]:
    """Where along a piece its nodes are, as shares of its length without its start, and what is hung there."""
    turn = piece.piece.angle_deg if isinstance(piece.piece, Bend) else 0.0
    count = piece.piece.slices if isinstance(piece.piece, SegmentedBend) else max(1, math.ceil(turn / CHORD_DEG))
    found: dict[float, list[float]] = {round((k + 1) / count, 9): [] for k in range(count)}
    for along in hung:
        share = min(1.0, along / piece.length_mm)
        if share * piece.length_mm < NEAR_MM:
            continue  # it is hung at the piece's start
        near = min(found, key=lambda s: abs(s - share))
        close = abs(near - share) * piece.length_mm < NEAR_MM
        found.setdefault(near if close else round(share, 9), []).append(along)
    return sorted(found.items())


def _eyes(design: Design, system: System, nodes: Mapping[Key, int], points: Vector, state: HangState) -> Iterator[Eye]:
    """Every hanger that is not left out, where its rod is hooked in."""
    for hanger in design.hangers:
        if hanger.id in state.without:
            continue
        node, place, up = _place(hanger, system, nodes, points)
        if node is None:
            continue
        pin = pin_of(design, hanger)
        long = 0.0 if hanger.way == "solid" else float(rubber_of(hanger).long_mm)
        if pin is None:  # no point of the vehicle yet: as if it hung straight above
            pin = place + np.array([0.0, 0.0, up + long])
        yield Eye(hanger, node, place, pin - np.array([0.0, 0.0, long]), pin, _hold(hanger))


def pre_load(model: Model, eye: Eye) -> Vector:
    """Return the load of a stretched rubber on its node before anything moves (6,) [N, N mm]."""
    pull = eye.stiffness @ np.array(eye.hanger.pre_mm, dtype=float)
    return np.asarray(lever(eye.eye - model.frame.nodes[eye.node]).T @ pull)


def pre_loads(model: Model) -> Vector:
    """The same of all hangers, as loads at the nodes (n, 6)."""
    loads = np.zeros((len(model.frame.nodes), 6))
    for eye in model.eyes:
        loads[eye.node] += pre_load(model, eye)
    return loads


ABOVE_MM = 40.0  # of a hanger whose point is not said, its eye so far over the pipe


def pin_of(design: Design, hanger: Hanger) -> Vector | None:
    """Where a hanger's rubber hangs from (3,) [mm]; None while it has no point on the vehicle."""
    point = next((h for h in design.survey.hang_points if h.id == hanger.hang_point), None)
    return None if point is None else np.array(point.point, dtype=float) + np.array(hanger.pin_mm, dtype=float)


def _place(
    hanger: Hanger, system: System, nodes: Mapping[Key, int], points: Vector
) -> tuple[int | None, Vector, float]:
    """The node a hanger holds, the place on the system, and how far over it the rod's eye is by default [mm]."""
    if hanger.part:
        found = next(((p, at) for p, at in system.parts if p.id == hanger.part), None)
        node = nodes.get(("mass", hanger.part, ""))
        if found is None or node is None:
            return None, np.zeros(3), 0.0
        _, at = found
        local = np.array(hanger.at, dtype=float)
        return node, at.point + part_axes(at) @ local, ABOVE_MM
    node = nodes.get(_on_key(hanger.run or "", hanger.piece or "", float(hanger.along_mm)))
    held = held_places(hanger, system)
    if node is None or not held:
        return None, np.zeros(3), 0.0
    middle = np.mean([place for _, place in held], axis=0)  # of two pipes the bar across
    return node, middle, float(held[0][0].tube.od_mm) / 2 + ABOVE_MM
