"""An invented shop, its customers, vehicles and jobs. No real person, make, brand or place.

May import core and store.
"""

from __future__ import annotations

from ..core.records import Design, Rules
from ..store import jobs
from ..store.database import Connection, queries
from .examples import cat_back, hatch_survey, new_settings

__all__ = ["fill"]


def fill(connection: Connection) -> bool:
    """Fill an empty database with the demo shop; False when there is a shop already."""
    if queries.shop(connection) is not None:
        return False
    jobs.set_shop(connection, "Long Bend Exhausts", Rules())
    bays = [
        int(queries.add_bay(connection, name=name, position=i)) for i, name in enumerate(("Lift 1", "Lift 2", "Floor"))
    ]
    estate = jobs.add_customer_and_vehicle(
        connection, "Mara Quill", "555 0142", "estate, rear-drive, 2.4 turbo", "WB 118"
    )
    cat_back_design = cat_back()
    intake = jobs.Intake(
        "cat-back 63.5 x 1.5, 304",
        "Quieter on the motorway, no drone at 110. Keeps the cat. One tip on the right.",
        "Rattle at the rear over bumps, soot at the middle clamp.",
    )
    first = jobs.add(connection, estate, intake, cat_back_design.survey, cat_back_design)
    jobs.put_in_bay(connection, first, bays[0])

    hatch = jobs.add_customer_and_vehicle(
        connection, "Tomas Arbor", "555 0177", "hatchback, front-drive, 1.8 turbo", "QB 204"
    )
    downpipe = jobs.Intake(
        "downpipe 76.2 x 1.5, 304",
        "A downpipe from the turbine to the tunnel, flex joint in it, sensor boss kept.",
        "Cracked at the flange.",
    )
    second = jobs.add(connection, hatch, downpipe, hatch_survey(), Design(settings=new_settings()))
    jobs.put_in_bay(connection, second, bays[1])

    pickup = jobs.add_customer_and_vehicle(connection, "Ines Halloran", "555 0120", "long pickup, ladder frame", "")
    waiting = jobs.Intake("muffler swap, side exit", "Deeper note, nothing below the rails.", "Muffler rusted through.")
    third = jobs.add(connection, pickup, waiting, Design().survey, Design(settings=new_settings()))
    jobs.change(connection, third, waiting, "muffler on order, due Thursday")
    return True
