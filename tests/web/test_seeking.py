"""Finding a way as pages: wishes in links, a long search put on the queue, told of, stopped, taken from."""

from __future__ import annotations

from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from pytest import MonkeyPatch

from tests.web.conftest import Visitor
from widebend.core.records import MarkPoint
from widebend.core.units import Length
from widebend.store import jobs, revisions
from widebend.store.database import Database
from widebend.web.page.at_hand import LruCache
from widebend.web.route import finding, ways
from widebend.work.searches import do_search

ESTATE = "/jobs/101/route"
FIND = f"{ESTATE}/find?run=r1&keep=p8"


def _begun(visitor: Visitor, page: str) -> str:
    """Press look longer; the address it leads to."""
    form = next(f for f in visitor.get(page).select("form") if f.get("action") == f"{ESTATE}/look")
    values = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    client: FlaskClient = visitor.client
    answer = client.post(f"{ESTATE}/look", data=values)
    assert answer.status_code == 303
    return str(answer.headers["Location"])


def test_a_way_says_what_it_takes_and_its_sides_can_be_shut(visitor: Visitor) -> None:
    page = visitor.get(FIND)
    first = page.select_one(".proposal").text
    for words in ("in all", "joints", "of weld", "of straight tube", "kg", "as much as", "margin"):
        assert words in first
    wish = next(a for a in page.select(".proposal .wish") if a.text.startswith("not "))
    shut = visitor.get(wish["href"])
    assert shut.select_one(".wishes .wish").text.startswith(wish.text)
    side = wish.text.removeprefix("not ")
    assert all(side not in goes.text for goes in shut.select(".goes"))


def test_nonsense_in_a_link_is_refused_in_words(visitor: Visitor) -> None:
    page = visitor.get(f"{FIND}&avoid=beyond:moon", 422)
    assert "names no side" in page.select_one(".field-error").text
    assert "no window or mark" in visitor.get(f"{FIND}&through=nowhere", 422).select_one(".field-error").text


def test_a_page_does_not_wait_for_ever_where_nothing_is_found(visitor: Visitor, monkeypatch: MonkeyPatch) -> None:
    monkeypatch.setattr(ways, "LONGEST_S", 0.0)
    visitor.client.application.testing = False  # else nothing hangs on the clock
    for kind in ("mend", "find"):
        where = f"{ESTATE}/find?run=r1&keep=none&kind={kind}"
        form = next(f for f in visitor.get(where).select("form") if f.get("action") == f"{ESTATE}/look")
        assert "load" in form["hx-trigger"], "a worker is asked by the page, by POST: nothing is queued by looking"
        assert "waiting for a worker" in visitor.get(_begun(visitor, where)).select_one("#progress").text


def test_who_may_only_look_puts_nothing_on_the_queue(visitor: Visitor, monkeypatch: MonkeyPatch) -> None:
    monkeypatch.setattr(ways, "LONGEST_S", 0.0)
    monkeypatch.setattr(finding, "may_change", lambda _room: False)
    visitor.client.application.testing = False
    assert "nothing found" in visitor.get(f"{ESTATE}/find?run=r1&keep=none", 422).select_one(".field-error").text


def test_what_was_found_is_shown_and_taken_by_any_process(visitor: Visitor, monkeypatch: MonkeyPatch) -> None:
    page = visitor.get(FIND)
    shown = [way.text for way in page.select(".proposal")]
    monkeypatch.setattr(ways, "answer", None)  # nothing is looked for again
    visitor.client.application.extensions["solved"] = LruCache()  # as in another process
    assert [way.text for way in visitor.get(FIND).select(".proposal")] == shown
    visitor.client.application.extensions["solved"] = LruCache()
    assert visitor.get(_begun(visitor, FIND)).select(".proposal")
    visitor.post(FIND, f"{ESTATE}/answer", answer="0")
    assert "not closed" not in visitor.get(ESTATE).select_one(".work-line").text


def test_reload_and_another_width_find_the_ways_again(visitor: Visitor, database: Database) -> None:
    shown = visitor.get(FIND)
    again = visitor.get(shown.select_one("[data-place]")["data-place"])
    assert [way.text for way in again.select(".proposal")] == [way.text for way in shown.select(".proposal")]
    where = _begun(visitor, FIND)
    do_search(database, int(where.split("/search/")[1].split("?")[0]))
    told = visitor.client.get(where.replace("?", "/progress?") + "&seen=0", headers={"HX-Request": "true"})
    place = BeautifulSoup(told.data, "html.parser").select_one("[data-place]")["data-place"]
    assert "looked everywhere" in visitor.get(place).select_one("#progress").text


