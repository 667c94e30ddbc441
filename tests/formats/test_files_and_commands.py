"""The design file, the command line, CSV and PDF: what comes in is judged whole, what goes out is true."""

import csv
import io
import json
import math
import re
import shutil
import subprocess
from pathlib import Path

import jsonschema
import pytest

from tests.walls import walls
from widebend.__main__ import main
from widebend.core.cutting import cut_list
from widebend.core.errors import DesignError
from widebend.core.hardware import Stocked
from widebend.core.laying import LaidPiece, lay_run
from widebend.core.records import MarkPoint, SegmentedBend, Survey
from widebend.core.review import review
from widebend.core.routing import propose, taken
from widebend.core.units import Length, format_angle, format_length
from widebend.demo.examples import cat_back, first_job
from widebend.demo.systems import pie_downpipe
from widebend.formats.design_json import read_design, schema, write_design
from widebend.formats.papers.cut_rows import row
from widebend.formats.papers.sheet_pdf import write_sheet
from widebend.formats.shelf_csv import read_shelf, write_shelf
from widebend.formats.survey_csv import read_table, write_table

GOOD = json.loads(write_design(cat_back()))


def _changed(path: str, value: object) -> bytes:
    document = json.loads(json.dumps(GOOD))
    here, *_ = [document]
    *way, last = path.split(".")
    for key in way:
        here = here[int(key)] if key.isdigit() else here[key]
    if isinstance(here, list):
        here[int(last)] = value
    else:
        here[last] = value
    return json.dumps(document).encode()


def test_a_design_comes_back_equal() -> None:
    assert read_design(write_design(cat_back())) == cat_back()


def test_the_written_file_obeys_the_published_schema() -> None:
    jsonschema.validate(GOOD, schema())


BAD = [
    (b"", "not JSON"),
    (b"[]", "JSON object"),
    (b"\xff\xfe", "UTF-8"),
    (b'{"format": "x"}', "not a Wide Bend design"),
    (_changed("version", 9), "reads version 1"),
    (b'{"a": NaN}', "not a number"),
    (b" " * 4_000_000, "4.0 MB"),
    (b"[" * 100_000, "nested|not JSON"),
    (_changed("runs.0.pieces.1.angle_deg", 200), r"runs\.0\.pieces\.1\.angle_deg"),
    (_changed("runs.0.pieces.0.length_mm", -1), r"runs\.0\.pieces\.0\.length_mm"),
    (_changed("runs.0.start", "nobody.out"), "which no part has"),
    (_changed("runs.0.pieces.0.id", "p2"), "two pieces"),
    (_changed("survey.things.0.shape.size.0", 0), "survey.things.0.shape.size"),
    (_changed("survey.things.0.moves_with", "ghost"), "not a group"),
    (_changed("parts.0.extra", 1), "extra"),
    (_changed("runs.0.tube.wall_mm", 40), "does not fit"),
]


@pytest.mark.parametrize(("data", "words"), BAD)
def test_a_bad_file_is_refused_with_place_and_reason(data: bytes, words: str) -> None:
    with pytest.raises(DesignError) as refused:
        read_design(data)
    assert re.search(words, str(refused.value)), str(refused.value)


@pytest.fixture
def files(tmp_path: Path) -> dict[str, str]:
    design = first_job()
    closed = taken(design, "r1", propose(design, "r1"), 0)
    made = {
        "open": write_design(design),
        "closed": write_design(closed),
        "touching": write_design(cat_back()),
        "bad": b'{"format": "widebend-design", "version": 1, "runs": [{"id": "r"}]}',
    }
    for name, data in made.items():
        (tmp_path / f"{name}.json").write_bytes(data)
    return {name: str(tmp_path / f"{name}.json") for name in made}


@pytest.mark.parametrize(("name", "code"), [("closed", 0), ("open", 1), ("touching", 1), ("bad", 2), ("no such", 2)])
def test_exit_codes(files: dict[str, str], name: str, code: int) -> None:
    assert main(["check", files.get(name, "/no/such/file.json")]) == code


