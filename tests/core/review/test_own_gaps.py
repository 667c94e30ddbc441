"""The system against itself: figures by hand, and pairs of pipes against their sampled centre lines."""

import math

import numpy as np
import pytest

from widebend.core.geometry import least_between
from widebend.core.hardware import shelf
from widebend.core.records import (
    Bend,
    Design,
    Group,
    Mitre,
    Part,
    Piece,
    Placed,
    Rock,
    Run,
    SegmentedBend,
    Straight,
    Survey,
    Tap,
    Tube,
)
from widebend.core.review import Finding, review
from widebend.core.units import Length


def _tube(od: float = 63.5) -> Tube:
    return Tube(od_mm=Length(od), wall_mm=Length(1.5))


def _flange(name: str, at: tuple[float, float, float], axis: tuple[float, float, float], od: float = 63.5) -> Part:
    x, y, z = at
    item = shelf.start_flange(od).replace(bodies=())
    return Part(id=name, item=item, placed=Placed(point=(Length(x), Length(y), Length(z)), axis=axis))


def _legs(*lengths: float) -> tuple[Piece, ...]:
    return tuple(Straight(id=f"l{k}", length_mm=Length(long)) for k, long in enumerate(lengths))


def _own(design: Design) -> list[Finding]:
    return [f for f in review(design).findings if f.code in ("own", "touches")]


def test_pipes_of_one_part_that_cross_further_on() -> None:
    """Two outlets of one part, pipes bent to cross 600 mm behind it: centre lines 66.1 apart there, 2.6 mm of gap."""
    two = shelf.start_flange(63.5).replace(bodies=())
    left = two.ports[0].replace(id="left", point=(Length(0), Length(-300), Length(0)))
    right = two.ports[0].replace(id="right", point=(Length(0), Length(300), Length(66.1)))
    item = two.replace(ports=(left, right))
    part = Part(id="x", item=item, placed=Placed(point=(Length(0), Length(0), Length(300)), axis=(1, 0, 0)))
    runs = []
    for name, roll in (("left", 90.0), ("right", 270.0)):
        bend = Bend(id="b", angle_deg=45, clr_mm=Length(95.25), roll_deg=roll)
        pieces = (Straight(id="a", length_mm=Length(300)), bend, Straight(id="c", length_mm=Length(700)))
        runs.append(Run(id=name, start=f"x.{name}", tube=_tube(), pieces=pieces))
    found = _own(Design(parts=(part,), runs=tuple(runs)))
    assert [f.gap_mm for f in found] == pytest.approx([2.6], abs=0.01)


def test_a_piece_has_its_own_tube() -> None:
    """A run of 50.8 whose U leads back beside itself in 101.6 mm pipe: 76 apart, they are 25.6 mm inside each other."""
    fat = _tube(101.6)
    back = Bend(id="u", angle_deg=180, clr_mm=Length(38.0))
    pieces = (
        Straight(id="a", length_mm=Length(900), tube=fat),
        back,
        Straight(id="c", length_mm=Length(900), tube=fat),
    )
    run = Run(id="r", start="s.out", tube=_tube(50.8), pieces=pieces)
    found = _own(Design(parts=(_flange("s", (0, 0, 300), (1, 0, 0)),), runs=(run,)))
    assert [f.gap_mm for f in found] == pytest.approx([76.0 - 101.6], abs=0.01)


@pytest.mark.parametrize(("angle", "said"), [(45.0, 0), (20.0, 0)])
def test_a_branch_leaves_its_pipe_in_peace(angle: float, said: int) -> None:
    main = Run(id="m", start="s.out", tube=_tube(), pieces=_legs(1500.0))
    tap = Tap(run="m", piece="l0", along_mm=Length(300), roll_deg=90.0, angle_deg=angle)
    branch = Run(id="b", start=tap, tube=_tube(38.1), pieces=_legs(500.0))
    design = Design(parts=(_flange("s", (0, 0, 300), (1, 0, 0)),), runs=(main, branch))
    assert len(_own(design)) == said


def test_a_branch_brought_back_onto_its_pipe_is_found() -> None:
    """45 deg off, then bent back by 90 to cross the pipe it left: it goes through its middle."""
    main = Run(id="m", start="s.out", tube=_tube(), pieces=_legs(1500.0))
    tap = Tap(run="m", piece="l0", along_mm=Length(300), roll_deg=90.0, angle_deg=45.0)
    back = Bend(id="b", angle_deg=90, clr_mm=Length(60.0), roll_deg=180.0)
    pieces = (Straight(id="a", length_mm=Length(300)), back, Straight(id="c", length_mm=Length(600)))
    turned = [
        Run(
            id="b",
            start=tap,
            tube=_tube(38.1),
            pieces=(pieces[0], back.replace(roll_deg=roll), pieces[2]),
        )
        for roll in (0.0, 90.0, 180.0, 270.0)
    ]
    parts = (_flange("s", (0, 0, 300), (1, 0, 0)),)
    depths = [_own(Design(parts=parts, runs=(main, run))) for run in turned]
    assert min(f[0].gap_mm or 0.0 for f in depths if f) == pytest.approx(-(63.5 + 38.1) / 2, abs=0.05)


def _rows(rng: np.random.Generator) -> np.ndarray:
    """A straight or a bend somewhere within half a metre."""
    f = rng.normal(size=3)
    f /= np.linalg.norm(f)
    side = np.cross(f, rng.normal(size=3))
    side /= np.linalg.norm(side)
    at = rng.uniform(-250, 250, 3)
    if rng.random() < 0.6:
        clr = rng.uniform(40, 150)
        return np.r_[1, clr * rng.uniform(0.2, np.pi), rng.uniform(15, 50), at, f, side, clr, 0]
    return np.r_[0, rng.uniform(0, 400), rng.uniform(15, 50), at, f, side, 0, 0]


