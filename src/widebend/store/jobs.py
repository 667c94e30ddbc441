"""Customers, vehicles, jobs, bays and the shop's rule book."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError, MissingError
from ..core.records import Design, Equipment, Rules, Settings, Survey
from . import revisions
from .database import Connection, queries


@dataclass(frozen=True)
class Job:
    """A job with who brought what, and its documents; its quote is "sent", "agreed" or none."""

    id: int
    title: str
    wanted: str
    complaint: str
    road_use: str
    found_removed: str
    waits_for: str
    state: str
    bay_id: int | None
    vehicle_id: int
    vehicle: str
    plate: str
    customer: str
    phone: str
    survey_id: int
    design_id: int
    quote: str


@dataclass(frozen=True)
class OpenJob:
    """A job as the shop floor shows it: its newest revisions, and what was worked out of it last, if anything."""

    id: int
    title: str
    wanted: str
    road_use: str
    waits_for: str
    bay_id: int | None
    vehicle: str
    customer: str
    survey_id: int
    design_id: int
    survey_revision: int
    design_revision: int
    nest_made: datetime | None
    made_from: str | None
    step: str | None
    words: str | None
    figure: str | None


LAST_VEHICLES, MOST_LISTED, LATELY, MOST_COPIED = 40, 200, 400, 12
STATES = ("open", "done", "put away", "deleted")


@dataclass(frozen=True)
class Intake:
    """Store of the intake."""

    title: str
    wanted: str = ""
    complaint: str = ""
    road_use: str = "road"
    found_removed: str = ""


def get(connection: Connection, job_id: int) -> Job:
    """One job. Raises MissingError when there is none."""
    row = queries.job(connection, job_id=job_id)
    if row is None:
        raise MissingError(f"there is no job {job_id}")
    return Job(**row)


def hold(connection: Connection, job: Job) -> None:
    """Nobody else appends to a job's survey or design until this transaction ends."""
    list(queries.lock_documents(connection, documents=[job.survey_id, job.design_id]))


def open_jobs(connection: Connection) -> list[OpenJob]:
    return [OpenJob(**row) for row in queries.floor_jobs(connection)]


def set_state(connection: Connection, job_id: int, state: str) -> None:
    """Open, hand over, put away or delete a job; nothing of it is lost by any of them."""
    queries.set_state(connection, job_id=job_id, state=state)


def in_states(connection: Connection, *states: str) -> list[dict[str, Any]]:
    """Jobs in some states, the last of them, newest first."""
    return list(queries.jobs_in_state(connection, states=list(states), most=MOST_LISTED))


def count_in_states(connection: Connection, *states: str) -> int:
    """How many jobs are in some states."""
    return int(queries.count_in_state(connection, states=list(states)))


def keep_summary(connection: Connection, job_id: int, made_from: str, step: str, words: str, figure: str) -> None:
    """Keep what the floor needs of a job beside what it was worked out from."""
    queries.keep_summary(connection, job_id=job_id, made_from=made_from, step=step, words=words, figure=figure)


def add_customer_and_vehicle(connection: Connection, name: str, phone: str, kind: str, plate: str) -> int:
    """A new customer with a vehicle; the vehicle's id."""
    customer = queries.add_customer(connection, name=name, phone=phone)
    return int(queries.add_vehicle(connection, customer_id=customer, kind=kind, plate=plate))


def add(connection: Connection, vehicle_id: int, intake: Intake, survey: Survey, design: Design) -> int:
    """A new job with its first survey (kept when the vehicle has one) and design; its id."""
    job_id = int(
        queries.add_job(
            connection,
            vehicle_id=vehicle_id,
            title=intake.title,
            wanted=intake.wanted,
            complaint=intake.complaint,
            road_use=intake.road_use,
            found_removed=intake.found_removed,
        )
    )
    if queries.job(connection, job_id=job_id)["survey_id"] is None:
        survey_id = int(queries.add_survey(connection, vehicle_id=vehicle_id))
        revisions.first(connection, survey_id, dump(survey), "new survey")
    design_id = int(queries.add_design(connection, job_id=job_id))
    revisions.first(connection, design_id, dump(design.replace(survey=Survey())), "new design")
    return job_id


def change(connection: Connection, job_id: int, intake: Intake, waits_for: str) -> None:
    queries.change_job(
        connection,
        job_id=job_id,
        title=intake.title,
        wanted=intake.wanted,
        complaint=intake.complaint,
        road_use=intake.road_use,
        found_removed=intake.found_removed,
        waits_for=waits_for,
    )


