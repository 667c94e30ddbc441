"""Signing in, roles on every route, and who did what."""

from __future__ import annotations

import re
from collections.abc import Iterator
from threading import BoundedSemaphore

import pytest

from widebend.demo import PEOPLE
from widebend.store import people
from widebend.web import create_app
from widebend.web.page.access import OPEN, RIGHTS, rights_of

from .conftest import Visitor

FAR = {"REMOTE_ADDR": "192.0.2.7"}  # RFC 5737: an address for documentation


@pytest.fixture
def far(database_url: str) -> Iterator[Visitor]:
    """A device elsewhere in the shop."""
    app = create_app(database_url, secret="for tests only", testing=True)
    app.config["PROPAGATE_EXCEPTIONS"] = False
    app.extensions["database"].open()
    with app.extensions["database"].transaction() as connection:
        connection.execute("UPDATE shop SET is_demo = false")  # a shop's own books: the demo's open here only
    client = app.test_client()
    client.environ_base |= FAR
    yield Visitor(client)
    app.extensions["database"].close()


def _sign_in(visitor: Visitor, name: str, code: int = 303, password: str = "") -> None:
    visitor.post("/sign-in", "/sign-in", code, name=name, password=password or PEOPLE[name][1])


def test_elsewhere_nothing_opens_without_signing_in(far: Visitor) -> None:
    for method, _, url in _every_route(far):
        answer = far.client.open(url, method=method)
        if method == "GET":
            assert answer.status_code == 303, f"{url}: {answer.status_code}"
            assert "/sign-in" in answer.location
        else:
            assert answer.status_code == 401, f"{url}: {answer.status_code}"


@pytest.mark.parametrize("name", list(PEOPLE))
def test_on_every_route_a_role_does_what_is_its_own_and_nothing_else(far: Visitor, name: str) -> None:
    """What the table of rights denies is refused before it is looked at; what it allows is not refused for the role."""
    _sign_in(far, name)
    role, rooms = PEOPLE[name][0], far.client.application.extensions["rooms"]
    for method, blueprint, url in _every_route(far):
        rights = rights_of(blueprint, rooms)
        assert rights
        if role not in rights[method != "GET"]:
            assert far.client.open(url, method=method).status_code == 403, f"{name} {method} {url}"
        elif method == "GET" and not url.endswith((".pdf", ".zip", ".step", ".xlsx")):
            assert far.client.get(url).status_code not in (401, 403), f"{name} {url}"


def _every_route(far: Visitor) -> Iterator[tuple[str, str, str]]:
    """Method, blueprint and an address of every route that is not open to all, the tokens of forms not asked for."""
    app = far.client.application
    app.config["WTF_CSRF_ENABLED"] = False
    for rule in list(app.url_map.iter_rules()):
        blueprint = rule.endpoint.partition(".")[0]
        if rule.endpoint == "static" or blueprint in OPEN:
            continue
        numbers = {name: 101 if "id" in name or name == "number" else "x" for name in rule.arguments}
        url = app.url_map.bind("localhost").build(rule.endpoint, numbers)
        yield "GET" if "GET" in rule.methods else "POST", blueprint, url


def test_every_page_has_its_rights(far: Visitor) -> None:
    app = far.client.application
    rooms = app.extensions["rooms"]
    for blueprint in app.blueprints:
        assert blueprint in OPEN or rights_of(blueprint, rooms), blueprint
    assert not set(RIGHTS) - {*app.blueprints, "customers"}


@pytest.mark.parametrize(
    ("name", "looks", "not_looks"),
    [
        ("Rhea", ("/", "/rates", "/people", "/people/audit", "/jobs/101/hang"), ()),
        ("Ada", ("/", "/jobs/101/hang", "/jobs/101/quote", "/stock"), ("/rates", "/people", "/people/audit")),
        ("Jun", ("/", "/jobs/101/hang", "/jobs/101/quote", "/rates"), ("/people",)),
    ],
)
def test_a_role_opens_what_is_its_own(
    far: Visitor, name: str, looks: tuple[str, ...], not_looks: tuple[str, ...]
) -> None:
    _sign_in(far, name)
    for url in looks:
        assert far.client.get(url, follow_redirects=True).status_code == 200, url
    for url in not_looks:
        assert "This is for the owner" in far.get(url, 403).get_text()


