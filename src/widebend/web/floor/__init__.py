"""The shop floor: lifts and jobs, a new job and its intake, the shop's rule book and what it can do."""

from . import customers, equipment, floor, intake, rules, talk

BLUEPRINTS = (
    customers.room,
    equipment.room,
    floor.room,
    intake.room,
    rules.room,
    talk.room,
)
