"""A test client on a database of its own, and helpers that read pages as a person would."""

from __future__ import annotations

import gc
import warnings
from collections.abc import Iterator

import pytest
from bs4 import BeautifulSoup
from flask.testing import FlaskClient

from widebend.web import create_app


class Visitor:
    """A browser without JavaScript: gets pages, posts forms with the token and revision it was shown."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client

    def get(self, url: str, code: int = 200) -> BeautifulSoup:
        response = self.client.get(url)
        assert response.status_code == code, f"{url}: {response.status_code}"
        return BeautifulSoup(response.data, "html.parser")

    def post(self, page_url: str, action: str, code: int = 303, **values: str) -> BeautifulSoup:
        """Post to `action` with the hidden fields of the form on `page_url` that goes there."""
        form = self.form(page_url, action)
        hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
        response = self.client.post(action, data={**hidden, **values})
        assert response.status_code == code, f"{action}: {response.status_code} {response.data[:600]!r}"
        return BeautifulSoup(response.data, "html.parser")

    def form(self, page_url: str, action: str) -> BeautifulSoup:
        page = self.get(page_url)
        found = [f for f in page.select("form") if f.get("action", page_url).split("?")[0] == action]
        assert found, f"no form for {action} on {page_url}"
        return found[0]


@pytest.fixture
def visitor(database_url: str) -> Iterator[Visitor]:
    app = create_app(database_url, secret="for tests only", testing=True)
    app.config["PROPAGATE_EXCEPTIONS"] = False
    database = app.extensions["database"]
    database.open()
    yield Visitor(app.test_client())
    database.close()


@pytest.fixture
def large_posts() -> Iterator[None]:
    """The test client leaves the spooled body of a large post to the garbage collector: it is called here, quietly."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", ResourceWarning)
        yield
        gc.collect()
