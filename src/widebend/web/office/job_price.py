"""The price of a job as it is designed now, and as the customer may wish it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import partial

from flask import g

from ...core.errors import InputError
from ...core.laying import system_of
from ...core.nesting import JOB_AIMS
from ...core.quoting import Offer, PastJob, Wish, corrected, estimate, offer_of, wishes
from ...core.records import Design, Pricing
from ...core.review import review
from ...store import cards, hours, job_stock, quotes, revisions, stock
from ...store.database import Connection
from ..page.at_hand import AtHand, Opened, opened, solved
from ..page.job_nest import JobNest, as_taken, nested, on_shelf

ROUGH, REVISION = "card-", "revision-"


@dataclass(frozen=True)
class Rates:
    """The shop's rates and the hours of its past jobs."""

    pricing: Pricing
    past: list[PastJob]

    @classmethod
    def of(cls, connection: Connection, job_id: int) -> Rates:
        """The rates of one job: what it took itself does not change what it costs."""
        return cls(quotes.pricing(connection), hours.past(connection, but=job_id))


@dataclass(frozen=True)
class PricedDesign:
    """One way to make the job: its key (empty as it is designed), its design, its offer, how many findings spoil it."""

    key: str
    design: Design
    offer: Offer
    spoils: int = 0


def as_designed(connection: Connection, here: AtHand, rates: Rates) -> PricedDesign:
    """The job as it is designed. Raises InputError where nothing is laid."""
    if not any(run.pieces for run in here.system.runs):
        raise InputError("nothing designed yet: route a pipe first")
    shelf, was = stock.shelf(connection), job_stock.taken(connection, here.job.id)
    job = (
        as_taken(here, shelf, was, [])
        if was and not was.beside and not was.led_by
        else nested(here, shelf, JOB_AIMS[0])
    )
    prices = quotes.job_prices(connection, here.job.id)
    return PricedDesign("", here.design, _offer(here, "as designed", job, rates.pricing, rates.past, prices))


def like_card(connection: Connection, here: AtHand, rates: Rates, card_id: int) -> PricedDesign:
    """Before there is a design: what the system of a card would cost on this job. Its key says that it is rough."""
    card = cards.get(connection, card_id)
    design = Design.model_validate(card.content)
    found = solved(design, ("card", g.sight.view), lambda: review(design, g.sight.view))
    other = replace(here, opened=Opened(design, lambda: found.system, lambda: found), bends={})
    return _priced_as(connection, other, rates, f"{ROUGH}{card_id}", f"like our card “{card.name}”")


def priced(connection: Connection, here: AtHand, rates: Rates, card_id: int) -> PricedDesign:
    """The job as it is designed; while nothing is laid, like a card. Raises InputError where neither is there."""
    try:
        return as_designed(connection, here, rates)
    except InputError:
        if not card_id:
            raise
        return like_card(connection, here, rates, card_id)


def as_revision(connection: Connection, here: AtHand, rates: Rates, number: int) -> PricedDesign:
    """The job as it was designed at another revision, under the vehicle as it is measured now: single beside twin,
    where both were drawn. Raises InputError where there is no such revision, or nothing was laid.
    """
    was = revisions.numbered(connection, here.job.design_id, number)
    if was is None:
        raise InputError(f"the design has no revision {number}")
    other = opened(connection, was, here.survey_revision, here.job.title, here.job.road_use)
    name = f"as at revision {number}: {was.why or 'the beginning'}"[:80]
    return _priced_as(connection, replace(here, opened=other, bends={}), rates, f"{REVISION}{number}", name)


def as_wished(connection: Connection, here: AtHand, rates: Rates) -> Iterator[tuple[Wish, PricedDesign]]:
    """Every wish with what it comes to."""
    for wish in wishes(here.design, here.system, rates.pricing):
        look = partial(solved, wish.design, ("wished", g.sight.view), partial(review, wish.design, g.sight.view))
        other = replace(here, opened=Opened(wish.design, partial(system_of, wish.design), look), bends={})
        yield wish, _priced_as(connection, other, replace(rates, pricing=wish.pricing), wish.key, wish.words)


def _priced_as(connection: Connection, here: AtHand, rates: Rates, key: str, name: str) -> PricedDesign:
    """Another design of the job, its metal nested again. Raises InputError where nothing is laid."""
    if not any(run.pieces for run in here.system.runs):
        raise InputError("no pipe is designed")
    job = nested(here, stock.shelf(connection), JOB_AIMS[0])
    prices = quotes.job_prices(connection, here.job.id)
    offer = _offer(here, name, job, rates.pricing, rates.past, prices)
    return PricedDesign(key, here.design, offer, sum(f.spoils for f in here.found.findings))


def _offer(
    here: AtHand, name: str, job: JobNest, pricing: Pricing, past: list[PastJob], prices: dict[str, int]
) -> Offer:
    steps = estimate(here.design, job.lists, job.welds(here), pricing)
    hours_now = corrected(steps, past)
    return offer_of(name, job.tubes, job.lines(here, "mm"), on_shelf(job.shelf), hours_now, pricing, prices)
