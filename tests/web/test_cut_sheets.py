"""The sheets of the Cut step in the browser's own words: templates, bend cards, and what the shop can do."""

import io
import re
import zipfile

from .conftest import Visitor


def _job(visitor: Visitor, words: str) -> str:
    """The address of the demo job whose card speaks of something."""
    for link in visitor.get("/").select("a[href^='/jobs/']"):
        number = re.match(r"/jobs/\d+", link["href"])
        if number and words in visitor.get(f"{number[0]}/cut").select_one("h1").get_text():
            return number[0]
    raise AssertionError(words)


def test_a_job_offers_the_templates_it_needs_and_gives_them_as_files(visitor: Visitor) -> None:
    job = _job(visitor, "pie-cut")
    page = visitor.get(f"{job}/cut/templates")
    offers = {a.get_text(): a["href"] for a in page.select(".offers a")}
    assert {
        "downpipe, piece 2: its slices",
        "wastegate branch: its saddle",
        "wastegate branch: the hole for it",
    } <= set(offers)
    drawn = visitor.get(offers["wastegate branch: its saddle"])
    assert "Saddle, 38.1 mm on 76.2 mm at 45°" in drawn.get_text()
    assert drawn.select_one(".template-picture svg path")
    files = [a["href"] for a in drawn.select("a.button") if "/templates/saddle." in a["href"]]
    starts = {"pdf": b"%PDF", "svg": b"<svg", "dxf": b"  0\n"}
    assert len(files) == 4
    for href in files:
        kind = re.search(r"saddle\.(\w+)\?", href)[1]
        assert visitor.client.get(href).data.startswith(starts[kind])


def test_what_cannot_be_drawn_is_said_at_its_field(visitor: Visitor) -> None:
    url = f"{_job(visitor, 'pie-cut')}/cut/templates"
    page = visitor.get(f"{url}?kind=plate&right=120mm", 422)
    assert "over the edge" in page.select_one("#wrong-a-right").get_text()
    assert page.select_one("#a-right")["value"] == "120mm"
    wrong = visitor.get(f"{url}?kind=flange&bolts=many&circle=-3", 422)
    assert wrong.select_one("#wrong-a-bolts")
    assert wrong.select_one("#wrong-a-circle")
    assert "cut it the other way" in visitor.get(f"{url}?kind=saddle&branch=90&header=50", 422).get_text()
    for odd in ("right=120", "tube=wide", "lip=-3"):
        back = visitor.client.get(f"{url}/plate.pdf?{odd}")
        assert back.status_code == 303
        assert visitor.get(back.headers["Location"], 422).select_one(".field-error")
    assert visitor.client.get(f"{url}/nothing.pdf").status_code == 404
    visitor.client.set_cookie("unit", "in")
    assert "Mitre, 2.5 in" in visitor.get(f"{url}?kind=mitre").get_text()


def test_the_bender_is_said_once_and_its_card_follows(visitor: Visitor) -> None:
    job = _job(visitor, "twin cat-back")
    card = visitor.get(f"{job}/cut/bender?at=1")
    assert "springback from 6 test bends" in card.get_text()
    before = card.select_one(".bend-table tbody td:nth-of-type(5)").get_text()
    visitor.post("/equipment", "/equipment/benders/b1/dies/0", set_deg="90", got_deg="84", what="test")
    after = visitor.get(f"{job}/cut/bender?at=1")
    assert "from 7 test bends" in after.get_text()
    assert after.select_one(".bend-table tbody td:nth-of-type(5)").get_text() != before
    refused = visitor.post(
        "/equipment", "/equipment/benders/b1/dies/0", 422, set_deg="steep", got_deg="84", what="test"
    )
    assert refused.select_one("#wrong-b1-0-set_deg")
    assert refused.select_one("#b1-0-set_deg")["value"] == "steep"
    visitor.post("/equipment", "/equipment/benders/b1/dies/0", what="back")
    assert "from 6 test bends" in visitor.get(f"{job}/cut/bender?at=1").get_text()
    # no tool answers in the checks: said, not a fault
    proof = visitor.post(f"{job}/cut/bender?at=1", f"{job}/cut/bender/prove", 422)
    assert "no bender is set up" in proof.get_text()


def test_a_shop_without_a_bender_is_told_where_one_goes(visitor: Visitor) -> None:
    visitor.post("/equipment", "/equipment/benders/b1/drop")
    page = visitor.get(f"{_job(visitor, 'twin cat-back')}/cut/bender")
    assert "No bender of the shop has a die" in page.get_text()
    visitor.post("/equipment", "/equipment/benders", name="old one", most_deg="90")
    visitor.post("/equipment", "/equipment", saw_across_mm="90", processes="MIG")
    shown = visitor.get("/equipment")
    assert "old one turns 90°" in shown.get_text().replace("\n", " ")
    assert shown.select_one("#e-saw_across_mm")["value"] == "90"
    assert [i["value"] for i in shown.select("[name=processes][checked]")] == ["MIG"]
    gone = visitor.client.post(
        "/equipment/benders/b9/dies", data={"csrf_token": shown.select_one("[name=csrf_token]")["value"]}
    )
    assert gone.status_code == 422


