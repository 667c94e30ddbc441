"""How large what is uploaded may be: files are larger than forms, each kind has its own limit."""

from __future__ import annotations

from flask import request

from ...formats import mesh_files, survey_bundle

MOST_PICTURE, MOST_PHOTOS = 16_000_000, 240_000_000
MOST = {
    "survey_files.scan": mesh_files.MOST_BYTES,
    "survey_files.photo": MOST_PICTURE,
    "card.photo": MOST_PICTURE,
    "talk.seen": MOST_PICTURE,
    "hours.note": MOST_PICTURE,
    "shots.photos_in": MOST_PHOTOS,
    "carrying.take_in": survey_bundle.MOST_UNPACKED_BYTES // 4,
    "survey_files.survey": survey_bundle.MOST_UNPACKED_BYTES // 4,
}
FORM_ROUND_IT = 100_000


def allow_files() -> None:
    """Asked before anything reads the request's form."""
    most = MOST.get(request.endpoint or "")
    if most:
        request.max_content_length = most + FORM_ROUND_IT
