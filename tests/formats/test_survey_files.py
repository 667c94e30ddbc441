"""Surveys, scans and pictures as files: there and back, and everything malformed refused with its reason."""

import io
import struct
import zipfile

import numpy as np
import pytest
import trimesh
from PIL import Image

from widebend.core.errors import DesignError, InputError
from widebend.core.geometry import as_kept, corners_of
from widebend.core.records import Photo, Survey
from widebend.core.survey import STARTERS, starter
from widebend.formats.mesh_files import Axes, on_vehicle, read_mesh
from widebend.formats.photo_files import read_photo
from widebend.formats.survey_bundle import read_survey, write_bundle, write_survey
from widebend.formats.survey_csv import COLUMNS, example, left_out, read_table, write_table

BOX = trimesh.creation.box((300, 200, 100))


@pytest.mark.parametrize("kind", ["stl", "stl_ascii", "ply", "obj"])
def test_a_box_is_read_from_every_kind(kind: str) -> None:
    """Files written by trimesh, a reference library."""
    data = BOX.export(file_type=kind)
    corners = read_mesh(data if isinstance(data, bytes) else data.encode())
    assert corners.shape == (12, 3, 3)
    assert np.allclose(np.ptp(corners.reshape(-1, 3), axis=0), [300, 200, 100])


def test_unit_and_axes_turn_a_scan_onto_the_vehicle() -> None:
    """A file in metres with Y up whose nose points along -Z: its +Z is to the rear, its X to the right."""
    corners = np.array([[[0.1, 0.2, 0.5], [0.1, 0.3, 0.5], [0.1, 0.2, 0.9]]])
    placed = on_vehicle(corners, Axes("m", "+y", "+z"))
    assert np.allclose(placed[0, 0], [500, 100, 200])  # right = up x rear = y x z = +x
    with pytest.raises(InputError, match="same axis"):
        Axes("mm", "+z", "-z").matrix()