def test_trims_are_worked_out_and_what_is_wrong_stands_at_its_field(visitor: Visitor) -> None:
    """3 deg on 63.5 mm: 63.5 tan 3 deg = 3.33 mm at the hour it tilts toward, nothing opposite."""
    url = f"{_job(visitor, 'pie-cut')}/cut/trims"
    page = visitor.get(f"{url}?helper=tilt&tilt=3&clock=4")
    rows = [[td.get_text() for td in tr.select("td")] for tr in page.select(".template-table tbody tr")]
    assert rows[0][:2] == ["4:00", "3.33 mm"]
    assert rows[-1][:2] == ["10:00", "0 mm"]
    template = page.find("a", string="its template at true size")["href"]
    assert "3° off square" in visitor.get(template).get_text()
    assert visitor.get(f"{url}?helper=dart&turn=40", 422).select_one("#wrong-a-turn")
    assert visitor.get(f"{url}?helper=gap&widest=1&opposite=3", 422).select_one("#wrong-a-widest")
    assert "line from the last one's" in visitor.get(f"{url}?helper=stepped&clr=85&first=2&last=2").get_text()
    assert visitor.get(f"{url}?helper=stepped&first=90", 422).select_one("#wrong-a-first")


def test_a_printer_gets_tools_and_mock_ups(visitor: Visitor) -> None:
    url = f"{_job(visitor, 'twin cat-back')}/cut/printer"
    page = visitor.get(f"{url}?tool=saddle&od=63.5&clr=95.25&span=45&every=5")
    stl = visitor.client.get(page.find("a", string="STL")["href"]).data
    assert len(stl) == 84 + 50 * int.from_bytes(stl[80:84], "little")  # a binary STL: this many triangles of 50 bytes
    mock = visitor.get(f"{url}?tool=mockup")
    files = visitor.client.get(mock.find("a", string=re.compile("ZIP"))["href"])
    with zipfile.ZipFile(io.BytesIO(files.data)) as packed:
        assert packed.testzip() is None
        assert any(name.endswith("-piece-1.stl") for name in packed.namelist())
    assert visitor.get(f"{url}?tool=ring&long=1mm", 422).select_one("#wrong-a-long")
    assert visitor.client.get(f"{url}/mockup-none.zip").status_code == 404
    assert visitor.client.get(f"{url}/ring.stl?long=1/0").status_code == 303


def test_a_label_leads_to_its_piece_and_the_lists_come_as_files(visitor: Visitor) -> None:
    job = _job(visitor, "twin cat-back")
    links = [
        a["href"]
        for a in visitor.get(f"{job}/cut").select(".cut-head a")
        if "labels" in a["href"] or "xlsx" in a["href"]
    ]
    assert [visitor.client.get(href).data[:4] for href in links] == [b"%PDF", b"%PDF", b"PK\x03\x04"]
    second = visitor.get(f"{job}/cut/card?at=2").select_one("h1").get_text()
    piece = visitor.get(f"{job}/cut/card?at=2").select_one("[name=piece]")["value"]
    assert visitor.get(f"{job}/cut/card?piece={piece}").select_one("h1").get_text() == second
    assert visitor.client.get(f"{job}/cut/labels.pdf?paper=wall").status_code == 404


def test_a_wrong_bend_finds_its_place_elsewhere_or_stays_and_the_run_follows(visitor: Visitor) -> None:
    job = _job(visitor, "twin cat-back")
    wrong = next(n for n in range(1, 10) if "bend" in visitor.get(f"{job}/cut/card?at={n}").h1.get_text())
    card = f"{job}/cut/card?at={wrong}"
    form = {i["name"]: i["value"] for i in visitor.get(card).select("#done-form input")}
    token = {"csrf_token": form["csrf_token"]}
    assert visitor.client.get(f"{job}/cut/elsewhere?run={form['run']}&piece={form['piece']}").status_code == 404
    visitor.client.post(f"{job}/cut/card", data={**form, "outcome": "went wrong", "what": "much", "by": "2"})
    link = visitor.get(card).find("a", string="Where else does it fit?")["href"]
    page = visitor.get(link)
    places = [" ".join(li.get_text().split()) for li in page.select(".places li")]
    assert any("off it" in p and "at the heel" in p for p in places)
    assert any(re.search(r"piece \d+", p) for p in places)
    changes = [li.get_text() for li in page.select(".besides li")]
    assert any("instead of" in c for c in changes)
    action = link.partition("?")[0]
    data = {i["name"]: i["value"] for i in page.select("form[method=post] input") if i.get("name")}
    assert visitor.client.post(action, data=data | token).status_code == 303
    after = visitor.get(card)
    assert "done" in after.select_one(".creeper-undo").get_text()
    # it is cut now: nothing is looked for any more
    assert visitor.client.get(link).status_code == 404


def test_another_radius_is_tried_on_the_design_before_it_is_taken(visitor: Visitor) -> None:
    job = _job(visitor, "twin cat-back")
    url = f"{job}/cut/substitute"
    run = next(o["value"] for o in visitor.get(url).select("#s-run option") if o.get_text() == "left rear")
    page = visitor.get(f"{url}?run={run}&clr=76.2")
    assert "tube along the middle" in page.get_text()
    assert "95.25" in visitor.get(f"{job}/cut?run={run}").get_text()
    assert visitor.get(f"{url}?run={run}&clr=900", 422).select_one("#wrong-s-clr")
    assert visitor.get(f"{url}?run={run}&clr=wide", 422).select_one("#wrong-s-clr")
    data = {i["name"]: i["value"] for i in page.select("form[method=post] input") if i.get("name")}
    taken = visitor.client.post(url, data=data)
    assert taken.status_code == 303
    assert "76.2 mm radius" in visitor.client.get(taken.headers["Location"]).get_data(as_text=True)
    other = {**data, "tab": "0123456789abcdef"}  # another tab, made on what is not the newest any more
    assert visitor.client.post(url, data=other).status_code == 409