def test_refusal_names_the_place(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    main(["check", files["bad"]])
    assert "runs.0.start" in capsys.readouterr().err


def test_check_as_json(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    main(["check", files["touching"], "--json"])
    found = json.loads(capsys.readouterr().out)
    assert found[0]["thing_name"] == "rear axle"
    assert found[0]["margin_mm"] < 0


def test_close_and_take(files: dict[str, str], capfdbinary: pytest.CaptureFixture[bytes]) -> None:
    assert main(["close", files["open"], "--take", "1"]) == 0
    closed = read_design(capfdbinary.readouterr().out)
    assert closed.runs[0].pieces


def test_route_prints_ways_that_keep_their_gaps(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    design = read_design(Path(files["open"]).read_bytes())
    run = design.runs[0]
    named = ["--from", run.start, "--to", run.aim] if run.aim else []
    assert main(["route", files["open"], *named, "--alternatives", "2", "--json"]) == 0
    ways = json.loads(capsys.readouterr().out)["answers"]
    assert 1 <= len(ways) <= 2
    for way in ways:
        assert way["keeps_gaps"]
        # as the bench cuts it: a straight that comes with a bend is one piece of metal with it
        assert 2 <= way["joints"] <= len(way["pieces"]) + 1
        # each end and joint is welded once round: circumference times joints (geometry, no source)
        assert way["weld_mm"] == pytest.approx(math.pi * float(run.tube.od_mm) * way["joints"], rel=1e-6)


def test_route_refuses_a_place_that_is_not_there(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["route", files["open"], "--through", "the moon"]) == 2
    assert "no window or mark “the moon”" in capsys.readouterr().err


def test_route_comes_through_windows_by_their_names(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "walls.json"
    path.write_bytes(write_design(walls()))
    assert main(["route", str(path), "--through", "round hole", "--through", "left slot", "--alternatives", "1"]) == 0
    assert "through the round hole, through the left slot" in capsys.readouterr().out


def test_cut_prints_a_row_a_piece(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["cut", files["closed"], "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [r["number"] for r in rows] == list(range(1, len(rows) + 1))


def test_csv_is_read_back(files: dict[str, str], tmp_path: Path) -> None:
    out = tmp_path / "cut.csv"
    main(["convert", files["closed"], "--to", "csv", "--out", str(out)])
    rows = list(csv.DictReader(io.StringIO(out.read_text())))
    assert rows[0]["number"] == "1"
    assert any(r["heel"] for r in rows)


@pytest.mark.skipif(not shutil.which("pdftoppm"), reason="poppler-utils is not here: ./widebend test installs it")
@pytest.mark.parametrize(("paper", "size"), [("a4", "595.276 x 841.89"), ("letter", "612 x 792")])
def test_the_sheet_is_true_to_size(files: dict[str, str], tmp_path: Path, paper: str, size: str) -> None:
    """The 100 mm bar at the foot, measured on the rendered page: 100 mm at 254 dots an inch is 1,000 dots."""
    from PIL import Image

    out = tmp_path / "sheet.pdf"
    main(["convert", files["closed"], "--to", "pdf", "--paper", paper, "--out", str(out)])
    info = subprocess.run(["pdfinfo", str(out)], capture_output=True, text=True, check=True).stdout
    assert size in info
    subprocess.run(
        ["pdftoppm", "-r", "254", "-gray", "-f", "1", "-l", "1", str(out), str(tmp_path / "page")], check=True
    )
    page = Image.open(next(tmp_path.glob("page*.pgm")))
    row = page.height - (12 * 10)  # the bar is 12 mm above the lower edge
    dark = [x for y in range(row - 3, row + 4) for x in range(page.width // 2 + 100) if page.getpixel((x, y)) < 120]
    assert max(dark) - min(dark) == pytest.approx(1000, abs=6)
    text = subprocess.run(["pdftotext", str(out), "-"], capture_output=True, text=True, check=True).stdout
    text = " ".join(text.split())
    assert "from the reference line" in text
    assert "chlorinated" in text


def test_a_bend_of_slices_says_how_it_is_cut() -> None:
    """Each slice's heel and throat, 2 (CLR ± r) tan(turn / 2), and half the turn off square at each face."""
    design = pie_downpipe()
    laid = next(run for run in (lay_run(design, r) for r in design.runs) if run and any(_is_pie(p) for p in run.pieces))
    cuts = cut_list(design, laid)
    pie = next(c for c in cuts.pieces if c.kind == "pie")
    piece, words = pie.laid.piece, row(design, pie)
    heel = 2 * (piece.clr_mm + pie.tube.od_mm / 2) * math.tan(math.radians(piece.turn_each_deg) / 2)
    assert words.what == f"{piece.slices} slices of {format_angle(piece.turn_each_deg)}"
    assert f"each slice {format_length(heel, 'mm')} at the heel" in words.note
    assert f"cut {format_angle(piece.turn_each_deg / 2)} off square" in words.note


def _is_pie(laid: LaidPiece) -> bool:
    return isinstance(laid.piece, SegmentedBend)


def test_names_in_other_alphabets_print_as_they_are(tmp_path: Path) -> None:
    """By pdftotext: a Polish, a Greek and a Russian name come out of the sheet as they went in."""
    design = cat_back()
    laid = lay_run(design, design.runs[0])
    assert laid is not None
    names = "Łukasz Żółć · Ευγενία · Мария"
    sheet = tmp_path / "sheet.pdf"
    sheet.write_bytes(write_sheet(names, [names], design, review(design), cut_list(design, laid), run_id=laid.run.id))
    text = subprocess.run(["pdftotext", str(sheet), "-"], check=True, capture_output=True, text=True).stdout
    assert names in text


def test_no_cell_of_any_table_is_a_formula() -> None:
    """Names that begin like one, in all three tables that are written; read again they are what they were."""
    bad = "=1+1"
    survey = Survey(marks=(MarkPoint(id="a", name=bad, point=(Length(0), Length(0), Length(0))),))
    table = write_table(survey)
    assert "'=1+1" in table
    assert read_table(table, "mm", Survey()).marks[0].name == bad
    shelf = write_shelf([Stocked(kind="muffler", name=bad)])
    assert "'=1+1" in shelf
    assert read_shelf(shelf)[0][0].name == bad


def test_the_sheet_draws_the_run_and_every_piece_and_says_what_is_not_weighed(tmp_path: Path) -> None:
    """Slices, bends off their stock and parts on one sheet, by pdftotext: both views, each number, the parts' mass."""
    design = pie_downpipe()
    found = review(design)
    laid = max(found.system.runs, key=lambda run: len(run.pieces))
    cuts = cut_list(design, laid)
    sheet = tmp_path / "sheet.pdf"
    sheet.write_bytes(write_sheet("s", ["printed 2026-01-31"], design, found, cuts, run_id=laid.run.id))
    text = subprocess.run(["pdftotext", str(sheet), "-"], check=True, capture_output=True, text=True).stdout
    for words in ("from below, front at the left", "from the left", "printed 2026-01-31", "Parts of the whole job"):
        assert words in text
    names = [p.name or p.item.kind for p in design.parts if p.item.mass_kg is None]
    assert all(name in text for name in names)
