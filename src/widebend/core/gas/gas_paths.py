"""Which way the gas goes through a design: stretches one behind the other, and where ways meet or part.

A *way* runs between two nodes without a branch. A part of more than two ports is a *meeting*. Gas comes in where
nothing feeds a port and leaves where a port or a pipe leads nowhere. What is tapped on the side carries none while
it is shut.
"""

from __future__ import annotations

import itertools
import math
from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from ...facts import Metal
from ..laying import LaidPiece, LaidRun, PlacedPort, System, along_piece
from ..records import Design, InLine, Part, Port, Run, Tap
from ..space import Vector

USUAL_WALL_MM = 1.5
STUB_MM = 1.0  # what stands for an outlet with nothing behind it


@dataclass(frozen=True)
class Stretch:
    """One piece or part that the gas goes through, in its direction: its bores and length [mm], and where it runs."""

    run: str
    piece: LaidPiece | None
    part: Part | None
    bore_mm: float
    leaves_mm: float
    long_mm: float
    points: Vector  # (k, 3), from inlet to outlet
    material: Metal
    wall_mm: float

    @property
    def key(self) -> str:
        """Return its name: run and piece, or the part."""
        return f"{self.run}/{self.piece.piece.id}" if self.piece is not None else (self.part.id if self.part else "")


@dataclass(frozen=True)
class GasPath:
    """Stretches in order from a node to a node; ports of a meeting are told by their own names."""

    head: str
    tail: str
    stretches: tuple[Stretch, ...]


@dataclass(frozen=True)
class Meeting:
    """A part where ways meet: those that come in and those that go out, each with its port."""

    part: Part
    ins: tuple[tuple[int, Port], ...]
    outs: tuple[tuple[int, Port], ...]


@dataclass(frozen=True)
class Capped:
    """A closed branch: on the side of which stretch, how far along it [mm], and its sections from the mouth to the cap:
    how long, and of what bore [mm].
    """

    stretch: str
    along_mm: float
    sections: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class GasPaths:
    """All ways, each after those that feed it; the meetings by node; ways that gas enters by, and that end in air; runs
    that are tapped on the side.
    """

    ways: tuple[GasPath, ...]
    meetings: dict[str, Meeting]
    sources: tuple[int, ...]
    ends: tuple[int, ...]
    tapped: tuple[str, ...] = ()
    capped: tuple[Capped, ...] = ()
    loose: tuple[str, ...] = field(default=(), metadata={"about": "runs and parts that no gas reaches"})

    def before(self, index: int) -> list[int]:
        """The ways that feed one."""
        return [i for i, w in enumerate(self.ways) if w.tail == self.ways[index].head]

    def behind(self, index: int) -> list[int]:
        """The ways that one feeds."""
        return [i for i, w in enumerate(self.ways) if w.head == self.ways[index].tail]


@dataclass
class _Link:
    a: str
    b: str
    stretches: list[Stretch]


def ways_of(design: Design, system: System, *, cutouts_open: bool = False) -> GasPaths:
    """The gas's ways through a laid design; through the branches of cutouts too where they are open."""
    ports = {p.name: p for p in system.ports}
    links = [link for run in system.runs for link in _of_run(design, run, ports)]
    carried = {p.piece.part for run in system.runs for p in run.pieces if isinstance(p.piece, InLine)}
    walls = _walls(system)
    for part, _ in system.parts:
        if part.id not in carried and len(part.item.ports) == 2:
            a, b = (f"{part.id}.{p.id}" for p in part.item.ports)
            links.append(_Link(a, b, [_of_part(part, ports[a], ports[b], "", walls)]))
    _named_by_meetings(links, system)
    links += list(_into_air(links, system, cutouts_open))
    found = _directed(links, system, _nodes(links, system, ports), ports)
    return replace(found, capped=tuple(_capped(system)))


def _capped(system: System) -> Iterator[Capped]:
    for laid in system.runs:
        start = laid.run.start
        if isinstance(start, Tap) and laid.run.capped and laid.pieces:
            bores = itertools.groupby(laid.pieces, key=lambda p: float(p.tube.od_mm - 2 * p.tube.wall_mm))
            sections = tuple((sum(p.length_mm for p in pieces), bore) for bore, pieces in bores)
            yield Capped(f"{start.run}/{start.piece}", float(start.along_mm), sections)


def _named_by_meetings(links: list[_Link], system: System) -> None:
    """An end that stands face to face with a port of a meeting is called by that port."""
    meets = {p.name for p in system.ports if len(p.part.item.ports) > 2}
    known = {one.name: other.name for a, b in system.faces for one, other in ((a, b), (b, a)) if other.name in meets}
    for link in links:
        link.a, link.b = known.get(link.a, link.a), known.get(link.b, link.b)


