"""Against values that were computed or printed elsewhere: data/reference.json says of each row what kind it is
("printed" with edition and page, "derived by hand" by the formula it names, or "from memory") and its source."""

import json
from pathlib import Path

import numpy as np
import pytest

from widebend.core.bending.rows import (
    Row,
    from_the_other_end,
    pieces_from_rows,
    right_handed,
    rows_from_pieces,
    start_and_rows_from_points,
)
from widebend.core.cutting import circumference, slice_heel_and_throat
from widebend.core.cutting.lists import heel_and_throat
from widebend.core.cutting.tube import mass_per_metre, round_the_tube
from widebend.core.laying import lay_pieces
from widebend.core.laying.route import pie_slice_length
from widebend.core.records import Bend, Design, SegmentedBend, Tube
from widebend.core.space import pose
from widebend.core.units import Length

ROWS = {r["id"]: r for r in json.loads((Path(__file__).parent / "data" / "reference.json").read_text())}
BENDS = [r for r in ROWS.values() if "theta_deg" in r.get("inputs", {})]
CHAINS = [
    r for r in ROWS.values() if r["id"].startswith("AL") and "LRA" in r["inputs"] and isinstance(r["value"], dict)
]
SLICES = [r for r in ROWS.values() if r.get("inputs", {}).get("convention") == "whole"]
MASSES = [r for r in ROWS.values() if r["id"].startswith("B0")]
TUBE = Tube(od_mm=Length(1.0), wall_mm=Length(0.1))
PLUS_Y = (0.0, 1.0, 0.0)


def test_every_row_says_what_it_is() -> None:
    for row in ROWS.values():
        assert row["kind"] in ("printed", "derived by hand", "from memory"), row["id"]
        assert row["source"], row["id"]


def _laid(row: dict):
    """The worked example with its own sense (right-handed about the travel, roll 0 toward +Y) turned into ours."""
    clr, lra = row["inputs"]["clr"], row["inputs"]["LRA"]
    rows = right_handed([Row(length, roll, angle, clr) for length, roll, angle in lra[:-1]])
    return lay_pieces(pose((0, 0, 0), (1, 0, 0), PLUS_Y), pieces_from_rows(rows, lra[-1][0]), Design(), TUBE)


@pytest.mark.parametrize("row", SLICES, ids=lambda r: r["id"])
def test_slices_of_a_bend(row: dict) -> None:
    """Whole wedges between square-cut tubes, by wedge trigonometry and by cutting their faces with lines."""
    given, value = row["inputs"], row["value"]
    turn = given["theta"] / given["n"]
    assert turn == pytest.approx(value["deflection"])
    assert slice_heel_and_throat(given["R"], given["D"], turn) == pytest.approx(
        (value["heel"], value["throat"]), abs=row["tol"]
    )
    pie = SegmentedBend(id="p", slices=given["n"], turn_each_deg=turn, clr_mm=Length(given["R"]))
    assert pie_slice_length(pie) * given["n"] == pytest.approx(value["total_cl_circumscribed"], abs=row["tol"])


@pytest.mark.parametrize("row", CHAINS, ids=lambda r: r["id"])
def test_distance_rotation_angle_to_points(row: dict) -> None:
    laid, value = _laid(row), row["value"]
    end = value["end"] if "end" in value else value["points_start_PI_end"][-1]
    assert laid[-1].outlet.point == pytest.approx(end, abs=row["tol"])
    assert laid[-1].outlet.flow == pytest.approx(value["end_direction"], abs=1e-6)
    assert sum(p.length_mm for p in laid) == pytest.approx(value["developed_length"], abs=row["tol"])
    tangents = [q for p in laid if isinstance(p.piece, Bend) for q in (p.inlet.point, p.outlet.point)]
    assert np.array(tangents) == pytest.approx(np.array(value["tangent_points"]), abs=row["tol"])


@pytest.mark.parametrize("row", CHAINS, ids=lambda r: r["id"])
def test_pieces_back_to_distance_rotation_angle(row: dict) -> None:
    rows, last = rows_from_pieces([p.piece for p in _laid(row)])
    got = [(r.distance_mm, -r.rotation_deg, r.angle_deg) for r in rows]
    off = np.array(got) - np.array(row["inputs"]["LRA"][:-1], dtype=float)
    off[:, 1] = (off[:, 1] + 180) % 360 - 180  # half a turn is the same either way
    assert np.abs(off).max() < 1e-9
    assert last == pytest.approx(row["inputs"]["LRA"][-1][0])


def test_points_to_distance_rotation_angle() -> None:
    row = ROWS["AL007"]
    _, rows, last = start_and_rows_from_points(row["inputs"]["points"], row["inputs"]["clr"], np.array(PLUS_Y))
    got = [(r.distance_mm, r.rotation_deg, r.angle_deg) for r in right_handed(rows)]
    want = np.array(row["value"]["LRA"][:-1])
    turns = (np.array(got)[:, 1] - want[:, 1] + 180) % 360 - 180
    assert np.abs(turns).max() < 1e-4
    assert np.array(got)[:, [0, 2]] == pytest.approx(want[:, [0, 2]], abs=1e-4)
    assert last == pytest.approx(row["value"]["LRA"][-1][0], abs=1e-4)


def test_bent_from_the_other_end() -> None:
    row = ROWS["AL013"]
    lra = row["inputs"]["LRA"]
    rows, last = from_the_other_end([Row(a, b, c, 95.25) for a, b, c in lra[:-1]], lra[-1][0])
    assert [[r.distance_mm, r.rotation_deg, r.angle_deg] for r in rows] == row["value"][:-1]
    assert last == row["value"][-1][0]


@pytest.mark.parametrize("row", BENDS, ids=lambda r: r["id"])
def test_heel_and_throat(row: dict) -> None:
    given, value = row["inputs"], row["value"]
    heel, throat = heel_and_throat(given["clr"], given["od"], given["theta_deg"])
    assert (heel, throat) == pytest.approx((value["outside"], value["inside"]), abs=row["tol"])


@pytest.mark.parametrize(("times", "ratio"), [(1.0, 3.0), (1.5, 2.0), (2.0, 5 / 3)])
def test_heel_to_throat_ratio(times: float, ratio: float) -> None:
    """Reference A030 to A032, exact rational arithmetic: (2m + 1) / (2m - 1)."""
    heel, throat = heel_and_throat(63.5 * times, 63.5, 37.0)
    assert heel / throat == pytest.approx(ratio, abs=1e-12)


@pytest.mark.parametrize("row", MASSES, ids=lambda r: r["id"])
def test_mass_against_handbook_tables(row: dict) -> None:
    """ASME B36.10M / B36.19M and EN 10220 / EN 10305-3 tables, as cited in the row (from memory, reproduced)."""
    given = row["inputs"]
    value = row["value"][0] if isinstance(row["value"], list) else row["value"]
    assert mass_per_metre(given["od"], given["t"], given["rho"]) == pytest.approx(value, abs=row["tol"])


@pytest.mark.parametrize("name", ["A090", "A091"])
def test_tape_round_the_tube(name: str) -> None:
    row = ROWS[name]
    od, value = row["inputs"]["od"], row["value"]
    assert circumference(od) == pytest.approx(value["circ"], abs=row["tol"])
    for angle, key in ((1, "per_deg"), (15, "at15"), (45, "at45"), (90, "at90")):
        assert round_the_tube(od, angle) == pytest.approx(value[key], abs=row["tol"])


def test_impossible_wall() -> None:
    with pytest.raises(ValueError, match="does not fit"):
        mass_per_metre(50, 30, 7850)
