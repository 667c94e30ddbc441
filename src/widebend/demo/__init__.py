"""An invented shop, its customers, vehicles and jobs. No real person, make, brand or place.

May import core, formats and store.
"""

from __future__ import annotations

from ..core.cards import shape_of_system
from ..core.laying import system_of
from ..core.records import Design, Equipment, Pricing, Rules
from ..store import cards, jobs, people, quotes, stock
from ..store.database import Connection, queries
from .asked import ESTATE_PRICES, pricing
from .equipment import equipment
from .examples import cat_back, hatch_survey, new_settings
from .history import DONE, past_year, promises
from .hung import quad_hung, truck_hung, twin_hung
from .photographed import add_van
from .shelf import DEMO_HAND, kits, shelf
from .systems import low_truck, pie_downpipe, quad_rear, twin_x

__all__ = ["LOGINS", "SHOP", "fill", "put_away"]

SHOP = "Long Bend Exhausts"
# anybody may be one of them: the sign-in page of the demo says so, on this machine only
PEOPLE: dict[str, tuple[people.Role, str]] = {
    "Rhea": ("owner", "long-bend-demo"),
    "Ada": ("fabricator", "purge-and-weld"),
    "Jun": ("front desk", "quote-by-noon"),
}
LOGINS = {f"{name}, {role}": password for name, (role, password) in PEOPLE.items()}
CUSTOMERS = {
    "Mara Quill",
    "Tomas Arbor",
    "Ines Halloran",
    "Ivo Larkin",
    "Nell Abara",
    "Otis Frane",
    "Pia Sorrel",
    "Ruben Castell",
    *(name for name, *_ in DONE),
}


def fill(connection: Connection) -> bool:
    """Fill an empty database with the demo shop; False when there is a shop already."""
    if queries.shop(connection) is not None:
        return False
    jobs.set_shop(connection, SHOP, Rules())
    queries.set_demo(connection, is_demo=True)
    queries.let_stand_ins(connection, let=True)
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
    _whole_systems(connection, bays[2])
    for item, counted in shelf():
        stock.add(connection, item, counted, DEMO_HAND)
    for kit in kits():
        stock.add_kit(connection, kit)
    jobs.set_equipment(connection, equipment())
    past_year(connection)
    _keep_card(connection, first + 3, twin_hung(twin_x()))
    promises(connection, first)
    for name, (role, password) in PEOPLE.items():
        people.add(connection, name, role, password, must_change=False)
    quotes.set_pricing(connection, pricing())
    quotes.set_job_prices(connection, first, ESTATE_PRICES)
    add_van(connection)
    return True


def _keep_card(connection: Connection, job: int, design: Design) -> None:
    """A card of the twin, for the next coupe."""
    said = {
        "name": "twin cat-back with X",
        "engine": "V engine",
        "words": "tunnel bolts behind the X, two old rubbers",
        "watch": "Drive shafts at droop: a millimetre to spare. Measure them first.",
    }
    shape = [float(v) for v in shape_of_system(system_of(design))]
    cards.add(connection, job, "coupe, rear-drive, V engine", said, 2690, jobs.dump(design), {}, shape)


def put_away(connection: Connection) -> int:
    """Make the demo shop one's own: its jobs are put away, none deleted; its name, stand-ins, kits and the stock
    nobody booked go, its lifts and rules stay. How many jobs were put away.
    """
    invented = [job for job in jobs.in_states(connection, "open", "done") if job["customer"] in CUSTOMERS]
    for job in invented:
        jobs.set_state(connection, int(job["id"]), "put away")
    jobs.set_shop(connection, "Our shop", jobs.rules(connection))
    queries.set_demo(connection, is_demo=False)
    jobs.let_stand_ins(connection, False)
    people.forget(connection, list(PEOPLE))
    for card in cards.find(connection, "", None):
        cards.drop(connection, card["id"])
    stock.drop_untouched(connection, DEMO_HAND)
    for number, kit in stock.kits(connection):
        if kit in kits():
            stock.drop_kit(connection, number)
    if jobs.equipment(connection) == equipment():
        jobs.set_equipment(connection, Equipment())
    if quotes.pricing(connection) == pricing():
        quotes.set_pricing(connection, Pricing())
    return len(invented)


def _whole_systems(connection: Connection, bay: int) -> None:
    """Four jobs whose whole system is laid out."""
    booked = (
        (
            "Ivo Larkin",
            "555 0191",
            "coupe, rear-drive, V engine",
            "KT 902",
            twin_hung(twin_x()),
            jobs.Intake("twin cat-back with X, 63.5", "Softer note from both banks, even tips.", "Drone at 90."),
        ),
        (
            "Nell Abara",
            "555 0163",
            "pickup, lowered, ladder frame",
            "",
            truck_hung(low_truck()),
            jobs.Intake(
                "side exits, 63.5, 409",
                "Nothing below the rails, out ahead of the rear wheels.",
                "Scrapes on ramps.",
                road_use="closed course",
                found_removed="Catalysts found empty at intake, noted with the owner.",
            ),
        ),
        (
            "Otis Frane",
            "555 0118",
            "saloon, rear-drive",
            "LM 330",
            quad_hung(quad_rear()),
            jobs.Intake("quad-tip rear section, 57", "Four tips, as even as the cut-outs allow.", "Rear box rusted."),
        ),
        (
            "Pia Sorrel",
            "555 0150",
            "hatchback, front-drive, 2.0 turbo",
            "RE 517",
            pie_downpipe(),
            jobs.Intake(
                "pie-cut downpipe 76.2, wastegate branch", "Slices on show, wideband in it.", "Old one cracked."
            ),
        ),
    )
    for i, (name, phone, vehicle, plate, design, intake) in enumerate(booked):
        vehicle_id = jobs.add_customer_and_vehicle(connection, name, phone, vehicle, plate)
        job = jobs.add(connection, vehicle_id, intake, design.survey, design)
        if i == 0:
            jobs.put_in_bay(connection, job, bay)