def _into_air(links: list[_Link], system: System, cutouts_open: bool) -> Iterator[_Link]:
    """Outlets of a meeting that open into the air."""
    used = {end for link in links for end in (link.a, link.b)}
    for port in system.ports:
        shut = port.part.item.kind == "cutout" and port.port.id == "out-branch" and not cutouts_open
        if len(port.part.item.ports) > 2 and port.port.role == "out" and port.name not in used and not shut:
            bore, at = max(1.0, float(port.port.od_mm) - 2 * USUAL_WALL_MM), port.pose
            points = np.array([at.point, at.point + STUB_MM * at.flow])
            stub = Stretch("", None, port.part, bore, bore, STUB_MM, points, "304", USUAL_WALL_MM)
            yield _Link(port.name, f"{port.name}:air", [stub])


def _walls(system: System) -> dict[str, tuple[Metal, float]]:
    """Metal and wall of the pipe that each part meets."""
    met: dict[str, tuple[Metal, float]] = {}
    for laid in system.runs:
        ends = [e.partition(".")[0] for e in (laid.run.start, laid.run.aim) if isinstance(e, str)]
        for part in [*ends, *(p.piece.part for p in laid.pieces if isinstance(p.piece, InLine))]:
            met.setdefault(part, (laid.run.tube.material, float(laid.run.tube.wall_mm)))
    return met


def _of_run(design: Design, laid: LaidRun, ports: dict[str, PlacedPort]) -> Iterator[_Link]:
    """A run's stretches, cut where it goes through a meeting."""
    run = laid.run
    if not laid.pieces:  # nothing lies there yet: no gas goes that way
        return
    head = run.start if isinstance(run.start, str) else f"{run.id}:tap"
    held: list[Stretch] = []
    walls = _walls_of(laid)
    for piece in laid.pieces:
        if not isinstance(piece.piece, InLine):
            held.append(_of_pipe(run.id, piece))
            continue
        part = design.part(piece.piece.part)
        enter, leave = f"{piece.piece.part}.{piece.piece.enter}", f"{piece.piece.part}.{piece.piece.leave}"
        if part is None or enter not in ports or leave not in ports:
            continue
        if len(part.item.ports) > 2:
            yield _Link(head, enter, held or [_touching(run, ports[enter])])
            head, held = leave, []
        else:
            held.append(_of_part(part, ports[enter], ports[leave], run.id, walls, piece))
    last = laid.pieces[-1].piece
    at = ports.get(f"{last.part}.{last.leave}") if isinstance(last, InLine) else None
    if held or at is not None:
        yield _Link(head, run.aim or f"{run.id}:end", held or [_touching(run, at)] if at else held)


def _touching(run: Run, at: PlacedPort) -> Stretch:
    """Where a meeting's port stands straight on what is ahead of it."""
    bore = float(run.tube.od_mm - 2 * run.tube.wall_mm)
    points = np.array([at.pose.point, at.pose.point + STUB_MM * at.pose.flow])
    return Stretch(run.id, None, at.part, bore, bore, STUB_MM, points, run.tube.material, float(run.tube.wall_mm))


def _walls_of(laid: LaidRun) -> dict[str, tuple[Metal, float]]:
    tube = laid.run.tube
    return {p.piece.part: (tube.material, float(tube.wall_mm)) for p in laid.pieces if isinstance(p.piece, InLine)}


def _of_pipe(run: str, piece: LaidPiece) -> Stretch:
    bore = float(piece.tube.od_mm - 2 * piece.tube.wall_mm)
    n = max(2, math.ceil(piece.length_mm / 60) + 1)
    points = np.array([along_piece(piece, t)[0] for t in np.linspace(0, 1, n)])
    return Stretch(
        run, piece, None, bore, bore, piece.length_mm, points, piece.tube.material, float(piece.tube.wall_mm)
    )


def _of_part(
    part: Part,
    enter: PlacedPort,
    leave: PlacedPort,
    run: str,
    walls: dict[str, tuple[Metal, float]],
    piece: LaidPiece | None = None,
) -> Stretch:
    usual: tuple[Metal, float] = ("304", USUAL_WALL_MM)
    material, wall = walls.get(part.id, usual)
    wall = float(part.item.wall_mm or wall)
    a, b = enter.pose.point, leave.pose.point
    points = a + np.linspace(0, 1, max(2, math.ceil(float(np.linalg.norm(b - a)) / 60) + 1))[:, None] * (b - a)
    bores = [max(1.0, float(p.port.od_mm) - 2 * wall) for p in (enter, leave)]
    return Stretch(
        run, None, part, bores[0], bores[1], float(np.linalg.norm(b - a)), points, part.item.metal or material, wall
    )


