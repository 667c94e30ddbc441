"""Surveying with a camera as pages: tags printed, photos in, placed, taken into the survey."""

from __future__ import annotations

import io
import re
import subprocess
import threading
from pathlib import Path

import cv2
import numpy as np
import pytest

from tests.photo_scenes import Tags, facing, pictures
from widebend.core.photos import SetName, Solved
from widebend.instruments.simulated_phone import Phone
from widebend.instruments.stand_in_phone import StandInPhone
from widebend.instruments.tag_finder import look
from widebend.instruments.taking import Tool
from widebend.store.database import Database
from widebend.web.page.at_hand import LruCache
from widebend.web.underbody import placed_tags
from widebend.work import photos as photos_work
from widebend.work import searches
from widebend.work.searches import do_search

from .conftest import Visitor

CAMERA = "/jobs/102/underbody/camera"


def _scene() -> Tags:
    """A short underside whose hubs, rails, bolt and tank are tagged."""
    tags: Tags = {n: (facing((0, 0, -1), (1, 0, 0)), np.array([0.0, y, 330.0])) for n, y in ((310, -380), (311, 380))}
    for k, (x, y) in enumerate(((150, -300), (150, 300), (800, -300), (800, 300))):
        tags[270 + k] = facing((0, 0, -1), (0, -np.sign(y), 0)), np.array([float(x), float(y), 340.0])
    tags[200] = facing((0, 0.1, -1)), np.array([450.0, 30.0, 400.0])
    tags[100] = facing((0, 0, -1)), np.array([350.0, -150.0, 380.0])
    tags[101] = facing((0.1, 0, -1)), np.array([650.0, 120.0, 370.0])
    tags[0] = facing((-0.1, 0.1, -1)), np.array([550.0, -80.0, 390.0])
    return tags


@pytest.fixture(scope="module")
def photos() -> list[bytes]:
    return pictures(np.random.default_rng(8), _scene(), 8, Phone.of(24, 1800, 1350), 900.0)


def _sent(visitor: Visitor, files: list[tuple[bytes, str]], code: int = 303) -> bytes:
    form = visitor.form(CAMERA, f"{CAMERA}/photos")
    token = {i["name"]: i["value"] for i in form.select("input[type=hidden]")}
    data = {**token, "photos": [(io.BytesIO(one), name) for one, name in files]}
    answer = visitor.client.post(f"{CAMERA}/photos", data=data)
    assert answer.status_code == code, answer.data[:500]
    return answer.data


@pytest.mark.usefixtures("large_posts")
def test_photos_become_a_survey(visitor: Visitor, photos: list[bytes]) -> None:
    _sent(visitor, [(one, f"{k}.jpg") for k, one in enumerate(photos)])
    page = visitor.get(CAMERA)
    assert len(page.select("[aria-label=Photos] tbody tr")) == len(photos)
    assert "how high" in page.get_text()
    visitor.post(
        CAMERA, f"{CAMERA}/known", heights="340 340", tapes="270 273 832.4", names="100 tank\n101 tank\n200 bolt"
    )
    page = visitor.get(CAMERA)
    taken = {i["value"] for i in page.select("input[name=take]")}
    assert {"tag-200", "box-100", "rails"} <= taken
    assert page.select(".tags-below rect")
    form = visitor.form(CAMERA, f"{CAMERA}/take")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    answer = visitor.client.post(f"{CAMERA}/take", data={**hidden, "take": ["tag-200", "box-100", "rails"]})
    assert answer.status_code == 303
    survey = visitor.client.get("/jobs/102/design.json").json["survey"]
    (bolt,) = (h for h in survey["hang_points"] if h["id"] == "tag-200")
    turn, middle = _scene()[200]
    assert bolt["point"] == pytest.approx(middle + turn @ np.array([0, -48.0, 0]), abs=3.0)
    assert 0 < bolt["plus_minus_mm"] < 4.0
    tank = next(t for t in survey["things"] if t["name"] == "tank")
    assert tank["how_measured"] == "by photo"
    assert "from what is there" in visitor.get(CAMERA).get_text()
    assert "no place under the vehicle" in visitor.get(f"{CAMERA}/over/999", 422).get_text()
    first = page.select_one("a[href*='/over/']")["href"]
    over = visitor.get(first)
    assert "No planned pipe lies before this photo" in over.get_text()  # nothing is designed in this job yet
    _point(visitor, photos)
    visitor.post(CAMERA, f"{CAMERA}/known", heights="340 340", tapes="270 273 885")
    assert "than they were printed" in visitor.get(CAMERA).get_text()


