"""The quote of a job: what it costs as designed, what a wish costs, what is offered; sent as a link, said yes to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from flask import Blueprint, Response, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...core.quoting import Offer, OfferLine, TipChange, changed_lines, tips_changed
from ...core.records import Design, Pricing
from ...core.wording import say
from ...store import cards, handovers, hours, jobs, quotes, revisions
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import number, whole
from ..page.money import parse_money
from ..page.people import who_is_here
from .job_price import PricedDesign, Rates, as_revision, as_wished, priced

room = Blueprint("quote", __name__, url_prefix="/jobs/<int:job_id>/quote")

MOST_OFFERS = 4
LEAST_CHANGE = 0.0005  # of a metre, a kilogram or a piece: lines are rounded to three figures
MOST_DRAWN = 40  # earlier revisions to choose from


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState())


def render(here: AtHand, said: FormState, code: int = 200, token: str = "") -> ResponseReturnValue:
    """The page; `token` is of the link that was made just now, and shown this once."""
    with transaction() as connection:
        rates = Rates.of(connection, here.job.id)
        sent, paid = quotes.of_job(connection, here.job.id), handovers.payments(connection, here.job.id)
        planned, agreed = hours.planned(connection, here.job.id), quotes.agreed(connection, here.job.id)
        plain, why, wished = None, "", []
        try:
            plain = priced(connection, here, rates, _card())
            if request.values.get("wishes") == "yes":
                wished = _asked_for(connection, here, rates)
        except InputError as exc:
            why, said.errors = ("", {"": str(exc)}) if plain else (str(exc), said.errors)
        known = cards.find(connection, "", None) if plain is None or plain.key else []
        drawn = [
            (str(one.number), f"{one.number}: {one.why}")
            for one in reversed(revisions.since(connection, here.job.design_id, 0))
            if one.number != here.number
        ]
    kept = [(str(one["id"]), f"{one['name']}, {one['vehicle']}") for one in known]
    return render_template(
        "office/quote.html",
        here=here,
        step="quote",
        said=said,
        plain=plain,
        why=why,
        sent=sent,
        agreed=agreed,
        pricing=rates.pricing,
        lacking=list(dict.fromkeys(ask for r in wished for ask in r.offer.unpriced)),
        wished=[_wish_row(r, plain) for r in wished if plain],
        drawn=drawn[:MOST_DRAWN],
        asked=request.values.get("wishes") == "yes",
        again=request.args.get("again", ""),
        link=url_for("link.show", token=token, _external=True) if token else "",
        rows=_rows(plain) if plain else [],
        change=_change(plain, agreed),
        tips=tips_not_agreed(here, agreed_on(agreed)),
        who=who_is_here(),
        paid=sum(one["amount"] for one in paid),
        planned=planned,
        jobs_known=len(rates.past),
        cards=kept,
        card=_card(),
    ), code


def _asked_for(connection: Connection, here: AtHand, rates: Rates) -> list[PricedDesign]:
    """Return the alternatives wished for, and an earlier revision beside."""
    number_asked = whole(request.values.get("revision"))
    beside = [as_revision(connection, here, rates, number_asked)] if number_asked > 0 else []
    return [*beside, *(r for _, r in as_wished(connection, here, rates))]


def _card() -> int:
    """The card that a rough quote is made by, where one is named."""
    return int(number(request.values.get("card"), 0))


def _rows(one: PricedDesign) -> list[dict[str, Any]]:
    """The hours by step: estimated, as the shop's history has them."""
    hours_now = one.offer.hours
    return [
        {"step": step, "hours": much, "factor": hours_now.factors[step]}
        for step, much in hours_now.by_step.items()
        if much > 0
    ]


def _wish_row(one: PricedDesign, plain: PricedDesign) -> dict[str, Any]:
    return {
        "key": one.key,
        "words": one.offer.name,
        "spoils": one.spoils,
        "hours": one.offer.hours.hours - plain.offer.hours.hours,
        "more": one.offer.totals.total - plain.offer.totals.total,
        "total": one.offer.totals.total,
        "unpriced": one.offer.unpriced,
    }