def put_in_bay(connection: Connection, job_id: int, bay_id: int | None) -> None:
    """Put a job on a lift; what stood there waits. None takes it off."""
    if bay_id is not None:
        queries.lock_bay(connection, bay_id=bay_id)  # two who put a job here at once: the second comes after
        queries.clear_bay(connection, bay_id=bay_id)
    queries.put_in_bay(connection, job_id=job_id, bay_id=bay_id)


def in_bay(connection: Connection, bay_id: int) -> int | None:
    """The job that stands on a lift. Held: nobody else puts one there until this transaction ends."""
    queries.lock_bay(connection, bay_id=bay_id)
    row = queries.job_in_bay(connection, bay_id=bay_id)
    return int(row["id"]) if row else None


def with_something_fitted(connection: Connection, most: int) -> list[int]:
    """Jobs with something on the vehicle, the newest first."""
    return [row["id"] for row in queries.fitted_jobs(connection, most=most)]


def with_something_heard(connection: Connection, most: int) -> list[int]:
    """Jobs with something in their sound log, the newest first."""
    return [row["id"] for row in queries.sounded_jobs(connection, most=most)]


def bays(connection: Connection) -> list[dict[str, Any]]:
    """The shop's lifts, in their order."""
    return list(queries.bays(connection))


def vehicles(connection: Connection, also: int = 0) -> list[dict[str, Any]]:
    """The vehicles that were here last, with whose they are; and one by its number."""
    return list(queries.vehicles(connection, also=also, most=LAST_VEHICLES))


def surveyed_vehicles(connection: Connection, vehicle_id: int, kind: str) -> list[dict[str, Any]]:
    """Other vehicles whose survey can be copied: those of the same kind first."""
    return list(
        queries.surveyed_vehicles(connection, vehicle_id=vehicle_id, kind=kind, lately=LATELY, most=MOST_COPIED)
    )


def survey_of_vehicle(connection: Connection, vehicle_id: int) -> Survey:
    """The newest survey of a vehicle. Raises EditError when it has none."""
    row = queries.newest_survey_of_vehicle(connection, vehicle_id=vehicle_id)
    if row is None:
        raise EditError("that vehicle has no survey")
    return Survey.model_validate(row["content"])


def shop_name(connection: Connection) -> str:
    """Return the shop's name; empty before it has books."""
    row = queries.shop(connection)
    return str(row["name"]) if row else ""


def is_demo(connection: Connection) -> bool:
    """Whether these books are the demo's, whatever it is called now."""
    row = queries.shop(connection)
    return bool(row and row["is_demo"])


def rules(connection: Connection) -> Rules:
    """The shop's rule book, or the defaults."""
    row = queries.shop(connection)
    return Rules.model_validate(row["rules"]) if row else Rules()


def equipment(connection: Connection, *, hold: bool = False) -> Equipment:
    """Return the shop's equipment; held, nobody else changes it until this transaction ends."""
    row = queries.equipment_held(connection) if hold else queries.equipment(connection)
    return Equipment.model_validate(row["equipment"]) if row else Equipment()


def set_equipment(connection: Connection, able: Equipment) -> None:
    queries.set_equipment(connection, equipment=Jsonb(dump(able)))


def set_shop(connection: Connection, name: str, rule_book: Rules) -> None:
    queries.set_shop(connection, name=name, rules=Jsonb(dump(rule_book)))


def open_shop(connection: Connection) -> bool:
    """Begin the books of a shop: a name to be changed, the default rules, two lifts. False when there is one."""
    if queries.shop(connection) is not None:
        return False
    set_shop(connection, "Our shop", Rules())
    for position, name in enumerate(("Lift 1", "Lift 2")):
        queries.add_bay(connection, name=name, position=position)
    return True


def stand_ins_answer(connection: Connection) -> bool:
    """Whether the shop lets stand-ins of measuring tools answer."""
    row = queries.shop(connection)
    return bool(row and row["stand_ins"])


def let_stand_ins(connection: Connection, let: bool) -> None:
    """Let stand-ins of measuring tools answer in this shop, or not."""
    queries.let_stand_ins(connection, let=let)


def dump(record: Survey | Design | Rules | Settings | Equipment) -> dict[str, Any]:
    """A record as it is stored."""
    return record.model_dump(mode="json", exclude_none=True)
