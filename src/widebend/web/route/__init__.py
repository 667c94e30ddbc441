"""The Route step: strips, line-up and findings, ways found and taken."""

from . import answers, bench, edits, finding

__all__ = ["BLUEPRINTS", "answers", "edits"]  # these two add their pages to the bench's room

BLUEPRINTS = (
    bench.room,
    finding.room,
)