def against(now: Mapping[str, Any] | None, agreed: Mapping[str, Any] | None) -> list[tuple[str, int, int]]:
    """Lines of an offer that differ from what was agreed on."""
    if now is None or agreed is None:
        return []
    was, is_now = ({line["words"]: int(line["price"]) for line in one["lines"]} for one in (agreed, now))
    return changed_lines(was, is_now)


def agreed_on(quote: quotes.Quote | None) -> Mapping[str, Any] | None:
    """The offer of a quote that the customer said yes to."""
    if quote is None or not quote.answered:
        return None
    found: Mapping[str, Any] = quote.content["offers"][int(quote.answered["offer"])]
    return found


def not_agreed(now: Offer, agreed: Mapping[str, Any]) -> list[tuple[str, float, float]]:
    """Return the differences between what a job takes now and what was agreed on, by its words: how much was, and is.
    Rates, and hours as the shop's history has them, are frozen at the yes: they are no change.
    """
    was, takes = defaultdict[str, float](float), defaultdict[str, float](float)
    for line in agreed["lines"]:
        was[line["words"]] += float(line["count"]) if line["group"] != "work" else 0.0
    for one in now.lines:
        takes[one.words] += one.count if one.group != "work" else 0.0
    return [
        (words, was[words], takes[words]) for words in {**was, **takes} if abs(was[words] - takes[words]) > LEAST_CHANGE
    ]


def tips_not_agreed(here: AtHand, agreed: Mapping[str, Any] | None) -> list[TipChange]:
    """Tips of another size than the customer saw and said yes to."""
    return tips_changed(Design.model_validate(agreed["design"]), here.design) if agreed and agreed.get("design") else []


def _change(plain: PricedDesign | None, agreed: quotes.Quote | None) -> dict[str, Any] | None:
    """Return the job's price now against the agreed one, where it takes something else."""
    was = agreed_on(agreed)
    if plain is None or was is None or not not_agreed(plain.offer, was):
        return None
    more = plain.offer.totals.total - int(was["totals"]["total"])
    return {"was": int(was["totals"]["total"]), "now": plain.offer.totals.total, "more": more, "name": was["name"]}


