"""The hand-over: checks in order, sound before and after, what was fitted, the invoice with what changed, one pack."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...core.handover import checks_for, fitted
from ...core.quoting import TipChange
from ...core.sound import judged
from ...store import handovers, jobs, quotes
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from ..page.figures import typing_unit
from ..page.money import parse_money
from ..page.people import who_is_here
from ..page.reader import Reader
from .edits import office_edit
from .job_price import Rates, as_designed
from .quote import agreed_on, frozen_offer, not_agreed, tips_not_agreed

room = Blueprint("handover", __name__, url_prefix="/jobs/<int:job_id>/handover")

AFTERCARE = (
    "It smokes and smells for the first hour of heat: oil and welding burn off.",
    "Come back after 500 km or two weeks: it is tightened again hot.",
    "Scraping, a new rattle, soot at a joint, a smell inside: come back at once and do not wait.",
)  # common practice, no source


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _page(here, FormState())


def _page(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        over = handovers.get(connection, here.job.id)
        bills = handovers.invoices(connection, here.job.id)
        bill, why = _bill(connection, here)
        paid = handovers.payments(connection, here.job.id)
        currency = bill.currency if bill else quotes.pricing(connection).currency
    due = bills[0].content["offers"][0]["totals"]["total"] if bills else bill.offer["totals"]["total"] if bill else None
    checks = [(key, words, over.checks.get(key)) for key, words in checks_for(here.design)]
    return render_template(
        "office/handover.html",
        here=here,
        step="handover",
        said=said,
        over=over,
        checks=checks,
        bills=bills,
        who=who_is_here(),
        bill=bill,
        due=due,
        tips=bill.tips if bill else (),
        why=why,
        currency=currency,
        aftercare=AFTERCARE,
        left=list(_left_open(here, over, bills)),
        paid=paid,
        paid_in_all=sum(one["amount"] for one in paid),
        heard=[judged(r) for r in here.design.sounds],
        open_checks=sum(done is None for _, _, done in checks),
        lines=list(fitted(here.design, here.system, g.unit)),
    ), code


@dataclass(frozen=True)
class Bill:
    """The amount to pay: the agreed offer, line by line, with the tax of that day; without a yes, what the
    job comes to now. `since` is what the job takes now and nobody agreed on: it is not billed.
    """

    offer: Mapping[str, Any]
    tax: float
    currency: str
    quote: int | None = None
    since: tuple[tuple[str, float, float], ...] = ()
    tips: tuple[TipChange, ...] = ()


def _bill(connection: Connection, here: AtHand) -> tuple[Bill | None, str]:
    """Return the bill, or why there is none."""
    pricing, quote = quotes.pricing(connection), quotes.agreed(connection, here.job.id)
    agreed = agreed_on(quote)
    try:
        now, why = as_designed(connection, here, Rates.of(connection, here.job.id)), ""
    except InputError as exc:
        now, why = None, str(exc)
    if quote is not None and agreed is not None:
        since = tuple(not_agreed(now.offer, agreed)) if now else ()
        return Bill(
            agreed,
            quote.content["tax"],
            quote.content["currency"],
            quote.id,
            since,
            tuple(tips_not_agreed(here, agreed)),
        ), ""
    return (Bill(frozen_offer(now), pricing.tax, pricing.currency), "") if now else (None, why)


def _left_open(here: AtHand, over: handovers.HandOver, bills: list[handovers.Invoice]) -> Iterator[str]:
    """Return the open points before a hand-over."""
    unmade = [words for key, words in checks_for(here.design) if key not in over.checks]
    if unmade:
        more = f" and {len(unmade) - 1} more" if len(unmade) > 1 else ""
        yield f"not checked: {unmade[0]}{more}"
    spoils = sum(f.spoils for f in here.found.findings)
    if spoils:
        yield f"{spoils} finding{'s' if spoils != 1 else ''} on Route still open"
    if over.sound_after is None and not here.design.sounds:
        yield "sound after not measured"
    if not bills:
        yield "no invoice"


@room.post("/check")
def check(job_id: int) -> ResponseReturnValue:
    """A check made, or taken back."""

    def change(connection: Connection, here: AtHand, who: str) -> None:
        what = request.form.get("what", "")
        if what not in dict(checks_for(here.design)):
            raise EditError("that check is not on this job's list: the design changed since the page was opened")
        handovers.check(connection, job_id, what, who, done=request.form.get("done") == "yes")

    return _edit(job_id, change)


@room.post("/say")
def say(job_id: int) -> ResponseReturnValue:
    """How it sounded before and after, and what is said."""

    def change(connection: Connection, _here: AtHand, _who: str) -> None:
        reader = Reader(request.form, typing_unit())
        before, after = (
            reader.number(key, 0.0, 180.0) if reader.given(key) else None for key in ("sound_before", "sound_after")
        )
        reader.finish()
        handovers.say(
            connection, job_id, before, after, request.form.get("sound_how", ""), request.form.get("words", "")
        )

    return _edit(job_id, change)


@room.post("/invoice")
def invoice(job_id: int) -> ResponseReturnValue:
    """Make the invoice, once: what was agreed on, or without a quote what the job comes to now, frozen."""

    def change(connection: Connection, here: AtHand, who: str) -> None:
        bill, why = _bill(connection, here)
        if bill is None:
            raise EditError(why)
        if any(line.get("ask") for line in bill.offer["lines"]):
            raise EditError("some of it has no price yet: see the quote")
        content = {
            "title": here.job.title,
            "vehicle": here.job.vehicle,
            "customer": here.job.customer,
            "road_use": here.job.road_use,
            "words": "",
            "currency": bill.currency,
            "tax": bill.tax,
            "deposit": 0.0,
            "cautions": [],
            "changes": None,
            "offers": [dict(bill.offer) | {"design": {}}],
            "against": [],
            "revision": here.number,
            "quote": bill.quote,
            "paid": sum(one["amount"] for one in handovers.payments(connection, job_id)),
        }
        handovers.add_invoice(connection, job_id, content, who or "the shop")

    return _edit(job_id, change)


@room.post("/pay")
def pay(job_id: int) -> ResponseReturnValue:
    """Something was paid, before work began or after; given back, with a minus."""

    def change(connection: Connection, _here: AtHand, who: str) -> None:
        text = request.form.get("amount", "").strip()
        try:
            amount = parse_money(text.removeprefix("-"))
        except ValueError as exc:
            raise EditError(str(exc), "amount") from exc
        sign = -1 if text.startswith("-") else 1
        handovers.pay(connection, job_id, sign * amount, request.form.get("paid_words", ""), who)

    return _edit(job_id, change)


@room.post("/done")
def done(job_id: int) -> ResponseReturnValue:
    """Hand it over: with nothing left open, or knowing what is."""

    def change(connection: Connection, here: AtHand, _who: str) -> None:
        left = list(_left_open(here, handovers.get(connection, job_id), handovers.invoices(connection, job_id)))
        if left and request.form.get("anyway") != "yes":
            raise EditError("; ".join(left), "anyway")
        jobs.set_state(connection, job_id, "done")

    return _edit(job_id, change)


@room.post("/back")
def back(job_id: int) -> ResponseReturnValue:
    """Bring a job back that was handed over by mistake, or that came again."""

    def change(connection: Connection, _here: AtHand, _who: str) -> None:
        jobs.set_state(connection, job_id, "open")

    return _edit(job_id, change)


def _edit(job_id: int, change: Callable[[Connection, AtHand, str], None]) -> ResponseReturnValue:
    return office_edit(job_id, change, _page, url_for("handover.show", job_id=job_id))


@room.get("/pack.pdf")
def pack(job_id: int) -> Response:
    """One pack for the customer: what was fitted, checks, sound, cautions, aftercare, the invoice."""
    from ...formats.papers.handover import HandOverPack, write_pack
    from ...formats.papers.quote import PAPERS

    paper = request.args.get("paper", "a4")
    with transaction() as connection:
        here = at_hand(connection, job_id)
        over, shop = handovers.get(connection, job_id), jobs.shop_name(connection)
        bill = next(iter(handovers.invoices(connection, job_id)), None)
    made = [
        (words, f"{over.checks[key][0]}, {over.checks[key][1]:%d %b %Y %H:%M}" if key in over.checks else "")
        for key, words in checks_for(here.design)
    ]
    logged = [
        f"{one.reading.fitted or 'not said'}, {one.reading.test} at {one.reading.rpm:.0f} rpm: {one.db_a} dB(A)"
        for one in map(judged, here.design.sounds)
    ]
    sound = [
        f"{word}: {value:g} dB(A)"
        for word, value in (("before", over.sound_before), ("after", over.sound_after))
        if value is not None
    ]
    whole = HandOverPack(
        shop,
        f"job {job_id}, {here.job.vehicle}: {here.job.title}",
        [(line.what, line.words) for line in fitted(here.design, here.system, g.unit)],
        made,
        ", ".join([*sound, *([over.sound_how] if over.sound_how and sound else []), *logged]),
        over.words,
        AFTERCARE,
        (bill.number, f"{bill.made_at:%Y-%m-%d}", bill.content) if bill else None,
    )
    data = write_pack(whole, paper if paper in PAPERS else "a4")
    return Response(
        data,
        mimetype="application/pdf",
        headers={"Content-Disposition": f'inline; filename="job-{job_id}-handover.pdf"'},
    )
