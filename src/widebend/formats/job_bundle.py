"""A whole job to carry to another shop: a zip of what was wanted, survey, design, scans and pictures, hours, log.

Who the customer is stays behind: the other shop has its own.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..core.errors import DesignError
from ..core.quoting import STEPS
from ..core.records import Design, Survey
from .design_json import json_object, read_design, write_design
from .survey_bundle import Bundle, entry, opened_zip, read_survey, write_bundle

FORMAT, VERSION = "widebend-job", 2
MOST_BYTES = 4_000_000
TEXTS = {
    "title": 120,
    "wanted": 4000,
    "complaint": 4000,
    "road_use": 20,
    "found_removed": 1000,
    "vehicle": 120,
    "plate": 20,
}
MOST_LOG = 2000


@dataclass(frozen=True)
class JobBundle:
    """A job's words, its design (without its survey), its survey with files; minutes planned; what was noted (kind,
    words, cause, minutes).
    """

    words: Mapping[str, str]
    design: Design
    survey: Bundle
    planned: Mapping[str, float] = field(default_factory=dict)
    log: Sequence[Mapping[str, Any]] = ()


def write_job(bundle: JobBundle) -> bytes:
    """The job as a zip."""
    out = io.BytesIO(write_bundle(bundle.survey.survey, bundle.survey.meshes, bundle.survey.photos))
    about = {
        "format": FORMAT,
        "version": VERSION,
        **bundle.words,
        "planned": dict(bundle.planned),
        "log": [dict(one) for one in bundle.log],
    }
    with zipfile.ZipFile(out, "a", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("job.json", json.dumps(about, indent=2, ensure_ascii=False) + "\n")
        packed.writestr("design.json", write_design(bundle.design.replace(survey=Survey())))
    return out.getvalue()


def read_job(data: bytes) -> JobBundle:
    """A job from a zip. Raises DesignError with the place and the reason: it is taken in whole or not at all."""
    if data[:2] != b"PK":
        raise DesignError("", "this is no zip: choose the bundle of a job")
    with opened_zip(data) as packed:
        about = json_object(entry(packed, "job.json", MOST_BYTES), MOST_BYTES, "job")
        design = read_design(entry(packed, "design.json", MOST_BYTES))
    if about.get("format") != FORMAT:
        raise DesignError("format", f"this is not a job of Wide Bend: its format should be “{FORMAT}”")
    about = _upgraded(about)
    if about.get("version") != VERSION:
        raise DesignError("version", f"this program reads jobs up to version {VERSION}")
    words = {key: _text(about, key, most) for key, most in TEXTS.items()}
    if not words["title"].strip() or not words["vehicle"].strip():
        raise DesignError("title", "a job has a title and a vehicle")
    if words["road_use"] not in ("road", "closed course"):
        raise DesignError("road_use", "road, or closed course")
    return JobBundle(words, design, read_survey(data), _planned(about), _log(about))


def _upgraded(about: dict[str, Any]) -> dict[str, Any]:
    """Return a job as of now that a program before 0.13 wrote: it called the complaint otherwise."""
    if about.get("version") != 1:
        return about
    return {"complaint" if key == "hurts" else key: value for key, value in about.items()} | {"version": VERSION}


def _text(about: Mapping[str, Any], key: str, most: int) -> str:
    text = about.get(key, "")
    if not isinstance(text, str) or len(text) > most or any(ord(c) < 32 and c not in "\n\r\t" for c in text):
        raise DesignError(key, f"words, at most {most} letters")
    return text


def _planned(about: Mapping[str, Any]) -> dict[str, float]:
    found = about.get("planned", {})
    if not isinstance(found, dict) or any(
        step not in STEPS or not isinstance(much, int | float) or not 0 <= much < 1e5 for step, much in found.items()
    ):
        raise DesignError("planned", "minutes of each step")
    return {str(step): float(much) for step, much in found.items()}


def _log(about: Mapping[str, Any]) -> list[dict[str, Any]]:
    found = about.get("log", [])
    if not isinstance(found, list) or len(found) > MOST_LOG:
        raise DesignError("log", f"a list of at most {MOST_LOG} notes")
    out = []
    for one in found:
        if not isinstance(one, dict):
            raise DesignError("log", "each a note")
        minutes = one.get("minutes", 0)
        if not isinstance(minutes, int) or not 0 <= minutes <= 10_000:
            raise DesignError("log", "minutes from 0 to 10 000")
        texts = {key: _text(one, key, most) for key, most in (("kind", 20), ("words", 2000), ("cause", 40))}
        out.append({**texts, "minutes": minutes})
    return out
