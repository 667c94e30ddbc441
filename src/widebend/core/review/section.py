"""Where a system comes apart: the lengths that are lifted in and out, between joints that can be undone."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ...facts import JOINTS, PART_KINDS
from ..cutting import tube_mass_per_metre
from ..geometry import straight_rows
from ..laying import LaidRun, Obstacle, PartBody, System, centre_line, spaced
from ..records import Design, Equipment, HalfSpace, InLine, Part, Tap
from ..space import UP, Vector
from ..units import format_length
from .findings import Finding, point
from .gaps import Around, bare, packed, tube_gaps

SAMPLE_MM = 60.0  # how close together a thing above or below is looked for
DOWN = -UP
UNDER_MM, OVER_MM = 450.0, 160.0  # how far below and above its pipe a thing is looked for that holds a section

Node = tuple[str, int | str]  # (run, piece index) or ("", part id)


@dataclass(frozen=True)
class Section:
    """A section that comes out in one: pieces (run id, index) and parts, and what it is to handle.

    `size_mm` (3,) is the box around it along, across and up; `mass_kg` is None when a part in it has no known mass.
    `joints` are the kinds of the joints it comes apart at.
    """

    pieces: tuple[tuple[str, int], ...]
    parts: tuple[str, ...]
    length_mm: float
    size_mm: Vector
    mass_kg: float | None
    joints: tuple[str, ...]


def sections(design: Design, system: System) -> list[Section]:
    """Every section, in the order of the runs. A bare flange or ring that nothing is welded to is the vehicle's own."""
    welds, apart = _links(design, system)
    nodes: list[Node] = [(r.run.id, p.index) for r in system.runs for p in r.pieces if not isinstance(p.piece, InLine)]
    nodes += [("", p.id) for p, _ in system.parts]
    group = {node: i for i, node in enumerate(nodes)}
    for a, b in welds:
        if a in group and b in group and group[a] != group[b]:
            old, new = group[a], group[b]
            group = {node: new if g == old else g for node, g in group.items()}
    kinds = {p.id: p.item.kind for p, _ in system.parts}
    out = []
    for g in dict.fromkeys(group.values()):
        own = [node for node in nodes if group[node] == g]
        if all(not run and PART_KINDS[kinds[str(what)]].joins_pipes for run, what in own):
            continue
        joints = tuple(kind for a, b, kind in apart if (group.get(a) == g) != (group.get(b) == g))
        out.append(_section(design, system, own, joints))
    return out


def _links(design: Design, system: System) -> tuple[list[tuple[Node, Node]], list[tuple[Node, Node, str]]]:
    """Which neighbours are welded to each other, and which come apart, by what kind of joint."""
    kinds = {p.id: p.item.kind for p, _ in system.parts}
    welds: list[tuple[Node, Node]] = []
    apart: list[tuple[Node, Node, str]] = []

    def link(a: Node, b: Node, kind: str | None) -> None:
        # a flange or ring in the line is welded to what is ahead of it and comes apart behind
        own = kinds.get(str(a[1])) if not a[0] else None
        kind = kind or (own if own and PART_KINDS[own].joins_pipes else None)
        if kind:
            apart.append((a, b, kind))
        else:
            welds.append((a, b))

    for run in system.runs:
        undone = {j.after: j.kind for j in run.run.joints if JOINTS[j.kind].comes_apart}
        last, key = _start_node(run), "start"
        for piece in run.pieces:
            here: Node = ("", piece.piece.part) if isinstance(piece.piece, InLine) else (run.run.id, piece.index)
            if last:
                link(last, here, undone.get(key))
            last, key = here, piece.piece.id
        if run.run.aim and last:
            link(last, ("", run.run.aim.partition(".")[0]), undone.get(key))
    for a, b in system.faces:
        front, back = (a, b) if a.port.role != "in" else (b, a)
        link(("", front.part.id), ("", back.part.id), None)
    return welds, apart