def test_prices_make_ways_say_theirs(visitor: Visitor) -> None:
    layout = "/jobs/101/layout"
    assert "24.00" not in visitor.get(FIND).select_one(".proposal").text
    form = visitor.form(layout, layout)
    typed = {i["name"]: i.get("value", "") for i in form.select("input") if i.get("type") != "checkbox"}
    prices = {"price_tube_m": "20", "price_bend": "15", "price_joint": "8"}
    visitor.post(layout, layout, **{**typed, **prices})
    assert visitor.form(layout, layout).select_one("[name=price_bend]")["value"] == "15"
    assert "; price " in visitor.get(FIND).select_one(".proposal .soft").text
    wrong = visitor.post(layout, layout, 422, **{**typed, **prices, "price_bend": "dear"})
    assert "a number from 0" in wrong.text


def test_a_long_search_is_told_of_stopped_and_taken_from(visitor: Visitor, database: Database) -> None:
    where = _begun(visitor, FIND)
    page = visitor.get(where)
    assert "waiting for a worker" in page.select_one("#progress").text
    assert page.select(".proposal")  # what was found at once stays in sight
    number = int(where.split("/search/")[1].split("?")[0])
    do_search(database, number)
    done = visitor.get(where)
    assert done.select(".proposal")
    assert done.select("path.ghost")
    assert "looked everywhere" in done.select_one("#progress").text
    told = visitor.client.get(where.replace("?", "/progress?") + "&seen=0")
    assert told.headers["HX-Retarget"] == "#bench"
    assert "touches" in visitor.get(ESTATE).select_one(".worst").text
    visitor.post(where, f"{ESTATE}/answer", answer="0")
    assert "touches" not in visitor.get(ESTATE).select_one(".worst").text
    assert "not closed" not in visitor.get(ESTATE).select_one(".work-line").text
    assert "look again" in visitor.get(where).select_one(".field-error").text  # the design has changed since
    late = visitor.client.get(where.replace("?", "/progress?") + "&seen=0")  # and a page that still asks is told so too
    assert late.status_code == 200
    assert b"look again" in late.data


def test_a_waiting_search_is_stopped_by_its_button(visitor: Visitor) -> None:
    where = _begun(visitor, FIND)
    action = next(f["action"] for f in visitor.get(where).select("form") if "/stop" in f.get("action", ""))
    token = visitor.get(where).select_one("input[name=csrf_token]")["value"]
    assert visitor.client.post(action, data={"csrf_token": token}).status_code == 303
    stopped = visitor.get(where)
    assert stopped.select_one("#stop-search") is None
    assert "stopped" in stopped.select_one("#progress").text


def test_a_search_of_another_job_is_not_shown(visitor: Visitor) -> None:
    where = _begun(visitor, FIND)
    visitor.get(where.replace("/jobs/101/", "/jobs/102/"), 404)
    token = visitor.get(where).select_one("input[name=csrf_token]")["value"]
    elsewhere = where.split("?")[0].replace("/jobs/101/", "/jobs/102/") + "/stop"
    assert visitor.client.post(elsewhere, data={"csrf_token": token}).status_code == 404
    assert visitor.get(where).select_one("#stop-search") is not None
    visitor.get("/jobs/101/route/search/99999", 404)


def test_making_better_and_mending_from_the_page(visitor: Visitor) -> None:
    mended = visitor.get(f"{ESTATE}/find?run=r1&keep=none&kind=mend")
    assert "mended" in mended.select_one("#ways").text
    visitor.post(f"{ESTATE}/find?run=r1&keep=none&kind=mend", f"{ESTATE}/answer", answer="0")
    assert "touches" not in visitor.get(ESTATE).select_one(".worst").text
    again = visitor.client.get(f"{ESTATE}/find?run=r1&keep=none&kind=improve")
    assert again.status_code == 422  # the two straights and the bend ahead of the cat
    assert b"nothing better was found" in again.data


def test_through_a_mark(visitor: Visitor, database: Database) -> None:
    with database.transaction() as connection:
        job = jobs.get(connection, 101)
        survey = revisions.newest(connection, job.survey_id)
        mark = MarkPoint(id="chalk", name="chalk on the floor", point=(Length(2450), Length(100), Length(260)))
        content = dict(revisions.content_of(connection, survey.document_id, survey.number))
        content["marks"] = [*content.get("marks", []), mark.model_dump(mode="json")]
        revisions.append(connection, job.survey_id, survey.number, content, "a mark", "")
    found = visitor.get(f"{FIND}&through=chalk")
    assert "through chalk on the floor" in found.select_one(".wishes").text
    assert found.select(".proposal")
