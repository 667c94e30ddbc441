"""Faults of hanging: each with its figures; the words are said elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

from ..errors import InputError
from ..laying import ENGINE, HUNG, System, goes_as, movers, spaced
from ..records import Bend, Design, Equipment, InLine, SegmentedBend
from ..space import Vector
from .hardware_of import bracket_for, has_rod, old_rod_wants, rod_for
from .hung import Carried, HungSystem, Strained
from .model import Model, held_places
from .rods import YIELD_MPA
from .rubbers import rubber_of

HangCode = Literal[
    "overloaded",
    "slack",
    "sags",
    "flex-carries",
    "long-span",
    "rubber-hot",
    "no-point",
    "near-idle",
    "bolt-matters",
    "no-hangers",
    "guessed-mass",
    "no-engine",
    "rod-weak",
    "no-rod",
    "rod-hits",
    "no-pliers",
    "bracket-hits",
    "bracket-weak",
    "bridge",
    "cradle-bent",
    "old-rod-short",
    "rod-thick",
    "plate-thick",
]
SPOILS: tuple[HangCode, ...] = (
    "overloaded",
    "slack",
    "sags",
    "flex-carries",
    "no-hangers",
    "rod-weak",
    "rod-hits",
    "bracket-hits",
    "bracket-weak",
    "bridge",
    "old-rod-short",
)
NOWHERE_MM = 1e6  # further than any vehicle is long
SIDE_MM = 10.0  # how close together places along a pipe are looked at


@dataclass(frozen=True)
class HangFault:
    """One thing that is wrong: the hanger or part it is about, its figure and the limit, and where it is (3,) [mm]."""

    code: HangCode
    hanger: str = ""
    part: str = ""
    run: str = ""
    piece: int | None = None
    figure: float = 0.0
    limit: float = 0.0
    other: float = 0.0
    names: tuple[str, ...] = ()
    at: Vector | None = None


def hang_faults(design: Design, system: System, hung: HungSystem) -> list[HangFault]:
    """Everything that is wrong, worst first."""
    rules = design.settings.rules
    skin = _skin(system)
    found = [
        *(fault for one in hung.carried for fault in _hanger(design, system, one, skin)),
        *_sag(system, hung, float(rules.sag_mm)),
        *(fault for one in hung.flexes for fault in _flex(design, one)),
        *_span(hung.model, float(rules.span_mm)),
        *_bridges(design, system),
        *_idle(design, hung),
    ]
    if not design.hangers and any(fault.code in SPOILS for fault in found):
        return [HangFault("no-hangers")]
    if hung.guessed:
        found.append(HangFault("guessed-mass", names=hung.guessed))
    return sorted(found, key=lambda f: f.code not in SPOILS)


def beyond_shop(design: Design, hung: HungSystem, able: Equipment) -> Iterator[HangFault]:
    """Rods and brackets of metal thicker than the shop bends; what it did not say limits nothing."""
    for one in hung.carried:
        rod = float(one.hanger.rod_mm)
        if able.rod_mm is not None and has_rod(one.hanger) and rod > able.rod_mm:
            yield HangFault("rod-thick", one.hanger.id, figure=rod, limit=float(able.rod_mm), at=one.eye)
        if able.plate_mm is None:
            continue
        try:
            bracket = bracket_for(design, one)
        except InputError:
            continue  # said beside the bracket
        if bracket is not None and bracket.kind == "flat bar" and bracket.thick_mm > able.plate_mm:
            yield HangFault(
                "plate-thick", one.hanger.id, figure=bracket.thick_mm, limit=float(able.plate_mm), at=one.pin
            )


def _hanger(design: Design, system: System, one: Carried, skin: tuple[Vector, Vector]) -> Iterator[HangFault]:
    hanger, rubber = one.hanger, rubber_of(one.hanger)
    count = hanger.rubbers
    if hanger.way != "solid":
        if one.load_n > rubber.most_n * count:
            yield HangFault("overloaded", hanger.id, figure=one.load_n, limit=rubber.most_n * count, at=one.place)
        elif one.load_n < rubber.least_n * count:
            yield HangFault("slack", hanger.id, figure=one.load_n, limit=rubber.least_n * count, at=one.place)
        near = _nearest_pipe(skin, one)
        if near < float(design.settings.rules.rubber_heat_mm):
            limit = float(design.settings.rules.rubber_heat_mm)
            yield HangFault("rubber-hot", hanger.id, figure=near, limit=limit, other=rubber.limit_c, at=one.eye)
    if has_rod(hanger):
        yield from _rod(system, one)
    yield from _held(design, system, one)
    point = next((p for p in design.survey.hang_points if p.id == hanger.hang_point), None)
    if point is None:
        yield HangFault("no-point", hanger.id, at=one.place)
    elif point.holds:
        yield HangFault("bolt-matters", hanger.id, names=(point.name, point.holds, point.thread), at=one.pin)


def _held(design: Design, system: System, one: Carried) -> Iterator[HangFault]:
    """Yield faults of how it holds the pipe: an old rod too short, a cradle on a bend; a bracket that would bend."""
    hanger, held = one.hanger, held_places(one.hanger, system)
    if hanger.way == "rubber" and hanger.hold == "old rod":
        reach = next((float(p.old_rod_mm) for p in design.survey.hang_points if p.id == hanger.hang_point), 0.0)
        wants = old_rod_wants(system, one)
        if wants > reach:
            yield HangFault("old-rod-short", hanger.id, figure=wants, limit=reach, at=one.eye)
    if hanger.hold == "cradle" and (not held or isinstance(held[0][0].piece, Bend | SegmentedBend)):
        yield HangFault("cradle-bent", hanger.id, at=one.place)
    try:
        bracket = bracket_for(design, one)
    except InputError:
        return  # said beside the bracket
    if bracket is not None and not bracket.holds:
        yield HangFault("bracket-weak", hanger.id, figure=bracket.stress_mpa, limit=YIELD_MPA, at=one.pin)


def _bridges(design: Design, system: System) -> Iterator[HangFault]:
    """Yield ties between the part that rocks with the engine and the body: a solid tie to it, a bar from it to what
    hangs.
    """
    moves = movers(design, system)
    if not moves.has_flex:
        return
    for hanger in design.hangers:
        held = {id(piece) for piece, _ in held_places(hanger, system)}
        goes = [
            goes_as(moves.pieces.get((run.run.id, piece.index), HUNG))
            for run in system.runs
            for piece in run.pieces
            if id(piece) in held
        ]
        goes += [goes_as(moves.parts.get(hanger.part, HUNG))] if hanger.part else []
        if (ENGINE in goes and hanger.way == "solid") or len(set(goes)) > 1:
            yield HangFault("bridge", hanger.id)


def _rod(system: System, one: Carried) -> Iterator[HangFault]:
    """A rod that would bend under a shock, or that has no room."""
    try:
        rod = rod_for(system, one)
    except InputError as exc:
        yield HangFault("no-rod", one.hanger.id, names=(str(exc),), at=one.eye)
        return
    if not rod.holds:
        yield HangFault(
            "rod-weak",
            one.hanger.id,
            figure=max(rod.stop_mpa, rod.weld_mpa),
            limit=YIELD_MPA,
            other=rod.od_mm,
            at=one.eye,
        )


def _skin(system: System) -> tuple[Vector, Vector]:
    """Places along all pipe (n, 3) and its half diameter at each (n,) [mm]."""
    points, radii = [np.zeros((0, 3))], [np.zeros(0)]
    for run in system.runs:
        for piece in run.pieces:
            if not isinstance(piece.piece, InLine):
                points.append(spaced(piece, SIDE_MM))
                radii.append(np.full(len(points[-1]), float(piece.tube.od_mm) / 2))
    return np.concatenate(points), np.concatenate(radii)


def _nearest_pipe(skin: tuple[Vector, Vector], one: Carried) -> float:
    """How far the rubber is from the skin of any pipe [mm]."""
    points, radii = skin
    if not len(points):
        return np.inf
    rubber = one.eye + np.linspace(0.0, 1.0, 5)[:, None] * (one.pin - one.eye)
    off = np.linalg.norm(points[:, None] - rubber[None], axis=2).min(axis=1) - radii
    return max(0.0, float(off.min()))


def _sag(system: System, hung: HungSystem, most: float) -> Iterator[HangFault]:
    """The place that goes down furthest, where that is too far."""
    downs = [(-float(end[2]), run, piece, "") for (run, piece), ends in hung.pieces.items() for end in ends]
    downs += [(-float(moved[2]), "", None, part) for part, moved in hung.parts.items()]  # type: ignore[misc]
    worst = max(downs, key=lambda one: one[0], default=None)
    if worst is not None and worst[0] > most:
        yield HangFault("sags", part=worst[3], run=worst[1], piece=worst[2], figure=worst[0], limit=most)


def _flex(design: Design, one: Strained) -> Iterator[HangFault]:
    rules = design.settings.rules
    if one.across_n > rules.flex_across_n or one.bend_nm > rules.flex_bend_nm:
        yield HangFault(
            "flex-carries", part=one.name, figure=one.across_n, limit=rules.flex_across_n, other=one.bend_nm
        )


def _span(model: Model, most: float) -> Iterator[HangFault]:
    """Pipe further from any hold than half the longest span; behind a flex what holds the engine holds nothing."""
    far = far_from(model, [*model.held.values(), *(eye.node for eye in model.eyes)])
    node, off = int(np.argmax(far)), float(far.max())
    if most < 2 * off < NOWHERE_MM:
        where = next((key[1] for key, n in model.nodes.items() if n == node and key[0] == "piece"), "")
        part = next((key[1] for key, n in model.nodes.items() if n == node and key[0] in ("port", "mass")), "")
        run, _, piece = where.partition(":")
        yield HangFault(
            "long-span",
            run=run,
            piece=int(piece) if piece else None,
            part="" if run else part,
            figure=2 * off,
            limit=most,
            at=model.frame.nodes[node],
        )


def far_from(model: Model, nodes: Sequence[int]) -> Vector:
    """How far every node is from the nearest of some, along pipe and parts but through no flex (nodes,) [mm];
    NOWHERE_MM where no way leads.
    """
    soft, frame = set(model.flexes.values()), model.frame
    pairs = np.array([(m.a, m.b) for k, m in enumerate(frame.members) if k not in soft] + list(frame.rigid), dtype=int)
    count = len(frame.nodes)
    if not len(pairs) or not len(nodes):
        return np.full(count, NOWHERE_MM)
    long = np.linalg.norm(frame.nodes[pairs[:, 1]] - frame.nodes[pairs[:, 0]], axis=1) + 1e-9
    graph = coo_matrix((long, (pairs[:, 0], pairs[:, 1])), shape=(count, count)).tocsr()
    off = dijkstra(graph, directed=False, indices=list(nodes), min_only=True)
    return np.asarray(np.minimum(off, NOWHERE_MM))


def _idle(design: Design, hung: HungSystem) -> Iterator[HangFault]:
    """Ways of swinging that the engine's firing at idle would feed."""
    engine = design.settings.engine
    if engine is None:
        yield HangFault("no-engine")
        return
    fires, band = engine.fires_hz(engine.idle_rpm), design.settings.rules.idle_band
    for mode in hung.modes:
        if abs(mode.hz - fires) < band * fires:
            yield HangFault("near-idle", figure=mode.hz, limit=fires, other=engine.idle_rpm)
            return
