"""Rods and brackets against the reference's worked values (section E) and plain geometry."""

import json
import math
import re
from pathlib import Path

import numpy as np
import pytest

from widebend.core.errors import InputError
from widebend.core.hanging import bend_allowance, bending_mpa, bracket_of, bracket_template, rod_of

DATA = Path(__file__).parents[2] / "outside" / "data" / "reference.json"
ROWS = {r["id"]: r for r in json.loads(DATA.read_text())}
ALONG = np.array([1.0, 0.0, 0.0])


def _rod(eye: tuple[float, float, float], **more: object):  # type: ignore[no-untyped-def]
    return rod_of(np.array(eye), np.zeros(3), ALONG, 63.5, 10.0, 30.0, 80.0, **more)


@pytest.mark.parametrize("name", ["E027", "E028", "E029", "E030", "E032", "E033"])
def test_bend_allowance_setback_and_deduction(name: str) -> None:
    words = ROWS[name]["what"]
    t, inside, deg, k = (float(re.search(rf"{key}([\d.]+)", words)[1]) for key in ("T=", "Ri=", "bend ", "K="))
    legs = [float(x) for x in words.split("legs ")[1].split("+")]
    allowance, setback, deduction = bend_allowance(deg, inside, t, k)
    assert [allowance, setback, deduction, sum(legs) - deduction] == pytest.approx(ROWS[name]["value"], rel=1e-4)


def test_rod_that_yields() -> None:
    """E039, E040: the couple at which the skin of a rod of 250 MPa yields."""
    for name, od in (("E039", 10.0), ("E040", 9.525)):
        assert bending_mpa(ROWS[name]["value"][0] * 1000, od) == pytest.approx(250.0, rel=1e-5)
    assert _rod((0.0, 40.0, 120.0)).strain == pytest.approx(ROWS["E042"]["value"][1])


def test_a_rod_reaches_from_the_eye_to_the_pipe_s_side_without_a_kink() -> None:
    """Its middle line: tangent to the pipe where it is rolled on, half the rod off its skin, as long as it is cut."""
    for eye in ((0.0, 60.0, 120.0), (15.0, -80.0, 80.0), (0.0, 0.0, 110.0)):
        for left in (False, True):
            rod = _rod(eye, left_hand=left)
            steps = np.diff(rod.line, axis=0)
            assert np.linalg.norm(steps, axis=1).sum() == pytest.approx(rod.cut_mm, abs=0.4)  # chords of its arcs
            off = np.linalg.norm(rod.line[-6:, 1:], axis=1)
            assert off == pytest.approx(63.5 / 2 + 5.0, abs=1e-6)
            ways = steps / np.linalg.norm(steps, axis=1)[:, None]
            turns = np.degrees(np.arccos(np.clip((ways[1:] * ways[:-1]).sum(axis=1), -1, 1)))
            assert turns.max() < 9.0
            assert [b.what for b in rod.bends if b.what != "set to the pipe"] == [
                "hook",
                "stop bend",
                "rolled round the pipe",
            ]
            marks = [b.mark_mm for b in rod.bends]
            assert marks == sorted(marks)
            assert marks[-1] < rod.cut_mm


def test_load_drives_the_rubber_to_the_stop_and_a_long_arm_is_weak() -> None:
    rod = _rod((0.0, 60.0, 120.0))
    hook, stop = rod.line[3], rod.line[8]
    assert hook[2] > stop[2]  # the pin falls toward the stop bend
    assert rod.holds
    far = _rod((0.0, 240.0, 120.0))
    assert not far.holds
    nearer = min(far.weld_mpa, _rod((0.0, 240.0, 120.0), left_hand=True).weld_mpa)  # welded on the near side
    assert nearer == pytest.approx(bending_mpa(3 * 80.0 * (240.0 - 63.5 / 2), 10.0), rel=0.1)
    with pytest.raises(InputError, match="too near the pipe for a rod"):
        _rod((0.0, 0.0, 30.0))


def test_a_bracket_s_holes_come_where_the_bolt_and_the_pin_are() -> None:
    """Folded up again by hand: from the bolt's middle out to the outside of the leg, and down to the pin."""
    made = bracket_of(np.array([30.0, 50.0, -70.0]), 8.5, 10.5, 80.0)
    out = math.hypot(30.0, 50.0)
    bolt, pin = (x for x, _ in made.holes)
    allowance, setback, _ = bend_allowance(90.0, 4.0, 4.0)
    assert pin - bolt == pytest.approx(out + 2.0 - setback + allowance + 70.0 - setback)
    assert made.folds[0][0] - bolt == pytest.approx(out + 2.0 - setback + allowance / 2)
    assert made.stress_mpa == pytest.approx(6 * 3 * 80.0 * out / (21.5 * 4.0**2))  # M / (b t^2 / 6), less the hole
    assert made.tube_n_mm > 5 * made.stiff_n_mm
    drawn = bracket_template(made, "left")
    assert float(drawn.high[0] - drawn.low[0]) == pytest.approx(made.flat_mm)
    for off, words in (((60.0, 0.0, -8.0), "under the bolt"), ((2.0, 0.0, -80.0), "to the side of the bolt")):
        with pytest.raises(InputError, match=words):
            bracket_of(np.array(off), 8.5, 10.5, 80.0)
    with pytest.raises(InputError, match="too narrow for its holes"):
        bracket_of(np.array([60.0, 0.0, -60.0]), 8.5, 14.0, 80.0)


def test_a_bracket_bends_first_at_its_bolt_where_the_hole_takes_a_third_of_its_width() -> None:
    """By hand: 3 x 100 N at 60 mm is 18 N m; 6 M / ((30 - 10) 4^2) = 337.5 MPa, half as much again as of the bar."""
    bar = bracket_of(np.array([60.0, 0.0, -40.0]), 10.0, 10.0, 100.0)
    assert bar.stress_mpa == pytest.approx(6 * 3 * 100.0 * 60.0 / (20.0 * 16.0))