def _stl(count: int, held: int) -> bytes:
    return b"\0" * 80 + struct.pack("<I", count) + b"\0" * 50 * held


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"hello, this is a letter to my aunt" * 10, "neither STL, PLY nor OBJ"),
        (_stl(900, 3), "says it has 900 triangles but holds 3"),
        (_stl(600_000, 600_000), "600,000 triangles; at most 500,000"),
        (b"ply\nformat ascii 1.0\nelement face 9999999\nend_header\n", "at most 500,000"),
        (b"ply\nformat ascii 1.0\nelement vertex 3\nend_header\nx y z", "cannot be read|no triangles"),
        (b"v 0 0 0\nv 1 0 0\nf 1 2 900\n", "cannot be read|no triangles"),
        (
            b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 nan\nendloop\nendfacet\nendsolid",
            "cannot be read|number|no",
        ),
        (b"PK\x03\x04" + b"0" * 200, "this is a zip"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 inf\nf 1 2 3\n", "not a number"),
    ],
)
def test_a_malformed_mesh_is_refused_with_its_reason(data: bytes, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_mesh(data)


def test_a_kept_mesh_comes_back_and_flat_triangles_are_dropped() -> None:
    corners = np.asarray(BOX.triangles)
    with_flat = np.concatenate([corners, np.zeros((2, 3, 3))])
    assert np.allclose(corners_of(as_kept(with_flat)), corners, atol=1e-4)
    with pytest.raises(InputError, match="50 m"):
        as_kept(corners * 1000)


# --- tables ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("key", STARTERS)
def test_a_survey_goes_out_as_a_table_and_comes_back(key: str) -> None:
    survey = starter(key, STARTERS[key].wheelbase_mm, STARTERS[key].track_mm)
    table = read_table(write_table(survey), "mm", survey)
    assert not table.bad
    assert (table.things, table.hang_points) == (survey.things, survey.hang_points)
    assert table.low_line.d == survey.low_line.d
    assert any("travels" in words for words in left_out(survey))


def test_the_documented_example_reads() -> None:
    table = read_table(example(), "mm", Survey())
    assert not table.bad
    assert table.good == len(example().splitlines()) - 1
    assert table.things[1].shape.radius == pytest.approx(25.4 / 8)


def test_a_bad_line_is_named_with_its_number_and_the_rest_is_offered() -> None:
    lines = example().splitlines()
    lines.insert(4, "thing,,tank,box,2300,-430,290,2200,-110,560,,,,,hard,,body,as found,,3,tape,,")
    lines.insert(6, "thing,,tank,globe,1,1,1,,,,,,,,hard,,body,as found,,3,tape,,")
    lines += ["elephant,,x", "mark,,m,,two,3,4", 'thing,,a "quote,box', "thing,,far,sphere,1,1,1,,,,9,,,,hard,,trailer"]
    table = read_table("\n".join(lines), "mm", Survey())
    assert table.good == len(example().splitlines()) - 1
    found = {bad.number: bad.reason for bad in table.bad}
    assert "x2: it must be more than x1" in found[5]
    assert "shape: it can be" in found[7]
    assert any("elephant" in r for r in found.values())
    assert any("moves with “trailer”" in r for r in found.values())


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "first line must name the columns"),
        ("a,b\n1,2", "first line"),
        ("what,name,colour\n", "no column “colour”"),
        ("what,name\n\x00", "not a text table"),
        ("what,name\n" + "x" * 1_100_000, "at most 1 MB"),
    ],
)
def test_what_is_no_table_is_refused_whole(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_table(text, "mm", Survey())


def test_every_column_is_documented() -> None:
    from pathlib import Path

    page = (Path(__file__).resolve().parents[2] / "docs/formats/survey-csv.md").read_text()
    assert all(f"`{column}`" in page for column in COLUMNS)
    assert example() in page


# --- JSON and bundles -----------------------------------------------------------------------------------------------


def _survey() -> Survey:
    return starter("rear-drive", 2800, 1520)


def test_json_and_bundle_there_and_back() -> None:
    assert read_survey(write_survey(_survey())).survey == _survey()
    picture = read_photo(_jpeg())
    survey = _survey().replace(photos=(Photo(sha256=picture.sha256),))
    bundle = read_survey(write_bundle(survey, {}, {picture.sha256: picture.jpeg}))
    assert (bundle.survey, bundle.photos) == (survey, {picture.sha256: picture.jpeg})
    assert read_survey(write_survey(survey)).lacking == [picture.sha256]


def _zip(**entries: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in entries.items():
            packed.writestr(name.replace("__", "/"), data)
    return out.getvalue()


def _lying_zip() -> bytes:
    """A zip whose survey claims 10 bytes and unpacks to 50 MB."""
    data = bytearray(_zip(**{"survey.json": b" " * 50_000_000}))
    size = struct.pack("<I", 50_000_000)
    for at in (data.find(size), data.rfind(size)):
        data[at : at + 4] = struct.pack("<I", 10)
    return bytes(data)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"not json", "not JSON"),
        (b'{"format": "something"}', "not a survey"),
        (b'{"format": "widebend-survey", "version": 9}', "version 1"),
        (b'{"format": "widebend-survey", "version": 1, "things": [{"id": "a"}]}', "things.0"),
        (b"[" * 100_000, "nested|not JSON"),
        (b"PK\x03\x04 cut off", "damaged"),
        (_zip(**{"other.txt": b"x"}), "no such file"),
        (_zip(**{"survey.json": b" " * 3_000_000}), "more than 2 MB"),
        (_lying_zip(), "damaged|more than"),
        (_zip(**{f"f{i}": b"" for i in range(1000)}), "1000 files"),
        (_zip(**{"survey.json": b"{}", "bomb": b"\0" * 450_000_000}), "unpacks to 450 MB"),
    ],
    ids=["text", "other", "version", "record", "nested", "cut", "no-survey", "long", "lying", "many", "bomb"],
)
def test_a_malformed_survey_is_refused_with_its_reason(data: bytes, words: str) -> None:
    with pytest.raises(DesignError, match=words):
        read_survey(data)


def test_a_bundle_whose_picture_is_another_is_refused() -> None:
    survey = Survey.model_validate({"photos": [{"sha256": "a" * 64}]})
    with pytest.raises(DesignError, match="not the picture"):
        read_survey(write_bundle(survey, {}, {"a" * 64: _jpeg()}))


# --- pictures -------------------------------------------------------------------------------------------------------


def _jpeg(size: tuple[int, int] = (640, 480), *, gps: bool = False) -> bytes:
    image = Image.linear_gradient("L").resize(size).convert("RGB")
    exif = Image.Exif()
    if gps:
        exif[0x010F] = "a camera"
        exif[0x0112] = 6  # lies on its side
        exif.get_ifd(0x8825)[1] = "N"
        exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif)
    return out.getvalue()


def test_a_picture_is_kept_upright_smaller_and_without_its_place() -> None:
    picture = read_photo(_jpeg((3600, 1200), gps=True))
    kept = Image.open(io.BytesIO(picture.jpeg))
    assert not kept.getexif()
    assert b"camera" not in picture.jpeg
    assert kept.size == (picture.width, picture.height) == (800, 2400)


def _bomb() -> bytes:
    """A PNG that says it is 30,000 x 30,000."""
    out = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"just text, renamed to jpg", "not a picture"),
        (_jpeg()[:900], "damaged|not a picture"),
        (b"\0" * 15_000_001, "at most 15 MB"),
        (_bomb(), "unfolds"),
        (b"GIF89a" + b"\0" * 100, "not a picture"),
    ],
    ids=["empty", "text", "cut", "large", "bomb", "gif"],
)
def test_what_is_no_picture_is_refused(data: bytes, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_photo(data)
