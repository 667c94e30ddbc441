"""A job that goes out comes in the same; what is no job is refused whole."""

from __future__ import annotations

import io
import json
import zipfile

import pytest

from widebend.core.errors import DesignError
from widebend.core.records import Survey
from widebend.demo.hung import twin_hung
from widebend.demo.systems import twin_x
from widebend.formats.job_bundle import JobBundle, read_job, write_job
from widebend.formats.survey_bundle import Bundle

WORDS = {
    "title": "twin",
    "wanted": "=1+1",
    "complaint": "<b>",
    "road_use": "road",
    "found_removed": "",
    "vehicle": "coupe",
    "plate": "",
}


def _bundle() -> JobBundle:
    design = twin_hung(twin_x())
    log = [{"kind": "mistake", "words": "cut short", "cause": "other", "minutes": 5}]
    return JobBundle(WORDS, design, Bundle(design.survey), {"weld": 75.0}, log)


def test_round_trip_is_equal() -> None:
    made = _bundle()
    back = read_job(write_job(made))
    assert back.words == made.words
    assert back.design == made.design.replace(survey=Survey())
    assert back.survey.survey == made.survey.survey
    assert (back.planned, list(back.log)) == (made.planned, list(made.log))


def _with(name: str, text: str) -> bytes:
    """The bundle with one of its files another."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(write_job(_bundle()))) as old, zipfile.ZipFile(out, "w") as new:
        for one in old.namelist():
            new.writestr(one, text if one == name else old.read(one))
    return out.getvalue()


def test_a_job_that_an_older_program_wrote_is_read() -> None:
    """Version 1 called the complaint `hurts`."""
    with zipfile.ZipFile(io.BytesIO(write_job(_bundle()))) as packed:
        about = json.loads(packed.read("job.json"))
    about = {"hurts" if key == "complaint" else key: value for key, value in about.items()} | {"version": 1}
    assert read_job(_with("job.json", json.dumps(about))).words == WORDS


@pytest.mark.parametrize(
    ("name", "changes", "says"),
    [
        ("job.json", {"format": "other"}, "not a job"),
        ("job.json", {"version": 9}, "version 2"),
        ("job.json", {"title": ""}, "a title"),
        ("job.json", {"road_use": "moon"}, "closed course"),
        ("job.json", {"planned": {"dance": 3}}, "minutes of each step"),
        ("job.json", {"log": [7]}, "each a note"),
        ("job.json", {"wanted": "x" * 5000}, "at most 4000"),
        ("job.json", {"wanted": "\x07"}, "words"),
    ],
)
def test_what_is_wrong_is_said(name: str, changes: dict[str, object], says: str) -> None:
    with zipfile.ZipFile(io.BytesIO(write_job(_bundle()))) as whole:
        about = json.loads(whole.read(name))
    with pytest.raises(DesignError, match=says):
        read_job(_with(name, json.dumps(about | changes)))


def test_no_zip_and_half_a_zip() -> None:
    whole = write_job(_bundle())
    for data in (b"hello", whole[: len(whole) // 2], _with("design.json", "{}"), _with("survey.json", "[]")):
        with pytest.raises(DesignError):
            read_job(data)
