"""The shelf in the browser's own words, and a job laid into its bars."""

import re

from bs4 import BeautifulSoup

from widebend.store import jobs
from widebend.store.database import Database
from widebend.web.page import job_nest
from widebend.work.searches import do_search

from .conftest import Visitor

TUBE = {
    "kind": "straight",
    "od_mm": "63.5",
    "wall_mm": "1.5",
    "material": "304",
    "length_mm": "1200",
    "counted": "1",
    "is_offcut": "yes",
    "bin": "Z9",
    "who": "Ann",
}


def _add(visitor: Visitor, code: int = 303, **values: str) -> BeautifulSoup:
    return visitor.post("/stock", "/stock/add", code, **TUBE | values)


def test_put_on_the_shelf_taken_and_counted(visitor: Visitor) -> None:
    _add(visitor, is_offcut="")
    page = visitor.get("/stock")
    row = _row(page)
    assert "straight, 63.5 mm x 1.5 mm 304, 1200 mm long" in row.get_text()
    assert page.select_one("[name=who]")["value"] == "Ann"  # remembered on this device
    action = row.select_one("form")["action"]
    visitor.post("/stock", action, number="1", who="Bo", why="take")
    refused = visitor.post("/stock", action, 422, number="1", who="Cy", why="take")
    assert re.search(
        r"there are none, not 1: Bo took of it at \d\d:\d\d", refused.select_one(".field-error").get_text()
    )
    assert _row(refused).select_one("[name=who]")["value"] == "Cy"
    visitor.post("/stock", action, number="3", who="Cy", why="count")
    assert _row(visitor.get("/stock")).select_one(".stock-count").get_text() == "3"


def test_an_offcut_used_up_is_gone_and_a_slip_of_the_pen_is_taken_off(visitor: Visitor) -> None:
    _add(visitor)
    drop = _row(visitor.get("/stock")).select_one("[formaction]")["formaction"]
    token = _token(visitor)
    assert visitor.client.post(drop, data={"csrf_token": token, "who": "Ann"}).status_code == 303
    assert "bin Z9" not in visitor.get("/stock").select_one(".stock-list").get_text()
    _add(visitor)
    row = _row(visitor.get("/stock"))
    visitor.post("/stock", row.select_one("form")["action"], number="1", who="Bo", why="take")
    page = visitor.get("/stock")
    assert "bin Z9" not in page.select_one(".stock-list").get_text()
    assert "offcut" not in page.select_one(".notice.tight").get_text()  # nobody orders one
    refused = visitor.client.post(row.select_one("[formaction]")["formaction"], data={"csrf_token": token, "who": "Bo"})
    assert refused.status_code == 422
    assert "its book is kept" in refused.get_data(as_text=True)


def test_what_is_wrong_is_said_and_kept(visitor: Visitor) -> None:
    page = _add(visitor, 422, length_mm="long", counted="-2")
    assert page.select_one("#wrong-s-length_mm")
    assert page.select_one("#s-counted")["value"] == "-2"
    assert "needs its wall" in _add(visitor, 422, wall_mm="").select_one(".notice.wrong").get_text()
    assert "who? a first name" in _add(visitor, 422, who=" ").get_text()
    _add(visitor)
    action = _row(visitor.get("/stock")).select_one("form")["action"]
    assert "a whole number" in visitor.post("/stock", action, 422, number="0.5", who="Bo", why="take").get_text()
    assert visitor.client.post("/stock/4000/book", data={}).status_code in (400, 422)


def test_a_job_is_cut_from_its_own_tube_offcuts_first(visitor: Visitor) -> None:
    _add(visitor, length_mm="1300")
    _add(visitor, od_mm="60.3", length_mm="5000")  # another tube: never used
    visitor.client.post("/preferences", data={"csrf_token": _token(visitor), "unit": "in", "back": "/"})
    page = visitor.get("/jobs/101/cut/nest?aim=tidy+shelf")
    bars = [bar.get_text(" ", strip=True) for bar in page.select(".bars:not(.bends) li")]
    assert all("offcut, bin" in bar for bar in bars)  # those of the shelf hold them all
    assert all("5000" not in bar and "196" not in bar for bar in bars)
    assert "proven best" in page.get_text()
    listed = visitor.get("/jobs/101/cut").select(".cut-table tbody tr")
    straights = [row for row in listed if "straight" in row.get_text()]
    assert len(page.select(".bars:not(.bends) rect.bar-piece")) == len(straights)


