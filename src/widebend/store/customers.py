"""Customers and their vehicles: found by what anybody remembers, merged where they are one, erased at their wish."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from ..core.errors import EditError, MissingError
from .database import Connection, queries

LEAST_ALIKE = 0.45  # of word similarity: two letters wrong in a name of seven are forgiven
MOST = 12


@dataclass(frozen=True)
class Found:
    """Return the matches of the search box, the likeliest first."""

    customers: list[dict[str, Any]]
    vehicles: list[dict[str, Any]]
    jobs: list[dict[str, Any]]
    cards: list[dict[str, Any]]
    stock: list[dict[str, Any]]

    @property
    def nothing(self) -> bool:
        return not (self.customers or self.vehicles or self.jobs or self.cards or self.stock)


def find(connection: Connection, text: str) -> Found:
    """Customers with their latest jobs, vehicles, jobs, cards, things on the shelf: by name, phone, plate, kind, title
    or number, typing mistakes forgiven.
    """
    words = " ".join(text.split())[:80]
    if not words:
        return Found([], [], [], [], [])
    digits = re.sub(r"\D", "", words)
    plate = re.sub(r"[^a-z0-9]", "", words.lower())
    queries.alike(connection, least=LEAST_ALIKE)
    number = int(words) if words.isdecimal() and len(words) < 9 else -1
    return Found(
        list(queries.find_customers(connection, words=words, digits=digits if len(digits) >= 3 else "", most=MOST)),
        list(queries.find_vehicles(connection, words=words, plate=plate if len(plate) >= 3 else "", most=MOST)),
        list(queries.find_jobs(connection, words=words, number=number, most=MOST)),
        list(queries.cards(connection, words=words, wheelbase=None, most=MOST)),
        list(queries.find_stock(connection, words=words, most=MOST)),
    )


@dataclass(frozen=True)
class Customer:
    """A customer with all work on their vehicles, and others that may be the same person."""

    id: int
    name: str
    phone: str
    erased: bool
    vehicles: list[dict[str, Any]]
    jobs: list[dict[str, Any]]
    like: list[dict[str, Any]]


def get(connection: Connection, customer_id: int) -> Customer:
    """One customer. Raises MissingError."""
    row = queries.customer(connection, customer_id=customer_id)
    if row is None:
        raise MissingError("there is no such customer")
    erased = row["erased_at"] is not None
    like = [] if erased else list(queries.customers_like(connection, customer_id=customer_id))
    return Customer(
        row["id"],
        row["name"],
        row["phone"],
        erased,
        list(queries.vehicles_of(connection, customer_id=customer_id)),
        list(queries.jobs_of_customer(connection, customer_id=customer_id)),
        like,
    )


def change(connection: Connection, customer_id: int, name: str, phone: str) -> None:
    """Another name or phone. Raises EditError."""
    plain = " ".join(name.split())
    if not 1 <= len(plain) <= 120:
        raise EditError("a name, at most 120 letters", "name")
    if len(phone.strip()) > 40:
        raise EditError("at most 40 characters", "phone")
    queries.change_customer(connection, customer_id=customer_id, name=plain, phone=phone.strip())


def change_vehicle(connection: Connection, customer_id: int, vehicle_id: int, kind: str, plate: str) -> None:
    """Another description or plate; a new vehicle where `vehicle_id` is 0. Raises EditError."""
    plain = " ".join(kind.split())
    if not 1 <= len(plain) <= 120:
        raise EditError("what vehicle is it? For example: van, rear-drive", "kind")
    if len(plate.strip()) > 20:
        raise EditError("at most 20 characters", "plate")
    if vehicle_id:
        queries.change_vehicle(
            connection, customer_id=customer_id, vehicle_id=vehicle_id, kind=plain, plate=plate.strip()
        )
    else:
        queries.add_vehicle(connection, customer_id=customer_id, kind=plain, plate=plate.strip())


def merge(connection: Connection, customer_id: int, into: int) -> None:
    """One person who was entered twice: all vehicles become the other's. Raises EditError, MissingError."""
    if customer_id == into:
        raise EditError("that is the same customer")
    other, gone = get(connection, into), get(connection, customer_id)
    if gone.erased or other.erased:
        raise EditError("one of them was erased")
    queries.move_vehicles(connection, customer_id=customer_id, into=into)
    if gone.phone and not other.phone:
        queries.change_customer(connection, customer_id=into, name=other.name, phone=gone.phone)
    queries.drop_customer(connection, customer_id=customer_id)


def erase(connection: Connection, customer_id: int) -> None:
    """Take a person out of the books: name, phone, plates, what they said; jobs, hours and money stay."""
    get(connection, customer_id)
    for query in (
        queries.erase_customer,
        queries.erase_plates,
        queries.erase_job_words,
        queries.erase_walk_rounds,
        queries.erase_answers,
    ):
        query(connection, customer_id=customer_id)
