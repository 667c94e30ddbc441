"""Quote, link, yes, clock and log as the office, the customer and the floor meet them; and what is refused."""

from __future__ import annotations

import io
import json
import re
from urllib.parse import urlsplit

import pytest
from bs4 import BeautifulSoup
from PIL import Image

from .conftest import Visitor

QUOTE, HOURS = "/jobs/101/quote", "/jobs/101/hours"
TYPED = {"a metre of": "8.40", "bend of": "14"}


def _sent(visitor: Visitor, *offers: str) -> str:
    """A quote sent with what is offered beside; the path of its link."""
    form = visitor.form(f"{QUOTE}?wishes=yes", f"{QUOTE}/send")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    answer = visitor.client.post(f"{QUOTE}/send", data={**hidden, "offer": list(offers), "words": "<b>hello</b>"})
    assert answer.status_code == 200, answer.data[:400]
    found = re.search(rb'class="big-link" href="([^"]+)"', answer.data)
    assert found
    return urlsplit(found[1].decode()).path


def _work_line(visitor: Visitor, step: str) -> str:
    """What the line of work says of a step, on another step's page."""
    line = visitor.get("/jobs/101/hours").select(".work-step")
    return next(" ".join(one.get_text().split()) for one in line if step in one.get_text())


def test_a_quote_says_where_every_figure_is_from(visitor: Visitor) -> None:
    page = visitor.get(QUOTE)
    cells = [row.select("td") for row in page.select(".quote-lines tbody tr")]
    net = sum(round(100 * float(c[-1].select_one("b").get_text().replace(" ", ""))) for c in cells)
    said = page.select_one(".quote-sum").get_text()
    assert f"{net / 100:,.2f}".replace(",", " ") in said
    assert "as 12 jobs of ours took" in re.sub(r"\s+", " ", page.get_text())
    assert "still spoils the route" in page.get_text()  # the estate touches: that is said before it is priced
    assert "still spoil" not in visitor.get("/jobs/104/quote").get_text()
    assert "nothing designed yet" in visitor.get("/jobs/102/quote").get_text().lower()


def test_what_has_no_price_is_asked_and_kept_for_this_job(visitor: Visitor) -> None:
    twin = "/jobs/104/quote"
    asked = [i["name"] for i in visitor.get(twin).select("input[name^='price:']")]
    assert asked
    wrong = visitor.post(twin, f"{twin}/price", code=422, **{asked[0]: "about ten"})
    assert "an amount like 12.50" in wrong.get_text()
    refused = visitor.post(twin, f"{twin}/send", code=422)
    assert "no price yet" in refused.get_text()
    visitor.post(twin, f"{twin}/price", **dict.fromkeys(asked, "10,5"))
    priced = visitor.get(twin)
    assert not priced.select("input[name^='price:']")
    again = visitor.get(priced.select_one(f"a[aria-label='another price for {asked[0][6:]}']")["href"])
    assert [i["name"] for i in again.select("input[name^='price:']")] == [asked[0]]  # one mistyped is told again


def test_a_wish_is_offered_and_said_yes_to_by_its_link(visitor: Visitor) -> None:
    page = visitor.get(f"{QUOTE}?wishes=yes")
    assert "no-resonator" in [i["value"] for i in page.select("input[name=offer]")]
    path = _sent(visitor, "no-resonator")
    assert _work_line(visitor, "Quote") == "Quote out"
    assert len(path.rsplit("/", 1)[1]) >= 30  # 24 random bytes
    assert path not in visitor.get(QUOTE).decode()  # shown once, and kept nowhere
    seen = visitor.get(path)
    assert [h.get_text().split("\n")[0].strip() for h in seen.select(".offer h2 label")] == [
        "as designed",
        "without the resonator",
    ]
    assert "<b>hello</b>" in seen.get_text()
    assert seen.select(".strips")
    refused = visitor.post(path, f"{path}/yes", code=422, offer="1")
    assert {"your name, as under a letter"} <= {e.get_text() for e in refused.select(".field-error")}
    done = visitor.post(path, f"{path}/yes", code=200, offer="1", name="M. Quill", tips="yes", words="by Friday")
    assert "The shop has your yes" in done.get_text()
    again = visitor.client.post(f"{path}/yes", data={"name": "x"})
    assert again.status_code in (400, 422)
    office = visitor.get(QUOTE)
    assert _work_line(visitor, "Quote") == "✓ done: Quote agreed"
    assert "yes to without the resonator, M. Quill" in re.sub(r"\s+", " ", office.get_text())
    assert "The customer said yes to" in office.get_text()  # as designed it is something else
    visitor.post(QUOTE, f"{QUOTE}/take")
    assert "The customer said yes to without the resonator at" not in visitor.get(QUOTE).get_text()
    assert "resonator" not in visitor.get("/jobs/101/cut/nest").get_text()
    assert visitor.client.get(f"{QUOTE}/1.pdf?paper=letter").data.startswith(b"%PDF")
    planned = visitor.get(HOURS).get_text()
    assert "Nothing is planned" not in planned