def _row(page: BeautifulSoup) -> BeautifulSoup:
    return next(row for row in page.select(".stock-list li") if "bin Z9" in row.get_text())


def _token(visitor: Visitor) -> str:
    return visitor.get("/stock").select_one("[name=csrf_token]")["value"]


def test_what_a_bar_yields_is_said_before_it_is_ordered(visitor: Visitor) -> None:
    page = visitor.get("/jobs/101/cut/nest?bar=1000&piece=215")
    assert "4 of 215 mm from 1000 mm, with kerfs of 1.5 mm" in " ".join(page.get_text().split())
    tight = visitor.get("/jobs/101/cut/nest?bar=1000&piece=250")
    assert "3 of 250 mm from 1000 mm, with kerfs of 1.5 mm, not 4." in " ".join(tight.get_text().split())
    wrong = visitor.get("/jobs/101/cut/nest?bar=1000&piece=short")
    assert wrong.select_one("#wrong-y-piece")
    assert wrong.select_one("#y-bar")["value"] == "1000"


def test_the_parts_list_follows_the_design(visitor: Visitor) -> None:
    """By hand: the demo's shelf has nine 45s and no 30s; a slip joint takes a clamp."""
    rows = visitor.get("/jobs/104/cut/nest").select(".parts-table tbody tr")
    lines = {row.select_one("td").get_text(" ", strip=True): row for row in rows if row.select_one("td")}
    bends = [
        [cell.get_text(strip=True) for cell in row.select("td")[1:4]]
        for words, row in lines.items()
        if re.match(r"\d+° bend of 63.5 mm", words)
    ]
    # eight bends of 13 to 36 deg, two at most from one: four of the shelf's twelve, nothing to buy
    assert (
        sum(int(wanted) for wanted, _, _ in bends) == sum(int(there) for _, there, _ in bends) == 5
    )  # two of them halves of the X, out of one of 90°
    assert all(not to_buy for *_, to_buy in bends)
    assert lines["clamp over a slip joint"].select("td")[2].get_text(strip=True) == "2"
    table = visitor.client.get("/jobs/104/cut/parts.csv").get_data(as_text=True).splitlines()
    assert table[0].startswith("supplier,what,to buy")
    assert len(table) == len(lines) + 1


def test_a_job_takes_its_bars_once_leaves_the_rests_and_gives_them_back(visitor: Visitor) -> None:
    url = _twin(visitor)
    before = _shelf(visitor)
    visitor.post(url, f"{url}/take", who="Ann")
    page = visitor.get(url)
    assert "Taken for this job by Ann" in " ".join(page.get_text().split())
    assert not page.select("#take-it")
    after = _shelf(visitor)
    bends = [sum(n for words, n in shelf.items() if words.startswith("bend,")) for shelf in (before, after)]
    assert bends[0] - bends[1] == 5
    rests = {words for words in after if words not in before}
    assert any("offcut of straight" in r for r in rests)
    assert any("offcut of bend" in r for r in rests)
    # a second press from another tab takes nothing more
    token = page.select_one("[name=csrf_token]")["value"]
    again = visitor.client.post(f"{url}/take", data={"csrf_token": token, "who": "Bo"})
    assert again.status_code == 422
    assert "has its bars already" in again.get_data(as_text=True)
    assert _shelf(visitor) == after
    visitor.post(url, f"{url}/back", who="Ann")
    assert _shelf(visitor) == before


def test_what_is_gone_meanwhile_takes_nothing(visitor: Visitor) -> None:
    """All or nothing: a rest that another took since stops the putting back, and nothing has moved."""
    url = _twin(visitor)
    visitor.post(url, f"{url}/take", who="Ann")
    rest = next(r for r in visitor.get("/stock").select(".stock-list li") if "Ann, first" in r.get_text())
    visitor.post("/stock", rest.select_one("form")["action"], number="1", who="Bo", why="take")
    held = _shelf(visitor)
    refused = visitor.post(url, f"{url}/back", 422, who="Ann")
    assert "has been taken since" in refused.get_text()
    assert _shelf(visitor) == held
    assert "who? a first name" in visitor.post(url, f"{url}/back", 422, who=" ").get_text()