def _start_node(run: LaidRun) -> Node | None:
    start = run.run.start
    if not isinstance(start, Tap):
        return "", start.partition(".")[0]
    return None


def _section(design: Design, system: System, own: Sequence[Node], joints: tuple[str, ...]) -> Section:
    parts = tuple(str(what) for run, what in own if not run)
    pieces = tuple((run, int(what)) for run, what in own if run)
    laid = {(r.run.id, p.index): p for r in system.runs for p in r.pieces}
    corners = [body.corners for body in bodies_of(system, parts)]
    for key in pieces:
        points, radius = centre_line(laid[key], 10.0), float(laid[key].tube.od_mm) / 2
        corners += [points - radius, points + radius]  # as if its ends were round: never too small
    around = np.concatenate(corners) if corners else np.zeros((1, 3))
    masses = [tube_mass_per_metre(laid[k].tube) * laid[k].length_mm / 1000.0 for k in pieces]
    known = [_mass(design.part(p)) for p in parts]
    mass = None if None in known else sum(masses) + sum(m for m in known if m is not None)
    size = around.max(axis=0) - around.min(axis=0)
    return Section(pieces, parts, sum(laid[k].length_mm for k in pieces), size, mass, joints)


def _mass(part: Part | None) -> float | None:
    return part.item.mass_kg if part else None


def off_the_table(every: Sequence[Section], able: Equipment, unit: str = "mm") -> list[str]:
    """A sentence for each section that is longer than the shop's table, with the way round; nothing said limits
    nothing.
    """
    if able.table_mm is None:
        return []
    table = format_length(able.table_mm, unit, 0)
    return [
        f"a section of {len(one.pieces)} pieces is {format_length(float(one.size_mm.max()), unit, 0)} long, the table "
        f"{table}: tack it as two, and those together on the vehicle, or put a joint in it"
        for one in every
        if one.pieces and float(one.size_mm.max()) > able.table_mm
    ]


def bodies_of(system: System, parts: Sequence[str]) -> list[PartBody]:
    return [body for body in system.bodies if body.part.id in parts]


def section_findings(design: Design, system: System, around: Sequence[Obstacle]) -> Iterator[Finding]:
    """Sections longer than can be handled, and those that look trapped: over one thing and under another."""
    longest = float(design.settings.rules.longest_section_mm)
    laid = {(r.run.id, p.index): p for r in system.runs for p in r.pieces}
    bounded = bare(
        packed(
            [o for o in {o.thing.id: o for o in reversed(around)}.values() if not isinstance(o.thing.shape, HalfSpace)]
        )
    )
    for section in sections(design, system):
        if not section.pieces:
            continue
        run, first = section.pieces[0]
        if float(section.size_mm.max()) > longest:
            yield Finding(
                "long-section",
                run,
                first,
                gap_mm=float(section.size_mm.max()),
                needed_mm=longest,
                at=point(laid[(run, first)].middle),
            )
        if not bounded.obstacles:
            continue
        points = np.concatenate([spaced(laid[k], SAMPLE_MM) for k in section.pieces])
        below, above = (_met(points, way, reach, bounded) for way, reach in ((DOWN, UNDER_MM), (UP, OVER_MM)))
        held = next(((a, b) for a in below for b in above if a != b), None)
        if held:
            under, over = (bounded.obstacles[j].thing for j in held)
            yield Finding(
                "trapped",
                run,
                first,
                thing=under.id,
                thing_name=under.name,
                names=(over.name,),
                at=point(laid[(run, first)].middle),
            )


def _met(points: Vector, way: Vector, reach: float, things: Around) -> list[int]:
    """Things that the points would meet, moved by `reach` in a direction."""
    gaps, _ = tube_gaps(straight_rows(points, way, reach, 0.5), things, 0.0)
    return [int(j) for j in np.flatnonzero((gaps < 0).any(axis=1))]
