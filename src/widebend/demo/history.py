"""A year of finished work of the invented shop: who came, what was made, hours planned and taken, what went wrong."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta
from typing import Any

from ..core.quoting import STEPS, totals
from ..core.records import USUAL_MINUTES, Design, Pricing, Survey, WorkStep
from ..store import board, customers, handovers, hours, jobs
from ..store.database import Connection, queries

# customer, phone, vehicle, plate, the job, how big it is beside the usual one
DONE = (
    ("Sela Brandt", "555 0101", "van, rear-drive, diesel", "PT 611", "tail pipe and muffler, 60", 0.5),
    ("Orrin Vale", "555 0102", "coupe, rear-drive", "VA 220", "cat-back 63.5, 304", 1.0),
    ("Dita Morrow", "555 0103", "hatchback, front-drive", "DM 77", "downpipe 76.2, pie cuts", 1.2),
    ("Kesh Arlen", "555 0104", "pickup, ladder frame", "", "side exits, 76.2", 1.1),
    ("Lune Abbot", "555 0105", "saloon, all-drive", "LA 505", "rear section, two tips", 0.8),
    ("Mara Quill", "555 0142", "trailer van", "WB 300", "muffler swap", 0.4),
    ("Fenn Otway", "555 0107", "roadster, rear-drive", "FO 18", "X-pipe and mid-section, 57", 0.9),
    ("Greta Holm", "555 0108", "estate, front-drive", "GH 440", "flex and front pipe, 50.8", 0.5),
    ("Orrin Vale", "555 0102", "coupe, rear-drive", "VA 220", "resonator against drone", 0.4),
    ("Ylva Strand", "555 0110", "classic saloon", "YS 56", "whole system, mild steel", 1.6),
    ("Tavi Renn", "555 0111", "track hatchback", "", "76.2 straight through, V-bands", 1.3),
    ("Ines Halloran", "555 0120", "long pickup, ladder frame", "", "dual outlet behind the wheels", 1.2),
)
# what this shop's steps take of the usual: it is slow at fitting up and quick at the saw
TAKES: dict[WorkStep, float] = {
    "remove old": 1.4,
    "cut": 0.8,
    "face": 1.1,
    "fit up": 1.35,
    "tack": 1.0,
    "weld": 0.9,
    "purge": 1.2,
    "hangers": 1.1,
    "refits": 1.5,
    "finish": 0.9,
    "test": 0.8,
}
COUNTS: dict[WorkStep, float] = {
    "remove old": 1,
    "cut": 14,
    "face": 28,
    "fit up": 16,
    "tack": 14,
    "weld": 3.0,
    "purge": 14,
    "hangers": 4,
    "refits": 4,
    "finish": 14,
    "test": 1,
}
MISTAKES = (
    ("cut 20 short over the axle", "bent over", 35, 1800),
    ("tip one size too small ordered", "wrong part", 15, 3650),
    ("no room for the clamp's bolt", "no access", 50, 0),
)
WHO = ("Ada", "Rhea")


def promises(connection: Connection, first: int) -> None:
    """Return the promises of open jobs, and what they wait for; the first ones' hours as they were agreed on."""
    today = datetime.now().astimezone().date()
    for job, promised, waits_on, until, waits_for in (
        (first, 2, "", None, ""),
        (first + 1, 5, "", None, ""),
        (first + 2, 9, "part", 4, "muffler on order"),
        (first + 3, 4, "", None, ""),
        (first + 5, None, "customer", None, "a yes to the quote"),
    ):
        board.promise(
            connection,
            job,
            today + timedelta(days=promised) if promised else None,
            waits_on,
            today + timedelta(days=until) if until else None,
            waits_for,
        )
    for job, size in ((first, 0.9), (first + 3, 1.5)):
        hours.plan(connection, job, {str(step): size * COUNTS[step] * USUAL_MINUTES[step] for step in STEPS})


def _invoice(customer: str, kind: str, title: str, size: float, rng: random.Random) -> dict[str, Any]:
    """Return the price of such a job: metal and parts by its size, hours as they were estimated."""
    rates = Pricing()
    hours_said = round(size * sum(COUNTS[step] * USUAL_MINUTES[step] for step in STEPS) / 60.0, 1)
    lines = []
    for group, cost, share in (("metal", 9000, rates.metal_markup), ("parts", 16_000, rates.parts_markup)):
        spent = round(size * cost * rng.uniform(0.8, 1.2))
        lines.append(
            {
                "group": group,
                "words": group,
                "count": 1,
                "unit": "",
                "each": round(spent * (1 + share)),
                "price": round(spent * (1 + share)),
                "ask": "",
                "cost": spent,
            }
        )
    lines.append(
        {
            "group": "work",
            "words": "work",
            "count": hours_said,
            "unit": "h",
            "each": rates.hour,
            "price": round(hours_said * rates.hour),
            "ask": "",
            "cost": 0,
        }
    )
    due = totals((int(str(line["price"])) for line in lines), rates.tax, 0.0)
    sums = {"net": due.net, "tax": due.tax, "total": due.total, "deposit": 0}
    return {
        "title": title,
        "vehicle": kind,
        "customer": customer,
        "road_use": "road",
        "words": "",
        "currency": "",
        "tax": rates.tax,
        "deposit": 0.0,
        "cautions": [],
        "changes": None,
        "against": [],
        "revision": 1,
        "paid": 0,
        "offers": [{"name": title, "key": "", "lines": lines, "totals": sums, "design": {}}],
    }


def past_year(connection: Connection) -> None:
    """Every finished job, the oldest first, spread over the year that ends now."""
    rng, now = random.Random(3), datetime.now(UTC)  # noqa: S311 - no secret
    vehicles: dict[tuple[str, str], int] = {}
    for k, (name, phone, kind, plate, title, size) in enumerate(DONE):
        key = (name, kind)
        if key not in vehicles:
            known = customers.find(connection, phone).customers
            vehicles[key] = (
                int(queries.add_vehicle(connection, customer_id=known[0]["id"], kind=kind, plate=plate))
                if known
                else jobs.add_customer_and_vehicle(connection, name, phone, kind, plate)
            )
        made = now - timedelta(days=350 - 28 * k)
        job = jobs.add(connection, vehicles[key], jobs.Intake(title), Survey(), Design())
        queries.date_job(connection, job_id=job, made_at=made)
        jobs.set_state(connection, job, "done")
        planned = {step: size * COUNTS[step] * USUAL_MINUTES[step] for step in STEPS}
        hours.plan(connection, job, {str(step): minutes for step, minutes in planned.items()})
        at = made + timedelta(days=1)
        for step in STEPS:
            took = timedelta(minutes=planned[step] * TAKES[step] * rng.lognormvariate(0.0, 0.15))
            queries.add_clock(connection, job_id=job, step=step, who=WHO[k % 2], started_at=at, ended_at=at + took)
            at += took + timedelta(minutes=12)
        handovers.add_invoice(connection, job, _invoice(name, kind, title, size, rng), WHO[k % 2], at)
        if k % 4 == 1:
            words, cause, minutes, cost = MISTAKES[k // 4]
            hours.note(
                connection, job, "mistake", words, WHO[k % 2], cause=cause, minutes=minutes, cost=cost, made_at=at
            )
