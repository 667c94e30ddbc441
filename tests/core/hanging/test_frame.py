"""The frame against closed forms and handbook beams: loads, sag, frequencies, equilibrium."""

import itertools
import json
import math
from pathlib import Path

import numpy as np
import pytest

from widebend.core.errors import InputError
from widebend.core.hanging import Frame, Hung, Member, Solved, Spring
from widebend.core.hanging.frame import at_arm, weight

DATA = Path(__file__).parents[2] / "outside" / "data" / "reference.json"
ROWS = {r["id"]: r for r in json.loads(DATA.read_text())}
HINGE = np.diag([1e9, 1e9, 1e9, 1e12, 0.0, 0.0])  # hardly moves, turns about both axes across


def tube(od: float, wall: float, young: float, density: float = 0.0) -> dict[str, float]:
    area, second = math.pi * (od - wall) * wall, math.pi / 64 * (od**4 - (od - 2 * wall) ** 4)
    return {"ea": young * area, "ei": young * second, "gj": young / 2.6 * 2 * second, "kg_mm": area * density * 1e-9}


def line(xs: list[float], kind: dict[str, float], **more) -> Frame:  # type: ignore[no-untyped-def]
    members = tuple(Member(k, k + 1, **kind) for k in range(len(xs) - 1))
    return Frame(np.array([[x, 0.0, 0.0] for x in xs]), members, **more)


def by_weight(frame: Frame) -> Hung:
    """Hung by its own weight."""
    return Solved(frame).under(weight(frame))


PIPE = tube(63.5, 1.65, 193_000.0, 8000.0)


def test_a_cantilever_under_a_load_and_under_its_own_weight() -> None:
    """E014 and E015; the way in which it is divided makes no difference."""
    for parts in (1, 7):
        frame = line(list(np.linspace(0.0, 2000.0, parts + 1)), PIPE, fixed=(0,))
        load = np.zeros((parts + 1, 6))
        load[-1, 2] = -100.0
        assert -Solved(frame).under(load).moved[-1, 2] == pytest.approx(ROWS["E014"]["value"], rel=1e-6)
        hung = by_weight(frame)
        assert -hung.moved[-1, 2] == pytest.approx(ROWS["E015"]["value"], rel=2e-6)
        whole = PIPE["kg_mm"] * 2000 * 9.80665
        assert hung.fixed[0][2] == pytest.approx(whole, rel=1e-12)
        assert -hung.fixed[0][4] == pytest.approx(whole * 1000, rel=1e-9)  # the couple at the wall is w L^2 / 2


def _three_supports(spans: tuple[float, float], w_n_mm: float, loads: dict[float, float]) -> list[float]:
    at = sorted({0.0, spans[0], sum(spans), *loads})
    kind = PIPE | {"kg_mm": w_n_mm / 9.80665}
    supports = tuple(Spring(at.index(x), HINGE) for x in (0.0, spans[0], sum(spans)))
    frame = line(at, kind, springs=supports)
    pushed = weight(frame)
    for x, n in loads.items():
        pushed[at.index(x), 2] -= n
    return [float(held[2]) for held in Solved(frame).under(pushed).held]


def test_beams_over_three_supports() -> None:
    """E005 from the handbook; E007 and E008 by the three-moment theorem, one support pulling down."""
    assert _three_supports((2000.0, 2000.0), 0.05, {}) == pytest.approx(ROWS["E005"]["value"][:3], rel=1e-5)
    for name in ("E007", "E008"):
        i = ROWS[name]["inputs"]
        long = [1000 * i["L1"], 1000 * i["L2"]]
        loads = {1000 * i["a1"]: float(i["P1"]), sum(long) - 1000 * i["a2"]: float(i["P2"])}
        found = _three_supports((long[0], long[1]), i["w"] / 1000, {x: n for x, n in loads.items() if n})
        assert found == pytest.approx(ROWS[name]["value"][:3], rel=2e-4)


def test_a_stiff_body_on_three_rubbers_that_are_not_in_line() -> None:
    """E011: what each carries follows from equilibrium alone, however soft each is."""
    places = [(0.0, 0.0, 0.0), (1200.0, 300.0, 0.0), (2400.0, -200.0, 0.0), (1100.0, 50.0, 0.0)]
    springs = tuple(
        Spring(k, at_arm(np.diag([3.0, 3.0, n]), np.array([0.0, 0.0, 40.0]))) for k, n in enumerate((7, 12, 9))
    )
    frame = Frame(
        np.array(places),
        (Member(0, 1, **PIPE | {"kg_mm": 0.0}),),
        springs,
        ((3, 220 / 9.80665),),
        tuple(itertools.pairwise(range(4))),
    )
    held = by_weight(frame).held
    assert [h[2] for h in held] == pytest.approx(
        ROWS["E011"]["value"], rel=2e-3
    )  # it leans a little, the eyes are above
    assert sum(h[2] for h in held) == pytest.approx(220.0, rel=1e-9)