def test_jobs_are_cut_from_the_same_bars(visitor: Visitor) -> None:
    """The cat-back's pieces lie in the twin's bar; each job's bends keep their marks; one gives all of it back."""
    url = _twin(visitor)
    alone = visitor.get(url).select(".bars:not(.bends) rect.bar-piece")
    page = visitor.get(f"{url}?with=101")
    together = page.select(".bars:not(.bends) rect.bar-piece")
    assert len(together) == len(alone) + len(
        visitor.get("/jobs/101/cut/nest").select(".bars:not(.bends) rect.bar-piece")
    )
    assert "101 · " in page.select_one(".bars.bends").get_text()
    before = _shelf(visitor)
    visitor.post(f"{url}?with=101", f"{url}/take", who="Ann")
    other = visitor.get("/jobs/101/cut/nest")
    assert "cut together with those of job 104" in " ".join(other.get_text().split())
    assert "bin C" in visitor.get("/jobs/101/cut").get_text()  # its bends come from where the nest laid them
    assert "101 · " in visitor.get(url).select_one(".bars.bends").get_text()
    token = other.select_one("[name=csrf_token]")["value"]
    refused = visitor.client.post("/jobs/101/cut/nest/back", data={"csrf_token": token, "who": "Bo"})
    assert "together with job 104: put it back there" in refused.get_data(as_text=True)
    again = visitor.get("/jobs/105/cut/nest?with=101")
    assert "job 101 has its bars already" in again.get_text()
    visitor.post(url, f"{url}/back", who="Ann")
    assert _shelf(visitor) == before
    assert visitor.get("/jobs/101/cut/nest").select("#take-it")