def test_a_change_after_the_yes_is_a_change_order(visitor: Visitor) -> None:
    path = _sent(visitor)
    visitor.post(path, f"{path}/yes", code=200, offer="0", name="M. Quill", tips="yes")
    assert "M. Quill" in visitor.get("/people/audit").get_text()
    leg = visitor.get("/jobs/101/design.json")  # a straight made longer costs more tube
    piece = next(p for p in json.loads(leg.get_text())["runs"][0]["pieces"] if p["kind"] == "leg")
    route = f"/jobs/101/route?run=main&piece={piece['id']}"
    visitor.post(route, "/jobs/101/route/set", field="length_mm", value=f"{piece['length_mm'] + 90:g}")
    order = _sent(visitor, "revision-1")
    seen = re.sub(r"\s+", " ", visitor.get(order).get_text())
    assert "change order 2 to quote 1" in seen
    assert "What changes" in seen
    paper = visitor.client.get(f"{QUOTE}/2.pdf").data
    assert paper.startswith(b"%PDF")
    beside = visitor.get(f"{QUOTE}?wishes=yes&revision=1")
    assert "as at revision 1" in beside.get_text()
    assert "no revision 99" in visitor.get(f"{QUOTE}?wishes=yes&revision=99").get_text()


def test_links_run_dry(visitor: Visitor) -> None:
    path = _sent(visitor)
    visitor.post(QUOTE, f"{QUOTE}/withdraw", quote="1")
    assert "opens nothing" in visitor.get(path, 404).get_text()
    other = _sent(visitor)
    for _ in range(20):
        visitor.client.get("/q/nonsense")
    assert "wait ten minutes" in visitor.get("/q/more-nonsense", 429).get_text()
    assert visitor.get(other).select("#say-yes")  # a link that is one opens all the same


def test_a_picture_goes_with_what_was_noted(visitor: Visitor) -> None:
    shot = io.BytesIO()
    Image.effect_noise((320, 240), 90.0).convert("RGB").save(shot, "PNG")
    hidden = {i["name"]: i["value"] for i in visitor.form(HOURS, f"{HOURS}/note").select("input[type=hidden]")}
    data = hidden | {"kind": "note", "words": "crack at the flange", "who": "Ada"}
    answer = visitor.client.post(f"{HOURS}/note", data=data | {"picture": (io.BytesIO(shot.getvalue()), "a.png")})
    assert answer.status_code == 303
    at = visitor.get(HOURS).select_one(".log-picture")["src"]
    assert visitor.client.get(at).mimetype == "image/jpeg"
    assert visitor.client.get(at.replace("/101/", "/102/")).status_code == 404  # of another job
    refused = visitor.client.post(f"{HOURS}/note", data=data | {"picture": (io.BytesIO(b"no"), "a.png")})
    assert refused.status_code == 422
    assert b"crack at the flange" in refused.data


def test_the_clock_runs_for_one_step_a_person_and_a_mistake_has_a_cause(visitor: Visitor) -> None:
    nobody = visitor.post(HOURS, f"{HOURS}/start", code=422, step="weld", who=" ")
    assert "who works at it?" in nobody.get_text()
    visitor.post(HOURS, f"{HOURS}/start", step="weld", who="Ada")
    visitor.post(HOURS, f"{HOURS}/start", step="fit up", who="Bo")
    visitor.post(HOURS, f"{HOURS}/start", step="tack", who="Ada")
    runs = {b.b.get_text(): b.span.get_text() for b in visitor.get(HOURS).select(".clock-step.runs")}
    assert {step: words.strip() for step, words in runs.items()} == {"fit up": "Bo at it", "tack": "Ada at it"}
    visitor.post(HOURS, f"{HOURS}/stop")
    assert len(visitor.get(HOURS).select(".clock-step.runs")) == 1
    wrong = visitor.post(HOURS, f"{HOURS}/note", code=422, words="cut 20 short", kind="mistake")
    assert "bent over" in wrong.get_text()
    assert wrong.select_one("[name=words]").get_text() == "cut 20 short"
    visitor.post(
        HOURS, f"{HOURS}/note", words="cut 20 short", kind="mistake", cause="wrong part", minutes="25", cost="12"
    )
    log = visitor.get(HOURS).select_one(".log-line").get_text()
    assert "wrong part" in log
    assert "25 min" in log
    assert "wrong part" in visitor.get("/rates").get_text()