def _point(visitor: Visitor, photos: list[bytes]) -> None:
    """The middle of tag 0 as if it were a bare spot: tapped where it is seen, it has the tag's place."""
    page = visitor.get(CAMERA)
    ids = [row["href"].rsplit("/", 1)[1].split(".")[0] for row in page.select("[aria-label=Photos] tbody th a")]
    seen = [
        (number, {s.number: s.corners for s in look(photo).seen}) for number, photo in zip(ids, photos, strict=True)
    ]
    with_it = [(number, corners[0].mean(axis=0)) for number, corners in seen if 0 in corners]
    for k, (number, at) in enumerate((with_it[0], with_it[-1])):
        url = f"{CAMERA}/over/{number}"
        x, y = (round(float(v) * 1200 / 1800) for v in at)
        visitor.post(url, f"{CAMERA}/point/{number}", **{"name": "a rivet", "at.x": str(x), "at.y": str(y)})
        text = visitor.get(url).get_text()
        assert ("point at it in a second photo" in text) == (k == 0)
    assert visitor.get(f"{CAMERA}/over/{with_it[1][0]}").select(".sight-line")
    row = next(o for o in visitor.get(CAMERA).select("input[name=take]") if o["value"] == "mark-spot-a-rivet")
    numbers = [float(v) for v in re.findall(r"-?\d+", row.find_parent("label").get_text().split(" at ")[1])[:3]]
    assert numbers == pytest.approx(_scene()[0][1], abs=4.0)
    visitor.post(f"{CAMERA}/over/{with_it[0][0]}", f"{CAMERA}/forget", name="a rivet")
    assert "a rivet" not in visitor.get(CAMERA).get_text()


@pytest.mark.usefixtures("large_posts")
def test_one_that_cannot_be_read_stops_none_of_the_others(visitor: Visitor, photos: list[bytes]) -> None:
    text = _sent(visitor, [(photos[0], "a.jpg"), (b"\x00\x00\x00\x18ftypheicxxxx", "b.heic")], 422).decode()
    assert "b.heic: this is a HEIC picture" in text
    page = visitor.get(CAMERA)
    assert len(page.select("[aria-label=Photos] tbody tr")) == 1
    _sent(visitor, [(photos[0], "again.jpg")])
    assert len(visitor.get(CAMERA).select("[aria-label=Photos] tbody tr")) == 1  # the same is kept once
    shown = page.select_one("[aria-label=Photos] tbody a")["href"]
    assert visitor.client.get(shown).data[:2] == b"\xff\xd8"
    visitor.post(CAMERA, f"{CAMERA}/let-go", photo=shown.rsplit("/", 1)[1].split(".")[0])
    assert visitor.client.get(shown).status_code == 404


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [
        ("tapes", "270 273", "2 tag numbers, then 1 length"),
        ("tapes", "1 2 far", "1 2 far"),
        ("names", "9999 x", "a tag"),
        ("heights", "340", "2 lengths"),
        ("bar", "9", "80"),
        ("places", "1 2 3", "1 tag number, then 3 lengths"),
    ],
)
def test_what_is_typed_wrong_is_said_at_its_place_and_kept(
    visitor: Visitor, field: str, typed: str, words: str
) -> None:
    page = visitor.post(CAMERA, f"{CAMERA}/known", 422, **{field: typed})
    assert words in page.select_one(".field-error").get_text()
    there = page.select_one(f"[name={field}]")
    assert (there.get("value") or there.get_text()) == typed


@pytest.mark.parametrize("job", ["face", "corner", "bolt", "flange disc", "rail", "cuff"])
def test_a_printed_tag_is_found_and_is_as_large_as_it_says(visitor: Visitor, tmp_path: Path, job: str) -> None:
    """Rendered at 150 to the inch: the detector finds the numbers, their sides measure 60 mm (22 on a cuff)."""
    (tmp_path / "tags.pdf").write_bytes(visitor.client.get(f"{CAMERA}/tags.pdf?job={job}").data)
    subprocess.run(["pdftoppm", "-r", "150", "-png", tmp_path / "tags.pdf", tmp_path / "page"], check=True)
    page = cv2.imread(str(next(iter(sorted(tmp_path.glob("page*.png"))))))
    jpeg = cv2.imencode(".jpg", page)[1].tobytes()
    found = look(jpeg).seen
    assert len(found) >= 4
    side = 22.0 if job == "cuff" else 60.0
    for one in found:
        long = np.linalg.norm(one.corners - np.roll(one.corners, 1, axis=0), axis=1) / 150 * 25.4
        assert long == pytest.approx(np.full(4, side), abs=0.4)