def test_the_desk_looks_at_a_design_and_changes_nothing(far: Visitor) -> None:
    _sign_in(far, "Jun")
    refused = far.post("/jobs/104/hang?hanger=hanger-1", "/jobs/104/hang/remove", 403, hanger="hanger-1")
    assert "owner or fabricator" in refused.get_text()
    for url, said in (("/jobs/104/route", True), ("/rules", True), ("/jobs/104/quote", False), ("/", False)):
        assert bool(far.get(url).select(".looks-only")) is said, url  # said before a button is pressed
    far.post("/jobs/104/hours", "/jobs/104/hours/start", step="weld")
    assert "Jun at it" in far.get("/jobs/104/hours").get_text()


def test_what_is_changed_says_by_whom(far: Visitor) -> None:
    _sign_in(far, "Ada")
    far.post("/jobs/104/hang?hanger=hanger-1", "/jobs/104/hang/remove", hanger="hanger-1")
    database = far.client.application.extensions["database"]
    with database.transaction() as connection:
        rows = connection.execute("SELECT author FROM revisions ORDER BY made_at DESC LIMIT 1").fetchall()
    assert rows[0]["author"] == "Ada"
    far.post("/account", "/sign-out")
    _sign_in(far, "Rhea")
    listed = far.get("/people/audit?who=Ada").get_text()
    assert "hang edits: remove" in listed
    assert "hanger hanger-1" in listed
    assert "104" in listed


def test_five_wrong_passwords_lock_and_a_new_one_opens(far: Visitor) -> None:
    for _ in range(5):
        _sign_in(far, "Ada", 422, "not the password")
    page = far.post("/sign-in", "/sign-in", 422, name="Ada", password=PEOPLE["Ada"][1])
    assert "too many tries" in page.get_text()
    assert "too many tries" in far.post("/sign-in", "/sign-in", 422, name="nobody", password="x").get_text()
    _sign_in(far, "Rhea")
    with far.client.application.extensions["database"].transaction() as connection:
        ada = connection.execute("SELECT id FROM people WHERE name = 'Ada'").fetchone()["id"]
    told = far.post("/people", "/people/change", 200, person=str(ada), what="password")
    password = told.select_one("code").get_text()
    far.post("/account", "/sign-out")
    _sign_in(far, "Ada", password=password)
    assert far.client.get("/").location == "/account"  # a password of her own first
    far.post("/account", "/account/password", 422, old=password, password="short", again="short")
    far.post("/account", "/account/password", 422, old=password, password="password1234", again="password1234")
    fine = "herring under gravel"
    far.post("/account", "/account/password", old=password, password=fine, again=fine)
    assert far.client.get("/").status_code == 200


def test_who_signs_in_amid_many_is_told_to_try_again(far: Visitor, monkeypatch: pytest.MonkeyPatch) -> None:
    nobody_may = BoundedSemaphore(1)
    nobody_may.acquire()
    monkeypatch.setattr(people, "_WAITING", nobody_may)
    page = far.post("/sign-in", "/sign-in", 503, name="Ada", password=PEOPLE["Ada"][1])
    assert "any people are signing in" in page.get_text()
    nobody_may.release()
    _sign_in(far, "Ada")


def test_a_form_from_before_signing_in_again_is_still_taken(far: Visitor) -> None:
    """Ticks made without a connection wait on the device: with the mark of the page they were made on."""
    _sign_in(far, "Ada")
    form = far.form("/jobs/104/hours", "/jobs/104/hours/start")
    hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
    far.post("/account", "/sign-out")
    assert far.client.post("/jobs/104/hours/start", data={**hidden, "step": "cut"}).status_code == 401
    _sign_in(far, "Ada")
    assert far.client.post("/jobs/104/hours/start", data={**hidden, "step": "cut"}).status_code == 303
    assert "Ada at it" in far.get("/jobs/104/hours").get_text()