def test_what_a_page_cannot_prove_goes_to_the_queue(visitor: Visitor, database: Database, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    """So little time that nothing is proven: the queue looks longer, and the sheet shows and takes what it found."""
    monkeypatch.setattr(job_nest, "WAITS_S", 1e-6)
    url = _twin(visitor)
    assert "proven best" not in visitor.get(url).select_one(".nest").get_text()
    with database.transaction() as connection:
        ways = connection.execute(
            """INSERT INTO searches (design_id, revision, run, wish, design)
            VALUES (%s, 1, 'r1', '{"kind": "find"}', '{}') RETURNING id""",
            [jobs.get(connection, 104).design_id],
        ).fetchone()["id"]
    visitor.post(url, f"{url}/longer")
    with database.transaction() as connection:  # a way that is being looked for is not stopped by that
        row = connection.execute("SELECT state FROM searches WHERE id = %s", [ways]).fetchone()
    assert row["state"] == "waiting"
    with database.transaction() as connection:
        search_id = connection.execute("SELECT max(id) AS id FROM searches").fetchone()["id"]
    watched = visitor.get(f"{url}?search={search_id}")
    assert "waiting for a worker" in watched.select_one("#progress").get_text()
    do_search(database, search_id)
    ended = visitor.client.get(f"{url}/progress?search={search_id}")
    page_url = ended.headers["HX-Redirect"]
    if visitor.get(page_url).select(f"form[action='{url}/longer']"):  # other bends made other straights
        visitor.post(page_url, f"{url}/longer")
        with database.transaction() as connection:
            search_id = connection.execute("SELECT max(id) AS id FROM searches").fetchone()["id"]
        do_search(database, search_id)
        page_url = f"{url}?search={search_id}"
    found = visitor.get(page_url)
    assert "proven best" in found.select_one(".nest").get_text()
    assert not found.select(f"form[action='{url}/longer']")
    assert visitor.client.get(f"/jobs/101/cut/nest?search={search_id}").status_code == 404


def test_an_item_is_put_right_and_its_book_says_who(visitor: Visitor) -> None:
    _add(visitor)
    link = _row(visitor.get("/stock")).select_one("a[href$='#put']")["href"].removesuffix("#put")
    assert visitor.get(link).select_one("#s-length_mm")["value"] == "1200"
    wrong = visitor.post(link, f"{link}/right", 422, length_mm="-3", who="Bo")
    assert wrong.select_one("#wrong-s-length_mm")
    assert wrong.select_one("#s-length_mm")["value"] == "-3"
    shown = {i["name"]: i.get("value", "") for i in visitor.get(link).select("#put input:not([type])")}
    better = {"length_mm": "1190", "who": "Bo", "kind": "straight", "material": "304", "is_offcut": "yes"}
    visitor.post(link, f"{link}/right", **shown | better)
    row = _row(visitor.get("/stock")).get_text(" ", strip=True)
    assert "1190 mm long" in row
    assert "Bo, put right" in row
    assert visitor.client.get("/stock/99999").status_code == 404


def test_a_kit_on_offer_is_held_against_the_job(visitor: Visitor) -> None:
    kit = {
        "kit_name": "side kit",
        "kit_price": "10",
        "who": "Ann",
        "kit_lines": "4 bend 63.5 x 1.5 409, 90 deg, radius 63.5\n3 straight 63.5 x 1.5 409 long 2000",
    }
    wrong = visitor.post("/stock", "/stock/kits", 422, **kit | {"kit_lines": "4 bend", "kit_price": "much"})
    assert "needs its outside diameter" in wrong.select_one("#wrong-k-kit_lines").get_text()
    assert wrong.select_one("#wrong-k-kit_price")
    assert wrong.select_one("#k-kit_name")["value"] == "side kit"
    visitor.post("/stock", "/stock/kits", **kit)
    rows = visitor.get("/jobs/105/cut/nest?kits=1").select("#kits tbody tr")
    assert rows[0].select_one("td").get_text(strip=True).startswith("side kit")
    assert any("none, each by itself" in row.get_text() for row in rows)
    drop = next(f for f in visitor.get("/stock").select("form") if "side kit" in f.get_text())
    visitor.post("/stock", drop["action"])
    assert "side kit" not in visitor.get("/stock").get_text()


def test_another_muffler_is_tried_before_it_is_ordered(visitor: Visitor) -> None:
    url = "/jobs/104/cut/part?part=muffler-1&from=measures&kind=muffler&muffler-long="
    page = visitor.get(f"{url}480")
    assert "80 mm further back" in page.select_one(".notice.touches").get_text()
    assert visitor.get(f"{url}long", 422).select_one("#wrong-o-muffler-long")
    assert (
        "too long"
        in visitor.get("/jobs/104/cut/part?part=flex-1&from=measures&kind=flex&flex-long=2900", 422).get_text()
    )
    page_url = f"{url}480"
    fields = {i["name"]: i["value"] for i in visitor.get(page_url).select("form[method=post] input[type=hidden]")}
    assert visitor.client.post("/jobs/104/cut/part", data=fields).status_code == 303
    assert "muffler" in visitor.get("/jobs/104/layout").get_text()
    assert "80 mm further back" in visitor.get("/jobs/104/layout").get_text()


def test_a_line_is_ordered_is_here_is_wrong_and_back(visitor: Visitor) -> None:
    url = _twin(visitor)
    for wanted in ("ordered", "is here", "is wrong", "back", "ordered"):
        row = next(
            tr for tr in visitor.get(url).select(".parts-table tr") if tr.get_text().strip().startswith("left cat")
        )
        button = row.select_one("button")
        assert button.get_text(strip=True) == wanted
        visitor.post(url, f"{url}/order", who="Cy", move=button["value"])
    assert "ordered Cy" in " ".join(visitor.get(url).select_one(".parts-table").get_text().split())
    page = visitor.get(url)
    data = {"csrf_token": page.select_one("[name=csrf_token]")["value"], "who": "Cy", "move": "left cat|lost"}
    assert visitor.client.post(f"{url}/order", data=data).status_code == 422


def _twin(visitor: Visitor) -> str:
    """Where the demo's twin cat-back lies in its bars."""
    link = next(a for a in visitor.get("/").select("a[href$='/cut']") if "twin" in visitor.get(a["href"]).h1.get_text())
    return f"{link['href']}/nest"


def _shelf(visitor: Visitor) -> dict[str, int]:
    rows = visitor.get("/stock").select(".stock-list li")
    return {
        r.select_one(".stock-what span b").get_text(strip=True): int(r.select_one(".stock-count").get_text())
        for r in rows
    }
