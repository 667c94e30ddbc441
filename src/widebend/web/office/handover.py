"""The hand-over: checks in order, sound before and after, what was fitted, the invoice with what changed, one pack."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from flask import Blueprint, Response, g, render_template, request, url_for

from ...core.errors import EditError, InputError
from ...core.handover import checks_for, fitted
from ...core.sound import judged
from ...store import handovers, jobs, quotes
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Said
from ..page.figures import typing_unit
from ..page.money import parse_money
from ..page.people import who_is_here
from ..page.reader import Reader
from .edits import office_edit
from .quote import against, agreed_on, frozen_offer
from .reckoned import Rates, as_designed

room = Blueprint("handover", __name__, url_prefix="/jobs/<int:job_id>/handover")

AFTERCARE = (
    "It smokes and smells for the first hour of heat: oil and welding burn off.",
    "Come back after 500 km or two weeks: it is tightened again hot.",
    "Scraping, a new rattle, soot at a joint, a smell inside: come back at once and do not wait.",
)  # common practice, no source


@room.get("")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _page(here, Said())


def _page(here: AtHand, said: Said, code: int = 200) -> Any:
    with transaction() as connection:
        over = handovers.get(connection, here.job.id)
        bills = handovers.invoices(connection, here.job.id)
        offer, agreed, why = _to_pay(connection, here)
        currency, paid = quotes.pricing(connection).currency, handovers.payments(connection, here.job.id)
    checks = [(key, words, over.checks.get(key)) for key, words in checks_for(here.design)]
    return render_template(
        "office/handover.html", here=here,
        step="handover", said=said, over=over, checks=checks, bills=bills, who=who_is_here(), offer=offer,
        changes=against(offer, agreed), why=why, currency=currency, aftercare=AFTERCARE,
        paid=paid, paid_in_all=sum(one["amount"] for one in paid),
        heard=[judged(r) for r in here.design.sounds], open_checks=sum(done is None for _, _, done in checks),
        lines=list(fitted(here.design, here.system, g.unit)),
    ), code  # fmt: skip


def _to_pay(connection: Connection, here: AtHand) -> tuple[dict[str, Any] | None, Mapping[str, Any] | None, str]:
    """What is to pay now, what was agreed on, or why it cannot be said."""
    agreed = agreed_on(next((q for q in quotes.of_job(connection, here.job.id) if q.answered), None))
    try:
        return frozen_offer(as_designed(connection, here, Rates.of(connection))), agreed, ""
    except InputError as exc:
        return None, agreed, str(exc)


@room.post("/check")
def check(job_id: int) -> Any:
    """A check made, or taken back."""

    def change(connection: Connection, here: AtHand, who: str) -> None:
        what = request.form.get("what", "")
        if what not in dict(checks_for(here.design)):
            raise EditError("that check is not on this job's list: the design changed since the page was opened")
        handovers.check(connection, job_id, what, who, done=request.form.get("done") == "yes")

    return _edit(job_id, change)


@room.post("/say")
def say(job_id: int) -> Any:
    """How it sounded before and after, and what is said."""

    def change(connection: Connection, _here: AtHand, _who: str) -> None:
        reader = Reader(request.form, typing_unit())
        before, after = (reader.number(key, 0.0, 180.0) if reader.given(key) else None
                         for key in ("sound_before", "sound_after"))  # fmt: skip
        reader.finish()
        handovers.say(connection, job_id, before, after, request.form.get("sound_how", ""),
                      request.form.get("words", ""))  # fmt: skip

    return _edit(job_id, change)


@room.post("/invoice")
def invoice(job_id: int) -> Any:
    """Make the invoice: what is to pay as the job is now, frozen."""

    def change(connection: Connection, here: AtHand, who: str) -> None:
        offer, agreed, why = _to_pay(connection, here)
        if offer is None:
            raise EditError(why)
        if any(line.get("ask") for line in offer["lines"]):
            raise EditError("some of it has no price yet: see the quote")
        pricing = quotes.pricing(connection)
        content = {"title": here.job.title, "vehicle": here.job.vehicle, "customer": here.job.customer,
                   "road_use": here.job.road_use, "words": "", "currency": pricing.currency, "tax": pricing.tax,
                   "deposit": 0.0, "cautions": [], "changes": None, "offers": [offer | {"design": {}}],
                   "against": against(offer, agreed), "revision": here.number,
                   "paid": sum(one["amount"] for one in handovers.payments(connection, job_id))}  # fmt: skip
        handovers.add_invoice(connection, job_id, content, who or "the shop")

    return _edit(job_id, change)


@room.post("/pay")
def pay(job_id: int) -> Any:
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
def done(job_id: int) -> Any:
    """Hand it over: with every check made, or knowing which were not."""

    def change(connection: Connection, here: AtHand, _who: str) -> None:
        made = handovers.get(connection, job_id).checks
        left = [words for key, words in checks_for(here.design) if key not in made]
        if left and request.form.get("anyway") != "yes":
            raise EditError(
                f"not looked at yet: {left[0]}" + (f", and {len(left) - 1} more" if len(left) > 1 else ""), "anyway"
            )
        jobs.put_in_bay(connection, job_id, None)
        jobs.set_state(connection, job_id, "done")

    return _edit(job_id, change)


def _edit(job_id: int, change: Callable[[Connection, AtHand, str], None]) -> Any:
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
    made = [(words, f"{over.checks[key][0]}, {over.checks[key][1]:%d %b %Y %H:%M}" if key in over.checks else "")
            for key, words in checks_for(here.design)]  # fmt: skip
    logged = [f"{one.reading.fitted or 'not said'}, {one.reading.test} at {one.reading.rpm:.0f} rpm: {one.db_a} dB(A)"
              for one in map(judged, here.design.sounds)]  # fmt: skip
    sound = [f"{word}: {value:g} dB(A)" for word, value in (("before", over.sound_before), ("after", over.sound_after))
             if value is not None]  # fmt: skip
    whole = HandOverPack(
        shop, f"job {job_id}, {here.job.vehicle}: {here.job.title}",
        [(line.what, line.words) for line in fitted(here.design, here.system, g.unit)], made,
        ", ".join([*sound, *([over.sound_how] if over.sound_how and sound else []), *logged]), over.words, AFTERCARE,
        (bill.number, f"{bill.made_at:%Y-%m-%d}", bill.content) if bill else None,
    )  # fmt: skip
    data = write_pack(whole, paper if paper in PAPERS else "a4")
    return Response(data, mimetype="application/pdf",
                    headers={"Content-Disposition": f'inline; filename="job-{job_id}-handover.pdf"'})  # fmt: skip