def test_the_last_owner_stays(far: Visitor) -> None:
    _sign_in(far, "Rhea")
    with far.client.application.extensions["database"].transaction() as connection:
        rhea = connection.execute("SELECT id FROM people WHERE name = 'Rhea'").fetchone()["id"]
    for what in ("gone", "fabricator"):
        page = far.post("/people", "/people/change", 422, person=str(rhea), what=what)
        assert "somebody must stay an owner" in page.get_text()
    made = far.post("/people", "/people/add", 200, name="Ivy", role="owner")
    assert re.fullmatch(r"[a-z2-9]{4}(-[a-z2-9]{4}){2}", made.select_one("code").get_text())
    far.post("/people", "/people/change", person=str(rhea), what="fabricator")
    assert far.client.get("/people").status_code == 403


def test_signing_in_goes_nowhere_else(far: Visitor) -> None:
    for to in ("//evil.example", "https://evil.example/", "/\\evil.example"):
        answer = far.client.get("/sign-in", query_string={"to": to})
        assert b'name="to" value="/"' in answer.data


def test_an_own_shop_begins_with_an_owner(visitor: Visitor) -> None:
    shown = visitor.post("/", "/demo/put-away", 200)
    password = shown.select_one("code").get_text()
    assert visitor.client.get("/").location == "/account"
    visitor.post("/account", "/account/password", old=password, password="an own password", again="an own password")
    assert "The first job" in visitor.get("/").get_text()
    visitor.post("/account", "/sign-out")
    assert "/sign-in" in visitor.client.get("/").location
    _sign_in(visitor, "Rhea", 422)  # the demo's people are gone with it


def test_whoever_guesses_shuts_out_himself_only(far: Visitor) -> None:
    for _ in range(6):
        _sign_in(far, "Rhea", 422, "not the password")
    _sign_in(far, "Rhea", 422)
    far.client.environ_base |= {"REMOTE_ADDR": "192.0.2.8"}
    _sign_in(far, "Rhea")  # she, from where nobody guessed


def test_the_old_password_is_not_guessed_in_a_session_left_open(far: Visitor) -> None:
    _sign_in(far, "Ada")
    fine = "herring under gravel"
    for _ in range(5):
        far.post("/account", "/account/password", 422, old="a guess of mine", password=fine, again=fine)
    page = far.post("/account", "/account/password", 422, old=PEOPLE["Ada"][1], password=fine, again=fine)
    assert "too many wrong passwords" in page.get_text()


def test_the_demos_people_do_not_sign_in_from_elsewhere(far: Visitor) -> None:
    with far.client.application.extensions["database"].transaction() as connection:
        connection.execute("UPDATE shop SET is_demo = true")
    page = far.post("/sign-in", "/sign-in", 422, name="Rhea", password=PEOPLE["Rhea"][1])
    assert "the demo's books" in page.get_text()
    assert far.client.get("/").status_code == 303


def test_a_change_and_its_audit_are_kept_together_or_not_at_all(far: Visitor, monkeypatch: pytest.MonkeyPatch) -> None:
    _sign_in(far, "Ada")

    def fails(*_: object) -> bool:
        raise RuntimeError("the disk is full")

    monkeypatch.setattr("widebend.store.people.note_if_changed", fails)
    form = {i["name"]: i["value"] for i in far.form("/jobs/104/hours", "/jobs/104/hours/start").select("[type=hidden]")}
    assert far.client.post("/jobs/104/hours/start", data=form | {"step": "weld"}).status_code == 500
    monkeypatch.undo()
    assert "Ada at it" not in far.get("/jobs/104/hours").get_text()
