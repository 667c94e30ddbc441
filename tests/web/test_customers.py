"""One box for everything; a customer's history, merged, exported, erased."""

from __future__ import annotations

import json

import pytest

from .conftest import Visitor


def _id_of(visitor: Visitor, name: str) -> int:
    link = visitor.get(f"/find?q={name}").select_one("[aria-label=Customers] a")
    assert link, name
    return int(link["href"].rsplit("/", 1)[1])


@pytest.mark.parametrize("typed", ["Mara Quill", "mara", "Quil", "Maar Quill", "0142", "555 01 42", "quill"])
def test_a_customer_is_found_by_what_anybody_remembers(visitor: Visitor, typed: str) -> None:
    found = visitor.get(f"/find?q={typed}").select("[aria-label=Customers] b")
    assert "Mara Quill" in [b.get_text() for b in found]


@pytest.mark.parametrize("typed", ["WB 118", "wb118", "estate", "estaet", "WB-118"])
def test_a_vehicle_is_found_by_plate_or_kind(visitor: Visitor, typed: str) -> None:
    assert "estate, rear-drive" in visitor.get(f"/find?q={typed}").select_one("[aria-label=Vehicles]").get_text()


def test_a_job_is_found_by_its_words_and_opened_by_its_number(visitor: Visitor) -> None:
    assert "twin cat-back" in visitor.get("/find?q=twin+catback").select_one("[aria-label=Jobs]").get_text()
    assert visitor.client.get("/find?q=104").location == "/jobs/104/intake"
    assert "101 cat-back" in visitor.get("/find?q=mara+quill").select_one("[aria-label=Customers]").get_text()
    assert "bend 63.5" in visitor.get("/find?q=bned+63.5").select_one("[aria-label='On the shelf']").get_text()
    assert visitor.get("/find?q=coupe+engine").select_one("[aria-label=Cards]")
    assert "Nothing is like" in visitor.get("/find?q=zzzzqq").get_text()
    assert "some of it will do" in visitor.get("/find").get_text()
    for odd in ("%", "_", "'; DROP TABLE jobs; --", "<script>", "\\", "9" * 40):
        assert visitor.client.get("/find", query_string={"q": odd}).status_code == 200, odd


def test_a_customer_entered_twice_is_merged(visitor: Visitor) -> None:
    visitor.post(
        "/jobs/new", "/jobs/new", vehicle_id="", customer="Mara Quil", phone="5550142", vehicle="van", title="tail"
    )
    twice = _id_of(visitor, "Mara Quil")
    page = visitor.get(f"/customers/{twice}")
    into = page.select_one("button[name=into]")["value"]
    visitor.post(f"/customers/{twice}", f"/customers/{twice}/merge", into=into)
    kept = visitor.get(f"/customers/{into}").get_text()
    assert "van" in kept
    assert "estate, rear-drive" in kept
    visitor.get(f"/customers/{twice}", 404)


def test_a_person_is_exported_and_erased_and_the_books_stay_whole(visitor: Visitor) -> None:
    mara = _id_of(visitor, "Mara Quill")
    whole = json.loads(visitor.client.get(f"/customers/{mara}.json").data)
    assert (whole["name"], {v["plate"] for v in whole["vehicles"]}) == ("Mara Quill", {"WB 118", "WB 300"})
    page = visitor.post(f"/customers/{mara}", f"/customers/{mara}/erase", 422, sure="yes")
    assert "type “Mara Quill”" in page.get_text()
    visitor.post(f"/customers/{mara}", f"/customers/{mara}/erase", sure="Mara Quill")
    assert "Nothing is like" in visitor.get("/find?q=Mara+Quill").get_text()
    job = visitor.get("/jobs/101/intake").get_text()
    assert "no drone at 110" not in job
    assert "cat-back 63.5" in job


def test_another_vehicle_and_a_job_on_it(visitor: Visitor) -> None:
    mara = _id_of(visitor, "Mara Quill")
    visitor.post(f"/customers/{mara}", f"/customers/{mara}/vehicle", 422, kind=" ", vehicle="")
    visitor.post(f"/customers/{mara}", f"/customers/{mara}/vehicle", kind="trailer", plate="T 1", vehicle="")
    link = visitor.get(f"/customers/{mara}").select_one("a.button.main")["href"]
    chosen = visitor.get(link).select_one("#vehicle_id option[selected]").get_text()
    assert "trailer" in chosen


def test_the_talk_at_the_vehicle_is_kept_signed_and_shown_on_the_way_round(visitor: Visitor) -> None:
    url = "/jobs/101/intake"
    visitor.post(url, f"{url}/said", sound="deeper", budget="1500", must_hold="inspection in May")
    page = visitor.get(url)
    assert page.select_one("[name=sound]")["value"] == "deeper"
    long = visitor.post(url, f"{url}/said", 422, sound="x" * 400)
    assert "at most 300 letters" in long.get_text()
    assert long.select_one("[name=sound]")["value"] == "x" * 400
    visitor.post(url, f"{url}/seen", 422, **{"at.x": "300", "at.y": "130"})
    visitor.post(url, f"{url}/seen", 422, seen_words="oil leak")
    visitor.post(url, f"{url}/seen", seen_words="oil leak", not_ours="yes", **{"at.x": "300", "at.y": "130"})
    page = visitor.get(url)
    assert page.select_one(".walk-mark.other")["cx"] == "300"
    visitor.post(url, f"{url}/sign", 422, signed_name=" ")
    visitor.post(url, f"{url}/sign", signed_name="Mara Quill")
    assert "Mara Quill said on" in visitor.get(url).get_text().replace("\n", "")
    visitor.post(url, f"{url}/said", sound="quieter")  # something else now: it is to be signed again
    assert visitor.get(url).select_one("[name=signed_name]")
    mark = page.select_one("button[name=mark]")["value"]
    visitor.post(url, f"{url}/unseen", mark=mark)
    assert not visitor.get(url).select(".walk-mark")


def test_emissions_parts_found_missing_are_dated(visitor: Visitor) -> None:
    url = "/jobs/105/intake"
    visitor.post(url, f"{url}/said", sound="")
    page = visitor.get(url).get_text()
    assert "Found missing on 20" in page