def test_rates_are_kept_whole_or_not_at_all(visitor: Visitor) -> None:
    form = visitor.form("/rates", "/rates")
    values = {i["name"]: i.get("value", "") for i in form.select("input")} | {"process": "MIG"}
    visitor.post("/rates", "/rates", code=422, **{**values, "hour": "lots"})
    visitor.post("/rates", "/rates", **{**values, "hour": "100", "tax": "19"})
    assert "hours of" not in visitor.get(QUOTE).select_one(".quote-sum").get_text()
    assert "100.00" in visitor.get(QUOTE).get_text()


def test_before_there_is_a_design_it_is_rough_and_says_so(visitor: Visitor) -> None:
    url = "/jobs/102/quote"
    page = visitor.get(url)
    card = page.select_one("select[name=card] option[value='1']")
    assert card is not None
    rough = visitor.get(f"{url}?card=1")
    assert "Rough: nothing is designed" in rough.get_text()
    asked = [i["name"] for i in rough.select("input[name^='price:']")]
    visitor.post(f"{url}?card=1", f"{url}/price", card="1", **dict.fromkeys(asked, "12"))
    sent = visitor.post(f"{url}?card=1", f"{url}/send", 200, card="1")
    path = urlsplit(sent.select_one(".big-link")["href"]).path
    assert "Rough: priced by a similar system" in visitor.get(path).get_text()
    assert "no such card" in visitor.get(f"{url}?card=77", 404).get_text()


def _euro(text: str) -> list[str]:
    return re.findall(r"\d[\d ]*\.\d\d", text)


def test_what_was_agreed_is_billed_whatever_the_clocks_and_rates_say_later(visitor: Visitor) -> None:
    path = _sent(visitor)
    total = _euro(visitor.get(path).select_one(".offer h2 .big-figure").get_text())[0]
    visitor.post(path, f"{path}/yes", code=200, offer="0", name="M. Quill", tips="yes", cautions="yes")
    visitor.post(HOURS, f"{HOURS}/start", step="weld", who="Ada")
    visitor.post(HOURS, f"{HOURS}/stop")
    values = {i["name"]: i.get("value", "") for i in visitor.form("/rates", "/rates").select("input")}
    visitor.post("/rates", "/rates", **{**values, "process": "TIG", "hour": "120", "tax": "7"})
    over = "/jobs/101/handover"
    visitor.post(over, f"{over}/done", anyway="yes")
    page = visitor.get(over)
    assert _euro(page.select_one(".big-figure").get_text()) == [total]
    assert "not agreed" not in page.get_text()
    visitor.post(over, f"{over}/pay", who="Jun", amount="100")
    visitor.post(over, f"{over}/invoice", who="Jun")
    text = " ".join(visitor.get(over).get_text().split())
    assert re.search(r"Invoice \d+,\D*(\d[\d ]*\.\d\d)", text)[1] == total
    assert "left to pay" in text, text
    left = re.search(r"left to pay\D*(\d[\d ]*\.\d\d)", text)[1]
    assert float(total.replace(" ", "")) - float(left.replace(" ", "")) == pytest.approx(100.0)


def test_a_customer_has_one_offer_to_answer(visitor: Visitor) -> None:
    first, second = _sent(visitor), _sent(visitor)
    visitor.get(first, 404)
    assert visitor.get(second).select("#say-yes")


def test_a_forgotten_clock_is_asked_about_before_another_is_booked(visitor: Visitor) -> None:
    visitor.post(HOURS, f"{HOURS}/start", step="weld", who="Ada")
    _run_sql(visitor, "UPDATE clocks SET started_at = now() - interval '62 hours' WHERE ended_at IS NULL")
    refused = visitor.post(HOURS, f"{HOURS}/start", code=422, step="tack", who="Ada")
    assert "how long that took" in refused.get_text()
    visitor.post(HOURS, f"{HOURS}/stop", ran="90")
    visitor.post(HOURS, f"{HOURS}/correct", ran="75")
    stretches = visitor.get(HOURS).select_one("[aria-label='Planned and taken'] .plain-list").get_text()
    assert "75 min" in stretches
    visitor.post(HOURS, f"{HOURS}/start", step="tack", who="Ada")


def test_two_tabs_of_rates_do_not_overwrite_each_other_unseen(visitor: Visitor) -> None:
    values = {i["name"]: i.get("value", "") for i in visitor.form("/rates", "/rates").select("input")} | {
        "process": "TIG"
    }
    visitor.post("/rates", "/rates", **{**values, "hour": "100"})
    refused = visitor.client.post("/rates", data={**values, "day_hours": "7"})
    assert refused.status_code == 422
    assert b"someone else set this to" in refused.data
    again = BeautifulSoup(refused.data, "html.parser")
    kept = {i["name"]: i.get("value", "") for i in again.select_one("form.card.form").select("input")}
    assert kept["day_hours"] == "7"
    assert visitor.client.post("/rates", data=kept | {"process": "TIG"}).status_code == 303


def _run_sql(visitor: Visitor, sql: str) -> None:
    with visitor.client.application.extensions["database"].transaction() as connection:
        connection.execute(sql)
