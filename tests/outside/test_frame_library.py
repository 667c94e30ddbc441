"""The hung system against a kept library of frames (PyNiteFEA, from the lock of judges) with a mesh three times finer.

The library's model is made from the laid pieces by itself, not from ours: nodes every few degrees and 60 mm, parts as
stiff members, rubbers as springs to the ground at the end of a stiff rod.
"""

import math

import numpy as np
import pytest

from widebend.core.hanging import HangState, bend_factor, hang, hold, rubber_of
from widebend.core.laying import along_piece, system_of
from widebend.core.records import Bend, Design, Hanger, Part
from widebend.demo.examples import cat_back
from widebend.facts import METALS

FEModel3D = pytest.importorskip("Pynite", reason="the library is not installed: ./widebend test installs it").FEModel3D

HANGERS = (("h1", 0.12, 9.0), ("h2", 0.55, 14.0), ("h3", 0.93, 22.0))


def _hung_cat_back() -> Design:
    """The demo's cat-back with its parts' masses said, hung at three places."""
    bare = cat_back()
    parts = tuple(p.replace(item=p.item.replace(mass_kg=1.0)) for p in bare.parts)
    run = system_of(bare).runs[0]
    straights = [p for p in run.pieces if p.piece.kind == "leg" and p.length_mm > 60]
    places = [straights[round(share * (len(straights) - 1))] for _, share, _ in HANGERS]
    hangers = tuple(
        Hanger(
            id=name,
            run=run.run.id,
            piece=p.piece.id,
            along_mm=30.0,
            rubber=rubber_of(Hanger(id="x", part="x")).replace(along_n_mm=n),
        )
        for (name, _, n), p in zip(HANGERS, places, strict=True)
    )
    return bare.replace(parts=parts, hangers=hangers)


def _add(model: object, name: str, a: str, b: str, ea_ei_gj: tuple[float, float, float]) -> None:
    ea, ei, gj = ea_ei_gj
    model.add_material(name, 1.0, 1.0, 0.3, 0.0)  # moduli of one: areas are EA and so on
    model.add_section(name, ea, ei, ei, gj)
    model.add_member(name, a, b, name, name)


def _library(design: Design) -> tuple[object, list[str], str]:
    """The finer model, the nodes at the rods' eyes, and the one at the run's end."""
    system, model = system_of(design), FEModel3D()
    run = system.runs[0]
    ours = hang(design, system, modes=0)
    model.add_node("n0", *run.start.point)
    model.def_support("n0", *[True] * 6)
    last, count, weights = "n0", 0, {}
    at_hangers = {c.hanger.piece: c for c in ours.carried}

    def onward(point: np.ndarray, kind: tuple[float, float, float], kg: float) -> str:
        nonlocal last, count
        count += 1
        name = f"n{count}"
        model.add_node(name, *point)
        _add(model, f"m{count}", last, name, kind)
        for node in (last, name):
            weights[node] = weights.get(node, 0.0) + kg / 2
        last = name
        return name

    for piece in run.pieces:
        if piece.piece.kind == "part":
            part = design.part(piece.piece.part)
            onward(piece.outlet.point, (1e8, 1e12, 1e12), part.item.mass_kg)
            continue
        bend = isinstance(piece.piece, Bend)
        steps = max(1, math.ceil(piece.piece.angle_deg / 5)) if bend else max(1, math.ceil(piece.length_mm / 60))
        shares = sorted(
            {(k + 1) / steps for k in range(steps)}
            | ({30.0 / piece.length_mm} if piece.piece.id in at_hangers else set())
        )
        od, wall = float(piece.tube.od_mm), float(piece.tube.wall_mm)
        young, second = METALS[piece.tube.material].young_mpa, math.pi / 64 * (od**4 - (od - 2 * wall) ** 4)
        softer = bend_factor(piece.tube, float(piece.piece.clr_mm)) if bend else 1.0
        area, before = math.pi * (od - wall) * wall, 0.0
        kind = (young * area, young * second / softer, young / 2.6 * 2 * second)
        for share in shares:
            onward(along_piece(piece, share)[0], kind, 7.9e-6 * area * piece.length_mm * (share - before))
            before = share
            if piece.piece.id in at_hangers and abs(share * piece.length_mm - 30.0) < 1e-6:
                _hook(model, at_hangers[piece.piece.id], last)
    for node, kg in weights.items():
        model.add_node_load(node, "FZ", -kg * 9.80665)
    carried = {p.piece.part for p in run.pieces if p.piece.kind == "part"} | {str(run.run.start).partition(".")[0]}
    for part in (p for p, _ in system.parts if p.id not in carried):
        _behind(model, system, part, last)
    return model, [f"eye-{c.hanger.id}" for c in ours.carried], last


def _hook(model: object, carried: object, node: str) -> None:
    eye = f"eye-{carried.hanger.id}"
    model.add_node(eye, *carried.eye)
    _add(model, f"rod-{carried.hanger.id}", node, eye, (1e8, 1e12, 1e12))
    stiff = hold(carried.hanger.way, rubber_of(carried.hanger), 1)
    for k, dof in enumerate(("DX", "DY", "DZ")):
        model.def_support_spring(eye, dof, float(stiff[k, k]))


def _behind(model: object, system: object, part: Part, node: str) -> None:
    """What stands behind the run's end, one on the other, as a mass at its middle."""
    bodies = [b for b in system.bodies if b.part.id == part.id]
    middle = np.average(
        [b.middle for b in bodies],
        axis=0,
        weights=[b.length_mm * (b.half_u + b.radius_mm) * (b.half_v + b.radius_mm) for b in bodies],
    )
    model.add_node(part.id, *middle)
    _add(model, f"to-{part.id}", node, part.id, (1e8, 1e12, 1e12))
    model.add_node_load(part.id, "FZ", -part.item.mass_kg * 9.80665)


def test_loads_and_sag_are_the_library_s_own_within_a_hundredth() -> None:
    design = _hung_cat_back()
    system = system_of(design)
    ours = hang(design, system, HangState(), modes=0)
    model, eyes, end = _library(design)
    model.analyze_linear(log=False, check_stability=False)
    combo = next(iter(model.load_combos))
    theirs = [-model.nodes[eye].DZ[combo] * c.stiff.along for eye, c in zip(eyes, ours.carried, strict=True)]
    assert [c.load_n for c in ours.carried] == pytest.approx(theirs, rel=0.01, abs=0.05)
    run = system.runs[0]
    _, down = ours.pieces[(run.run.id, run.pieces[-1].index)]
    assert down[2] == pytest.approx(float(model.nodes[end].DZ[combo]), rel=0.01)
    held = ours.held[0]
    flange_n = 9.80665  # of the start flange, which is held with it and is not in the library's model
    assert held.pull_n - flange_n == pytest.approx(float(model.nodes["n0"].RxnFZ[combo]), rel=0.01)


def test_the_first_swings_are_the_library_s_own_within_a_hundredth() -> None:
    """The library lumps each node's load as its mass; its nodes are three times as close."""
    design = _hung_cat_back()
    ours = hang(design, system_of(design), modes=3)
    model, *_ = _library(design)
    model.analyze_modal(num_modes=3, mass_direction="Z", gravity=9806.65, check_stability=False)
    assert [m.hz for m in ours.modes] == pytest.approx(sorted(model.frequencies)[:3], rel=0.01)