def test_a_quarter_of_a_ring_held_at_one_end() -> None:
    """Castigliano, thin ring, load P square to its plane at the free end: P R^3 (pi / (4 EI) + (3 pi / 4 - 2) / GJ)
    (Timoshenko, Strength of Materials, curved bars, from memory; derived again by hand).
    """
    big, n = 700.0, 40
    nodes = np.array([[big * math.sin(t), big * (1 - math.cos(t)), 0.0] for t in np.linspace(0, math.pi / 2, n + 1)])
    frame = Frame(nodes, tuple(Member(k, k + 1, **PIPE | {"kg_mm": 0.0}) for k in range(n)), fixed=(0,))
    load = np.zeros((n + 1, 6))
    load[-1, 2] = -50.0
    by_hand = 50 * big**3 * (math.pi / 4 / PIPE["ei"] + (3 * math.pi / 4 - 2) / PIPE["gj"])
    assert -Solved(frame).under(load).moved[-1, 2] == pytest.approx(by_hand, rel=1e-3)


def test_a_mass_on_a_spring_and_a_swinging_cantilever() -> None:
    """E017, E018; (1.8751, 4.6941 squared) / 2 pi sqrt(EI / m L^4): Blevins, Formulas for Natural Frequency, from
    memory.
    """
    for name in ("E017", "E018"):
        kg, k = (
            float(x)
            for x in ROWS[name]["what"]
            .replace(" N/mm: fn, static deflection mm", "")
            .split("Mass ")[1]
            .replace(" kg on total stiffness ", ";")
            .split(";")
        )
        stiff = np.diag([1e6, 1e6, k, 1e12, 1e12, 1e12])
        frame = Frame(
            np.array([[0.0, 0, 0], [9.0, 0, 0]]), (Member(0, 1, **tube(90, 9, 2e5)),), (Spring(0, stiff),), ((0, kg),)
        )
        solved = Solved(frame)
        assert solved.modes(1)[0].hz == pytest.approx(ROWS[name]["value"][0], rel=1e-3)
        assert -by_weight(frame).moved[0, 2] == pytest.approx(ROWS[name]["value"][1], rel=1e-4)
    found = Solved(line(list(np.linspace(0.0, 2000.0, 13)), PIPE, fixed=(0,))).modes(4)
    base = math.sqrt(PIPE["ei"] / (PIPE["kg_mm"] * 1e-3 * 2000**4)) / (2 * math.pi)
    assert [m.hz for m in found] == pytest.approx([1.87510**2 * base] * 2 + [4.69409**2 * base] * 2, rel=1e-3)
    assert found[0].hz == Solved(line(list(np.linspace(0.0, 2000.0, 13)), PIPE, fixed=(0,))).modes(4)[0].hz


def test_forces_and_couples_balance() -> None:
    """Any frame in space: what holds it is its weight, and its couple is the weight's (statics, to 1e-6)."""
    rng = np.random.default_rng(11)
    nodes = np.cumsum(rng.normal(size=(30, 3)) * [150, 60, 40], axis=0)
    springs = tuple(Spring(k, at_arm(np.diag(rng.uniform(2, 20, 3)), rng.normal(size=3) * 50)) for k in (6, 13, 22, 29))
    frame = Frame(nodes, tuple(Member(k, k + 1, **PIPE) for k in range(29)), springs, ((17, 6.0),), ((8, 9),), (0,))
    loads, hung = weight(frame), by_weight(frame)
    forces = [(0, hung.fixed[0]), *((s.node, h) for s, h in zip(springs, hung.held, strict=True))]
    total = sum(f for _, f in forces) + loads.sum(axis=0)
    couple = sum(np.cross(nodes[n], f[:3]) for n, f in forces) + np.cross(nodes, loads[:, :3]).sum(axis=0) + total[3:]
    scale = abs(loads[:, 2].sum())
    assert np.abs(total[:3]).max() < 1e-6 * scale
    assert np.abs(couple).max() < 1e-6 * scale * 1000


def test_what_nothing_holds_is_said() -> None:
    with pytest.raises(InputError, match="held by nothing"):
        Solved(line([0.0, 500.0], PIPE))
    with pytest.raises(InputError, match="held by nothing"):
        Solved(line([0.0, 500.0, 900.0], PIPE, springs=(Spring(1, np.diag([5.0, 5.0, 5.0, 0, 0, 0])),)))
    with pytest.raises(InputError, match="no length"):
        Solved(line([0.0, 0.0], PIPE, fixed=(0,)))
