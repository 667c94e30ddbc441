"""Labels, workbooks and STEP files read back by what is not ours."""

import io
import subprocess
from pathlib import Path

import numpy as np
import openpyxl
import pytest
from PIL import Image

from widebend.core.cutting import cut_lists
from widebend.core.laying import system_of
from widebend.core.nesting import PartsLine
from widebend.demo.systems import twin_x
from widebend.formats import step_files
from widebend.formats.papers.cut_rows import rows
from widebend.formats.papers.labels import SHEETS, PieceLabel, write_labels
from widebend.formats.papers.workbook import write_workbook


@pytest.mark.parametrize("sheet", sorted(SHEETS))
def test_labels_fill_their_sheet_and_their_qr_is_square(sheet: str, tmp_path: Path) -> None:
    page, across, down, *_ = SHEETS[sheet]
    many = [
        PieceLabel(
            f"{k} · 45° bend", ("left bank", "63.5 mm x 1.5 mm"), f"http://127.0.0.1:8000/jobs/1/cut/card?piece=p{k}"
        )
        for k in range(across * down + 1)
    ]
    (tmp_path / "l.pdf").write_bytes(write_labels(many, sheet))
    subprocess.run(["pdftoppm", "-r", "100", "-gray", "-png", "l.pdf", "l"], cwd=tmp_path, check=True)
    pages = [np.asarray(Image.open(p).convert("L")) for p in sorted(tmp_path.glob("l-*.png"))]
    assert len(pages) == 2
    assert pages[0].shape[1] == pytest.approx(page[0] / 25.4 * 100, abs=1.5)
    assert (pages[0] < 128).mean() > 5 * (pages[1] < 128).mean()


def test_a_workbook_holds_figures_and_runs_nothing() -> None:
    design = twin_x()
    laid = system_of(design).runs[0]
    pieces = rows(design, cut_lists(design, [laid])[0])
    parts = [PartsLine("tube", "=1+1", 3.0, supplier="Norric Tube", pack=2)]
    book = openpyxl.load_workbook(io.BytesIO(write_workbook([("left", pieces)], parts)))
    assert [s.title for s in book.worksheets] == ["pieces", "parts"]
    assert book["pieces"].max_row == 1 + len(pieces)
    line = {head.value: cell for head, cell in zip(book["parts"][1], book["parts"][2], strict=True)}
    assert line["what"].data_type == "s"
    assert (line["wanted"].value, line["to buy"].value, line["to order"].value) == (3, 3, 4)


@pytest.mark.skipif(not step_files.is_there(), reason="the CAD kernel is not installed: ./widebend test installs it")
def test_step_holds_the_pipe_hollow(tmp_path: Path) -> None:
    """Its volume is the section's area times the middle line's length, as the CAD kernel reads the file back."""
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.STEPControl import STEPControl_Reader

    design = twin_x()
    runs = system_of(design).runs
    (tmp_path / "p.step").write_bytes(step_files.write_step(runs))
    reader = STEPControl_Reader()
    reader.ReadFile(str(tmp_path / "p.step"))
    reader.TransferRoots()
    props = GProp_GProps()
    BRepGProp.VolumeProperties_s(reader.OneShape(), props)
    wanted = sum(
        p.length_mm * np.pi * (float(p.tube.od_mm) - float(p.tube.wall_mm)) * float(p.tube.wall_mm)
        for laid in runs
        for p in laid.pieces
        if p.piece.kind in ("leg", "bend")
    )
    assert abs(props.Mass()) == pytest.approx(wanted, rel=1e-4)
