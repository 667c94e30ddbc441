"""A van surveyed with a camera: its photos, what each saw, what is known beside them, and what became of it.

All of it is made by `assets/demo_photos.py` with the simulated phone; nothing is reckoned when the shop is filled.
"""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from ..core.photos import Sighting
from ..core.records import Design, Settings, Survey
from ..core.units import Length
from ..formats.tag_photos import read_tag_photo
from ..store import jobs, tag_photos
from ..store.database import Connection

PHOTOS = Path(__file__).parent / "photos"
CLR_MM = 90.0


@cache
def _made() -> dict[str, Any]:
    made: dict[str, Any] = json.loads((PHOTOS / "van.json").read_text())
    return made


def van_survey() -> Survey:
    """The outcome of the photos."""
    return Survey.model_validate(_made()["survey"])


def add_van(connection: Connection) -> int:
    """The customer, the van, the job with its survey and its photos: the job's number."""
    van = jobs.add_customer_and_vehicle(
        connection, "Ruben Castell", "555 0133", "van, rear-drive, 2.3 diesel", "HV 760"
    )
    intake = jobs.Intake(
        "rear section 60.3, 409",
        "A new rear section, the old one as the pattern.",
        "Perforated behind the middle rubber.",
    )
    survey = van_survey()
    job = jobs.add(connection, van, intake, survey, Design(settings=Settings(clr_mm=(Length(CLR_MM),))))
    for row in _made()["photos"]:
        stripped = read_tag_photo((PHOTOS / row["file"]).read_bytes())
        photo = replace(stripped, focal_px=row["focal_px"], lens=row["lens"])
        seen = tuple(Sighting(number, np.array(corners)) for number, corners in row["seen"])
        tag_photos.add(connection, job, photo, seen, "", "Ada")
    tag_photos.set_known(connection, job, tag_photos.known_from(_made()["known"]))
    return job
