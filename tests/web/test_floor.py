"""The shop floor: what a list needs is worked out once, a bad record spoils nothing else, jobs leave and return."""

import json
import struct

import pytest
from psycopg.types.json import Jsonb

from tests.web.conftest import Visitor
from widebend.core.geometry import as_kept, indexed
from widebend.store import jobs, revisions
from widebend.store.database import Database
from widebend.web.floor import floor


def _words(visitor: Visitor) -> list[str]:
    return [a.get_text(" ", strip=True) for a in visitor.get("/").select("a.next")]


def test_what_the_floor_shows_is_worked_out_once(visitor: Visitor, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(floor, "MOST_WORKED_OUT", 100)
    before = _words(visitor)
    counted: list[int] = []
    real = floor._worked_out
    monkeypatch.setattr(floor, "_worked_out", lambda c, job, made: (counted.append(job.id), real(c, job, made))[1])
    assert _words(visitor) == before
    assert counted == []
    visitor.post("/jobs/101/route?piece=p9", "/jobs/101/route/set", value="222", then="carry")
    _words(visitor)
    assert counted == [101]


def test_a_record_that_cannot_be_checked_is_set_aside(visitor: Visitor, database: Database) -> None:
    """What an older program let in (here: not even a list) spoils its own job only, and says so."""
    with database.transaction() as connection:
        job = jobs.get(connection, 101)
        newest = revisions.newest(connection, job.survey_id)
        connection.execute(
            "INSERT INTO revisions (document_id, number, content, why) VALUES (%s, %s, %s, 'damaged')",
            [job.survey_id, newest.number + 1, Jsonb({"things": "none"})],
        )
    words = _words(visitor)
    assert "This job cannot be checked its record is damaged: see the log" in words
    assert len([w for w in words if "cannot be checked" in w]) == 1


def test_a_bundle_with_a_mesh_of_no_numbers_is_refused(visitor: Visitor) -> None:
    import hashlib
    import io
    import zipfile

    for corner in (float("nan"), float("inf")):
        kept = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, corner, 0)
        name = hashlib.sha256(kept).hexdigest()
        shape = {"type": "mesh", "sha256": name, "low": [0, 0, 0], "high": [1, 1, 0], "triangles": 1}
        survey = {"format": "widebend-survey", "version": 1, "things": [{"id": "m", "name": "m", "shape": shape}]}
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as packed:
            packed.writestr("survey.json", json.dumps(survey))
            packed.writestr(f"meshes/{name}.triangles", kept)
        out.seek(0)
        form = visitor.form("/jobs/101/underbody/files", "/jobs/101/underbody/survey")
        hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
        answer = visitor.client.post("/jobs/101/underbody/survey", data={**hidden, "file": (out, "odd.zip")})
        assert answer.status_code == 422
        assert "not a number" in answer.get_data(as_text=True)


def test_a_mesh_kept_by_an_older_program_is_as_good_as_not_here(visitor: Visitor, database: Database) -> None:
    from widebend.core.errors import InputError
    from widebend.core.records import MeshShape, Survey, Thing
    from widebend.store import files

    bad = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, float("nan"), 0)
    with pytest.raises(InputError):
        indexed(bad)
    with database.transaction() as connection:
        name = files.keep(connection, "mesh", bad)
        shape = MeshShape(sha256=name, low=(0, 0, 0), high=(1, 1, 0), triangles=1)
        held = files.with_meshes(connection, Survey(things=(Thing(id="m", name="m", shape=shape),)))
    assert held.mesh(name) is None


def test_a_mesh_that_is_its_own_upload_outlives_it(database: Database) -> None:
    """In mm with its axes as they are a scan is kept byte for byte as it came."""
    import numpy as np

    from widebend.store import files

    kept = as_kept(np.eye(3)[None] * 100)
    with database.transaction() as connection:
        name = files.keep(connection, "upload", kept)
        assert files.keep(connection, "mesh", kept) == name
        connection.execute("UPDATE files SET made_at = now() - interval '2 days'")
        files.forget_uploads(connection)
        assert files.find(connection, "mesh", name) == kept
        assert files.find(connection, "upload", name) is None


