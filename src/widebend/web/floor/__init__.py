"""The shop floor: lifts and jobs, a new job and its intake, the shop's rule book."""

from . import floor, intake, rules

BLUEPRINTS = (
    floor.room,
    intake.room,
    rules.room,
)