def _nodes(links: list[_Link], system: System, ports: dict[str, PlacedPort]) -> dict[str, str]:
    """Each end's node: ports that stand face to face are one, and so are all ports of a meeting."""
    node = {end: end for link in links for end in (link.a, link.b)} | {name: name for name in ports}
    for a, b in system.faces:
        kept, gone = node[a.name], node[b.name]
        node = {k: kept if v == gone else v for k, v in node.items()}
    for part, _ in system.parts:
        if len(part.item.ports) > 2:
            for port in part.item.ports:
                gone = node[f"{part.id}.{port.id}"]
                node = {k: part.id if v == gone else v for k, v in node.items()}
    return node


def _directed(links: list[_Link], system: System, node: dict[str, str], ports: dict[str, PlacedPort]) -> GasPaths:
    """The links turned the way the gas goes, from every place that it enters by."""
    meets = {part.id: part for part, _ in system.parts if len(part.item.ports) > 2}
    tapped = tuple(run.run.id for run in system.runs if isinstance(run.run.start, Tap))
    live = [i for i, link in enumerate(links) if not link.a.endswith(":tap")]
    at: dict[str, list[int]] = {}
    for i in live:
        for end in (links[i].a, links[i].b):
            at.setdefault(node[end], []).append(i)
    turned: dict[int, bool] = {}
    queue = deque(
        name
        for name, found in at.items()
        if len(found) == 1 and name not in meets and _gives(links[found[0]], name, node, ports)
    )
    while queue:
        name = queue.popleft()
        for i in at[name]:
            here = links[i].a if node[links[i].a] == name else links[i].b
            if i in turned or not _leaves_by(name, here, meets, links, turned, node, ports):
                continue
            turned[i] = node[links[i].a] != name
            queue.append(node[links[i].a if turned[i] else links[i].b])
    return _in_order(links, turned, node, meets, system, tapped)


def _gives(link: _Link, name: str, node: dict[str, str], ports: dict[str, PlacedPort]) -> bool:
    """Whether gas enters at this loose end."""
    end = link.a if node[link.a] == name else link.b
    if end not in ports:
        return False
    one = len(ports[end].part.item.ports) == 1
    role = ports[end].port.role
    return role == ("out" if one else "in") or (role == "either" and end == link.a)


def _leaves_by(
    name: str,
    port: str,
    meets: dict[str, Part],
    links: list[_Link],
    turned: dict[int, bool],
    node: dict[str, str],
    ports: dict[str, PlacedPort],
) -> bool:
    """Whether gas that came to a node leaves it by a port: out of a meeting by the side it did not come in at."""
    if name not in meets:
        return True
    came = {
        ports[end].port.role
        for i, back in turned.items()
        for end in [links[i].a if back else links[i].b]
        if node[end] == name and end in ports
    }
    return ports[port].port.role not in came if port in ports else True


def _in_order(
    links: list[_Link],
    turned: dict[int, bool],
    node: dict[str, str],
    meets: dict[str, Part],
    system: System,
    tapped: tuple[str, ...],
) -> GasPaths:
    """Ways after those that feed them; what stands in a circle is left out."""
    ends = {i: (links[i].b, links[i].a) if back else (links[i].a, links[i].b) for i, back in turned.items()}
    order: list[int] = []
    waiting = list(turned)
    while waiting:
        ready = [i for i in waiting if not any(node[ends[j][1]] == node[ends[i][0]] for j in waiting if j != i)]
        if not ready:
            break
        order += ready
        waiting = [i for i in waiting if i not in ready]
    ways = tuple(
        GasPath(node[ends[i][0]], node[ends[i][1]], tuple(_turned(links[i].stretches, turned[i]))) for i in order
    )
    meetings = {}
    for name, part in meets.items():
        ins = tuple((k, _port(part, ends[i][1])) for k, i in enumerate(order) if node[ends[i][1]] == name)
        outs = tuple((k, _port(part, ends[i][0])) for k, i in enumerate(order) if node[ends[i][0]] == name)
        if ins:
            meetings[name] = Meeting(part, ins, outs)
    heads, tails = {w.head for w in ways}, {w.tail for w in ways}
    reached = {s.run for w in ways for s in w.stretches}
    return GasPaths(
        ways,
        meetings,
        tuple(k for k, w in enumerate(ways) if w.head not in tails),
        tuple(k for k, w in enumerate(ways) if w.tail not in heads),
        tapped,
        loose=tuple(r.run.id for r in system.runs if r.run.id not in reached | set(tapped)),
    )


def _port(part: Part, name: str) -> Port:
    """The meeting's port that a way ends at."""
    return part.port(name.partition(".")[2]) or part.item.ports[0]


def _turned(stretches: list[Stretch], back: bool) -> Iterator[Stretch]:
    for s in reversed(stretches) if back else stretches:
        yield (
            Stretch(s.run, s.piece, s.part, s.leaves_mm, s.bore_mm, s.long_mm, s.points[::-1], s.material, s.wall_mm)
            if back
            else s
        )