def test_a_job_is_handed_over_put_away_deleted_and_brought_back(visitor: Visitor) -> None:
    def listed() -> list[str]:
        return [p.text for p in visitor.get("/").select(".floor-title")]

    everyone = listed()
    for page, action, values in (
        ("/jobs/101/handover", "/jobs/101/handover/done", {"anyway": "yes"}),
        ("/", "/jobs/101/state", {"state": "put away"}),
    ):
        visitor.post(page, action, **values)
        assert not any("Job 101" in title for title in listed())
        assert "Job 101" in visitor.get("/jobs/away").text
        visitor.post("/jobs/away", "/jobs/101/state", state="open")
        assert sorted(listed()) == sorted(everyone)
    visitor.post("/", "/jobs/101/state", state="put away")
    visitor.post("/jobs/away", "/jobs/101/state", state="deleted")
    page = visitor.get("/jobs/away")
    assert "undo the delete" in page.text
    visitor.post("/jobs/away", "/jobs/101/state", state="put away")
    visitor.post("/jobs/away", "/jobs/101/state", state="open")
    assert sorted(listed()) == sorted(everyone)


def test_a_tick_is_for_the_piece_as_it_was_cut(visitor: Visitor) -> None:
    """Ticked and then drawn longer, a piece is not cut: the card says that it was cut to an older drawing."""
    card = "/jobs/101/cut/card"
    key = visitor.get(card).select_one("input[name=piece]")["value"]
    visitor.post(card, card, outcome="done", at="1", piece=key, run="r1")
    assert "1 of 15 cut" in visitor.get("/jobs/101/cut").text
    visitor.post(f"/jobs/101/route?piece={key}", "/jobs/101/route/set", value="777", then="carry")
    page = visitor.get("/jobs/101/cut")
    assert "of 15 cut" not in page.text
    assert "to an older drawing" in page.text
    assert "another shape now" in visitor.get(f"{card}?at=1").text


def test_a_control_character_is_refused_in_words(visitor: Visitor) -> None:
    whole = visitor.get("/jobs/101/route?piece=a%00b", 422)
    assert "cannot be written" in whole.text
    part = visitor.client.get("/jobs/101/route?piece=a%00b", headers={"HX-Request": "true"})
    assert part.status_code == 422
    assert b"<html" not in part.data  # a fragment into the bench, not a page into a page


def test_the_demo_is_put_away_and_a_new_shop_is_led_to_its_first_job(visitor: Visitor) -> None:
    """Nothing of the demo is lost: it stands among what was put away."""
    assert visitor.get("/").select_one("#own-shop")
    given = visitor.post("/", "/demo/put-away", 200).select_one("code").text
    visitor.post("/account", "/account/password", old=given, password="an own password", again="an own password")
    floor = visitor.get("/")
    assert "invented" not in floor.text
    assert "draw in" in floor.select_one(".first-job").text
    assert "Our shop" in floor.text
    assert "Mara Quill" in visitor.get("/jobs/away").text


def test_a_job_does_not_throw_another_off_its_lift_unasked(visitor: Visitor) -> None:
    page = visitor.get("/")
    stands = page.select(".bays .bay:not(.empty) .floor-title")[0].get_text().split()[1]
    waits = page.select("[aria-label='Waiting'] .floor-title")[0].get_text().split()[1]
    asked = visitor.post("/", f"/jobs/{waits}/bay", code=409, bay="1")
    assert f"Job {stands} stands on" in asked.get_text()
    form = asked.select_one(".notice.tight[role=alert]")
    hidden = {i["name"]: i["value"] for i in form.select("input[type=hidden]")}
    assert visitor.client.post(form["action"], data=hidden | {"bay": "1"}).status_code == 303
    assert stands in visitor.get("/").select_one("[aria-label='Waiting']").get_text()


def test_only_a_record_that_cannot_be_read_is_kept_as_damaged(
    visitor: Visitor, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(*_: object) -> None:
        raise RuntimeError("a passing fault")

    with monkeypatch.context() as patched:
        patched.setattr("widebend.web.floor.floor.next_action", fails)
        assert "cannot be checked" not in visitor.get("/").get_text()
    seen = visitor.get("/").get_text()
    assert "cannot be checked" not in seen
    assert "not worked out yet" not in visitor.get("/").get_text()
    assert seen


def test_intake_changed_in_two_tabs_and_after_it_was_signed(visitor: Visitor) -> None:
    intake = "/jobs/101/intake"
    values = {
        i["name"]: i.get_text() or i.get("value", "")
        for i in visitor.form(intake, intake).select("[name]")
        if i.get("type") != "radio"
    }
    visitor.post(intake, f"{intake}/sign", signed_name="M. Quill")
    assert "M. Quill" in visitor.get(intake).get_text()
    assert visitor.client.post(intake, data=values | {"road_use": "road", "wanted": "deeper"}).status_code == 303
    assert "M. Quill" not in visitor.get(intake).get_text()  # what was signed was something else
    refused = visitor.client.post(intake, data=values | {"road_use": "road", "complaint": "drone"})
    assert refused.status_code == 409
    assert "deeper" in refused.get_data(as_text=True)