def test_pairs_of_straights_and_bends_against_sampling() -> None:
    """400 pairs: the least of 900 x 900 distances, refined twice round the best pair."""
    from tests.outside.scenes import centre_points

    rng = np.random.default_rng(5)
    none = np.zeros((0, 4))
    for _ in range(400):
        a, b = _rows(rng), _rows(rng)
        low, high = np.zeros(2), np.array([a[1], b[1]])
        for _round in range(4):
            s, t = (np.linspace(low[k], high[k], 120) for k in (0, 1))
            p = np.array([centre_points(np.r_[a[0], max(v, 1e-9), a[2:]], 2)[0][-1] for v in s])
            q = np.array([centre_points(np.r_[b[0], max(v, 1e-9), b[2:]], 2)[0][-1] for v in t])
            far = np.linalg.norm(p[:, None] - q, axis=2)
            i, j = np.unravel_index(far.argmin(), far.shape)
            wide = (high - low) / 25
            low = np.maximum(np.array([s[i], t[j]]) - wide, 0.0)
            high = np.minimum(np.array([s[i], t[j]]) + wide, [a[1], b[1]])
        want = far.min() - a[2] - b[2]
        got, *_ = least_between(a[None], np.zeros(1), b[None], np.zeros(1), none, -1.0, 1e6)
        assert want - 0.01 <= got + 0.01
        assert got <= want + 0.02


def test_a_pipe_through_the_apex_of_slices_and_one_beside_it() -> None:
    """12 slices of 15 deg at CLR 95.25: a second pipe straight through the apex clashes as with a bend; one in the
    middle of the U keeps what it keeps of a bend, to within what slices stand off an arc.
    """

    def beside(turning: Piece, at: tuple[float, float, float], axis: tuple[float, float, float]) -> list[Finding]:
        first = Run(
            id="a",
            start="s.out",
            tube=_tube(),
            pieces=(*_legs(200.0), turning, Straight(id="z", length_mm=Length(200))),
        )
        second = Run(id="b", start="t.out", tube=_tube(), pieces=_legs(600.0))
        parts = (_flange("s", (0, 0, 300), (1, 0, 0)), _flange("t", at, axis))
        return [f for f in _own(Design(parts=parts, runs=(first, second))) if f.thing == "b"]

    pie = SegmentedBend(id="p", slices=12, turn_each_deg=15.0, clr_mm=Length(95.25))
    bend = Bend(id="p", angle_deg=180, clr_mm=Length(95.25))
    through = (200.0 + 95.25, -300.0, 300.0 + 95.25), (0.0, 1.0, 0.0)
    assert beside(bend, *through)[0].gap_mm == pytest.approx(-63.5, abs=0.05)
    assert beside(pie, *through)[0].gap_mm == pytest.approx(-63.5, abs=0.9)
    inside = (200.0, -300.0, 300.0 + 95.25), (0.0, 1.0, 0.0)
    assert not beside(bend, *inside)
    assert not beside(pie, *inside)


def test_a_heel_counts_between_pipes() -> None:
    """A square mitre's heel stands 31.75 (sqrt 2 - 1) = 13.15 mm past round: a pipe 20 mm past round has 6.85 mm."""
    corner = Mitre(id="m", turn_deg=90, roll_deg=180.0)
    first = Run(
        id="a", start="s.out", tube=_tube(), pieces=(*_legs(300.0), corner, Straight(id="z", length_mm=Length(300)))
    )
    half = np.sqrt(0.5)
    off = 2 * 31.75 + 20.0
    at = (300.0 + half * off, -400.0, 300.0 + half * off)
    second = Run(id="b", start="t.out", tube=_tube(), pieces=_legs(800.0))
    parts = (_flange("s", (0, 0, 300), (1, 0, 0)), _flange("t", at, (0, 1, 0)))
    found = [f for f in _own(Design(parts=parts, runs=(first, second))) if f.thing == "b" or f.run == "b"]
    assert [f.gap_mm for f in found] == pytest.approx([20.0 - 31.75 * (np.sqrt(2) - 1)], abs=0.05)


def test_a_pipe_that_rocks_with_the_engine_hits_one_that_is_fixed() -> None:
    """By hand: two level pipes of 50.8 side by side, 65.8 apart, 15 of gap. One rocks 3 degrees about the upright axis
    through its start: 700 mm behind that its end comes 700 sin 3 = 36.6 mm nearer, 21.6 mm into the other.
    """
    rock = Rock(about=(Length(1000), Length(0), Length(300)), axis=(0, 0, 1), deg=3.0)
    survey = Survey(groups=(Group(id="engine", name="engine", motion=rock),))
    parts = (
        _flange("e", (1000, 0, 300), (1, 0, 0), 50.8).replace(moves="engine"),
        _flange("b", (1000, 65.8, 300), (1, 0, 0), 50.8).replace(moves="body"),
    )
    runs = tuple(Run(id=name, start=f"{name}.out", tube=_tube(50.8), pieces=_legs(700.0)) for name in ("e", "b"))
    found = _own(Design(survey=survey, parts=parts, runs=runs))
    assert len(found) == 1
    reach = 700.0 * math.sin(math.radians(3.0))
    assert found[0].gap_mm == pytest.approx(65.8 - reach - 50.8, abs=0.5)
    assert found[0].position.startswith("rocked")
