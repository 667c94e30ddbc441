"""The Weld step and the refit card as a person meets them: joints in turn, schools, ticks, what is refused."""

from __future__ import annotations

from .conftest import Visitor

WELD, REFIT = "/jobs/101/weld", "/jobs/101/weld/refit"


def test_joints_stand_in_their_turn_with_a_drawing_and_cautions(visitor: Visitor) -> None:
    page = visitor.get(f"{WELD}?joint=r1-6")
    assert len(page.select("[aria-label=Joints] tbody tr")) == 17  # sixteen of the run, and the tip on the muffler
    drawing = page.select_one("svg.joint")
    assert len(drawing.select(".joint-tack")) == 4
    assert "Tacks at" in drawing["aria-label"]
    assert len(drawing.select(".joint-shut")) == 5  # no torch gets between the pipe and the crossmember
    text = page.get_text(" ")
    for step in ("before you clean", "before you tack", "before you weld", "before you purge"):
        assert step in text
    assert text.index("before you tack") < text.index("about 59 A")
    assert "29 CFR" in text


def test_how_it_is_welded_is_kept_and_has_its_price(visitor: Visitor) -> None:
    before = visitor.get(WELD).select_one(".big-figure").find_parent("p").get_text()
    visitor.post(WELD, f"{WELD}/how", process="TIG", root="none", order="joint by joint", plug_mm="150")
    page = visitor.get(WELD)
    after = page.select_one(".big-figure").find_parent("p").get_text()
    assert before != after
    turns = [td.get_text() for td in page.select("[aria-label=Joints] tbody td:first-child")]
    assert turns == [str(k) for k in range(1, 18)]
    refused = visitor.post(WELD, f"{WELD}/how", 422, process="TIG", root="purge", order="joint by joint", plug_mm="far")
    assert refused.select_one("#w-plug_mm")["value"] == "far"


def test_a_tacked_joint_is_welded_from_here(visitor: Visitor) -> None:
    visitor.post("/jobs/101/fit?run=r1&piece=p2", "/jobs/101/fit/on")
    assert "0 of 2 welded" in visitor.get(WELD).select_one(".work-line").get_text()
    visitor.post(f"{WELD}?joint=r1-2", "/jobs/101/fit/weld")
    assert "1 of 2 welded" in visitor.get(WELD).select_one(".work-line").get_text()


def test_the_refit_card_is_ticked_with_what_was_read(visitor: Visitor) -> None:
    card = visitor.get(REFIT)
    assert "0 of" in card.get_text()
    assert "M8 12 N m" in " ".join(card.get_text().split())
    visitor.post(REFIT, REFIT, step="leak", reading="30", what="done")
    done = visitor.get(REFIT).select_one("#leak")
    assert "pressure" in done.get_text()
    assert "30" in done.get_text()
    visitor.post(REFIT, REFIT, step="leak", what="undone")
    assert not visitor.get(REFIT).select_one("#leak.done")
    token = visitor.get(REFIT).select_one("input[name=csrf_token]")["value"]
    refused = visitor.client.post(REFIT, data={"csrf_token": token, "step": "nonsense", "what": "done"})
    assert "no longer on it" in visitor.get(refused.location.partition("#")[0]).get_text()


def test_what_was_moved_is_checked_by_somebody_before_it_moves(visitor: Visitor) -> None:
    visitor.post(REFIT, REFIT, what="moved", name="handbrake cable")
    page = visitor.get(REFIT)
    assert "handbrake cable: back, torque and lock" in page.get_text()
    form = {
        "csrf_token": page.select_one("input[name=csrf_token]")["value"],
        "step": page.select_one("li[id^=moved-]")["id"],
        "what": "done",
    }
    answer = visitor.client.post(REFIT, data={**form, "reading": ""})
    assert "who+checked+it" in answer.location or "who%20checked" in answer.location
    assert not visitor.get(REFIT).select_one("li.done[id^=moved-]")
    visitor.client.post(REFIT, data={**form, "reading": "R. Vale"})
    assert "R. Vale" in visitor.get(REFIT).select_one("li.done[id^=moved-]").get_text()
    # forgotten, and something else moved: what was checked of the one is not checked of the other
    part = visitor.get(REFIT).select_one("input[name=part]")["value"]
    visitor.client.post(REFIT, data={**form, "what": "forget", "part": part})
    visitor.client.post(REFIT, data={**form, "what": "moved", "name": "brake line"})
    assert not visitor.get(REFIT).select_one("li.done[id^=moved-]")
    visitor.client.post(REFIT, data={**form, "what": "moved", "name": "handbrake cable"})
    visitor.client.post(REFIT, data={**form, "what": "moved", "name": " "})
    assert "handbrake cable" in visitor.get(REFIT).get_text()


def test_without_pipe_both_say_so(visitor: Visitor) -> None:
    assert "no pipe yet" in visitor.get("/jobs/103/weld").get_text()
    assert "no pipe yet" in visitor.get("/jobs/103/fit").get_text()
    assert visitor.get("/jobs/103/weld/refit").select("#leak")