@room.post("/price")
def price(job_id: int) -> ResponseReturnValue:
    """Set prices: of metal and what is used up for every job, of parts for this one."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        pricing, told = quotes.pricing(connection, hold=True), dict[str, int]()
        of_job = {
            line.key
            for line in priced(connection, here, Rates.of(connection, job_id), _card()).offer.lines
            if line.of_job
        }
        for key, text in request.form.items():
            if key.startswith("price:") and text.strip():
                try:
                    told[key.removeprefix("price:")[:120]] = parse_money(text)
                except ValueError as exc:
                    raise EditError(str(exc), key) from exc
        if not told:
            raise EditError("type what at least one of them costs")
        own = {words: cost for words, cost in told.items() if words in of_job}
        quotes.set_job_prices(connection, job_id, quotes.job_prices(connection, job_id) | own)
        each = pricing.each | {words: cost for words, cost in told.items() if words not in own}
        quotes.set_pricing(connection, Pricing.model_validate(pricing.model_dump() | {"each": each}))

    asked = request.form.get("wishes") or None
    card = _card() or None
    return run_edit(job_id, said, keep, render, lambda: url_for("quote.show", job_id=job_id, wishes=asked, card=card))


@room.post("/send")
def send(job_id: int) -> ResponseReturnValue:
    """Freeze the quote as it is, with what is offered beside, and make its link."""
    said = FormState()
    with transaction() as connection:
        here = at_hand(connection, job_id, hold=True)
        rates = Rates.of(connection, job_id)
        wanted = request.form.getlist("offer")[:MOST_OFFERS]
        try:
            offers = [priced(connection, here, rates, _card())]
            offers += [r for r in _asked_for(connection, here, rates) if r.key in wanted] if wanted else []
            lacks = list(dict.fromkeys(ask for one in offers for ask in one.offer.unpriced))
            if lacks:
                raise EditError(f"no price yet: {', '.join(lacks)}")
        except (InputError, EditError) as exc:
            said.errors = {"": str(exc)}
            return render(here, said, 422)
        agreed = quotes.agreed(connection, job_id)
        content = _frozen(here, offers, rates.pricing, request.form.get("words", "").strip()[:2000], agreed)
        _, token = quotes.send(connection, job_id, content, here.number, rates.pricing.valid_days, who_is_here())
        shop = jobs.shop_name(connection)
    said.note = f"The quote of {shop} is ready: give the customer its link."
    return render(here, said, 200, token)


def _frozen(
    here: AtHand, offers: list[PricedDesign], pricing: Pricing, words: str, agreed: quotes.Quote | None
) -> dict[str, Any]:
    """A quote as it is kept: nothing in it changes when prices, rules or the design do."""
    cautions = [say(f, here.design, g.unit) for f in here.found.findings if f.code in CAUTIONS]
    if here.job.found_removed:
        cautions.append(f"Found at intake: {here.job.found_removed}")
    was, frozen = agreed_on(agreed), [frozen_offer(one) for one in offers]
    return {
        "rough": bool(offers[0].key),
        "title": here.job.title,
        "vehicle": here.job.vehicle,
        "road_use": here.job.road_use,
        "words": words,
        "currency": pricing.currency,
        "tax": pricing.tax,
        "deposit": pricing.deposit,
        "cautions": cautions,
        "changes": agreed.id if agreed else None,
        "was": int(was["totals"]["total"]) if was else None,
        "against": against(frozen[0], was),
        "offers": frozen,
    }


CAUTIONS = ("emissions", "use-unsaid", "class", "side-exit", "ends-under", "blows")


def frozen_offer(one: PricedDesign) -> dict[str, Any]:
    """An offer as it is kept, with its design."""
    offer: Offer = one.offer
    return {
        "name": offer.name,
        "key": one.key,
        "lines": [_line(line) for line in offer.lines],
        "hours": {
            "best": offer.hours.hours,
            "low": offer.hours.low,
            "high": offer.hours.high,
            "jobs": offer.hours.jobs,
            "minutes": {step: h * 60 for step, h in offer.hours.by_step.items()},
            "estimated": {step: h * 60 / offer.hours.factors[step] for step, h in offer.hours.by_step.items()},
        },
        "totals": {
            "net": offer.totals.net,
            "tax": offer.totals.tax,
            "total": offer.totals.total,
            "deposit": offer.totals.deposit,
        },
        "design": jobs.dump(one.design),
    }


def _line(line: OfferLine) -> dict[str, Any]:
    return {
        "group": line.group,
        "words": line.words,
        "count": line.count,
        "unit": line.unit,
        "each": line.each,
        "price": line.price,
        "ask": line.ask,
        "cost": line.cost,
    }


@room.post("/withdraw")
def withdraw(job_id: int) -> Response:
    """Take a quote back: its link opens no more."""
    with transaction() as connection:
        jobs.get(connection, job_id)
        quotes.withdraw(connection, job_id, whole(request.form.get("quote")))
    return redirect(url_for("quote.show", job_id=job_id), 303)  # type: ignore[return-value]


@room.post("/take")
def take(job_id: int) -> ResponseReturnValue:
    """Make what the customer said yes to the job's design."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        offer = agreed_on(quotes.agreed(connection, job_id))
        if offer is None:
            raise EditError("the customer has not said yes yet")
        chosen = Design.model_validate(offer["design"])
        keep_design(connection, here, chosen, f"as the customer wants it: {offer['name']}", base=here.number)
        said.note = "The job is what the customer said yes to."

    return run_edit(job_id, said, keep, render, lambda: url_for("quote.show", job_id=job_id))


@room.get("/<int:quote_id>.pdf")
def paper(job_id: int, quote_id: int) -> Response:
    """A quote on paper, as it was sent."""
    from ...formats.papers.quote import PAPERS, write_quote

    size = request.args.get("paper", "a4")
    with transaction() as connection:
        jobs.get(connection, job_id)
        one = next((q for q in quotes.of_job(connection, job_id) if q.id == quote_id), None)
        shop = jobs.shop_name(connection)
    if one is None or size not in PAPERS:
        raise InputError("that quote is not of this job")
    data = write_quote(shop, one.content, one.id, f"{one.sent_at:%Y-%m-%d}", f"{one.expires_at:%Y-%m-%d}", size)
    return Response(
        data, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="quote-{one.id}.pdf"'}
    )