VAN = "/jobs/120/underbody/camera"  # the demo's, photographed beforehand


def test_many_photos_are_placed_on_the_queue(visitor: Visitor, monkeypatch: pytest.MonkeyPatch) -> None:
    at_once = visitor.get(VAN).select(".tags-below rect")
    monkeypatch.setattr(placed_tags, "AT_ONCE", 5)
    assert visitor.get(VAN).select_one("#have-placed")
    visitor.post(VAN, f"{VAN}/place")
    page = visitor.get(VAN)
    assert page.select_one("#progress") and not page.select_one("#have-placed")
    database = visitor.client.application.extensions["database"]
    with database.transaction() as connection:
        (row,) = connection.execute("SELECT id FROM searches WHERE wish ->> 'kind' = 'photos'").fetchall()
    drawn = []
    monkeypatch.setattr(photos_work, "FIRST_FEW", 10)
    tell = searches._tell
    monkeypatch.setattr(searches, "_tell", lambda *args: (tell(*args), drawn.append(visitor.get(VAN))))
    do_search(database, row["id"])
    assert 5 < len(drawn[0].select(".tags-below rect")) < len(at_once)  # the first few, before all are placed
    assert "the first 10 photos" in drawn[0].select_one("#progress").get_text()
    answer = visitor.client.get(f"{VAN}/progress")
    assert answer.headers["HX-Redirect"].endswith("set=ride")
    page = visitor.get(VAN)
    assert [str(one) for one in page.select(".tags-below rect")] == [str(one) for one in at_once]
    visitor.post(VAN, f"{VAN}/known", heights="330 345", names="0 another name")  # another tape is another question
    assert visitor.get(VAN).select_one("#have-placed")


def test_all_photos_are_let_go(visitor: Visitor) -> None:
    form = visitor.form(VAN, f"{VAN}/let-go")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    visitor.client.post(f"{VAN}/let-go", data={**hidden, "photo": "all"})
    assert not visitor.get(VAN).select("[aria-label=Photos] tbody tr")
    assert visitor.get("/jobs/120/underbody").select("table, li")  # what became of them stays


def test_the_simulated_phone_takes_photos(visitor: Visitor) -> None:
    with StandInPhone() as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        visitor.client.application.extensions["tools"]["phone"] = Tool(server.address, stand_in=True)
        for _ in range(2):  # pressed again, it walks on
            visitor.post(CAMERA, f"{CAMERA}/shoot", many="1")
        server.shutdown()
    page = visitor.get(CAMERA)
    assert len(page.select("[aria-label=Photos] tbody tr")) == 2
    known = {one["name"]: one.get_text() or one.get("value", "") for one in page.select("[name=names], [name=bar]")}
    assert "engine block" in known["names"] and known["bar"] == "100"


@pytest.mark.usefixtures("large_posts")
def test_photos_are_placed_before_any_record_is_held_and_once_for_all_processes(
    visitor: Visitor, photos: list[bytes], monkeypatch: pytest.MonkeyPatch
) -> None:
    """While they are placed nothing of the job is locked: another connection takes its record at once. Afterwards no
    process places them again.
    """
    database: Database = visitor.client.application.extensions["database"]
    _sent(visitor, [(data, f"{k}.jpg") for k, data in enumerate(photos)])
    placed: list[str] = []

    def place(which: SetName, *args: object) -> Solved:
        with database.transaction() as connection:
            connection.execute("SET LOCAL lock_timeout = '200ms'")
            connection.execute("SELECT 1 FROM jobs WHERE id = 106 FOR UPDATE")
            connection.execute("SELECT 1 FROM documents FOR UPDATE")
        placed.append(which)
        return photos_work.place(which, *args)  # type: ignore[arg-type]

    monkeypatch.setattr(placed_tags, "place", place)
    assert visitor.get(CAMERA).select_one("[aria-label='What it becomes'], #take-them, table") is not None
    assert placed == ["ride"]
    visitor.client.application.extensions["solved"] = LruCache(most=32)
    visitor.get(CAMERA)
    visitor.post(CAMERA, f"{CAMERA}/take", 422)
    assert placed == ["ride"]
