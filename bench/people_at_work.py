"""What locust runs: people, two at a job, who each change a straight of their own as often as hands do."""

from __future__ import annotations

import itertools
import os

import requests
from locust import HttpUser, between, events, task

from bench.pages import hidden, straights

HOST, JOBS = os.environ["WIDEBEND_LOAD_HOST"], os.environ["WIDEBEND_LOAD_JOBS"].split(",")
LONG_MM = 100.0  # a straight that a millimetre more or less does not close
KEPT: dict[tuple[str, str, str], float] = {}  # by job, run and piece: the last length that was taken
TAKEN: dict[str, int] = {}  # changes that were taken, by job
BEGAN: dict[str, int] = {}  # the revision each job began at
_turn = itertools.count()


def long_straights(job: str) -> list[tuple[str, str, float]]:
    """The long straights of a job by its design file: run, piece, length."""
    design = requests.get(f"{HOST}/jobs/{job}/design.json", timeout=30).json()
    return [(run, piece, length) for (run, piece), length in straights(design).items() if length > LONG_MM]


def newest(job: str) -> int:
    """The newest revision of a job's design."""
    return int(hidden(requests.get(f"{HOST}/jobs/{job}/route", timeout=30).text, "rev"))


class Fabricator(HttpUser):
    """Changes a straight, looks again, finds a customer; where the other came first, does it again on the new page."""

    wait_time = between(5.0, 15.0)  # what an edit did is looked at before the next

    def on_start(self) -> None:
        number = next(_turn)
        self.job = JOBS[number % len(JOBS)]
        mine = long_straights(self.job)
        self.run_id, self.piece, self.length = mine[0] if number < len(JOBS) else mine[-1]
        self.longer = 1.0
        BEGAN.setdefault(self.job, newest(self.job))
        self.look()

    @task(1)
    def look(self) -> None:
        """The Route page at this piece, with what an edit sends back."""
        at = f"/jobs/{self.job}/route?run={self.run_id}&piece={self.piece}"
        page = self.client.get(at, name="the Route page").text
        self.fields = {key: hidden(page, key) for key in ("csrf_token", "rev", "tab", "from_mm", "to_mm")}

    @task(6)
    def change(self) -> None:
        """A millimetre longer, then shorter again."""
        wanted = self.length + self.longer
        fields = self.fields | {
            "run": self.run_id,
            "piece": self.piece,
            "then": "carry",
            "field": "length_mm",
            "shown": "",
            "value": f"{wanted:.4f}",
        }
        with self.client.post(
            f"/jobs/{self.job}/route/set",
            data=fields,
            headers={"HX-Request": "true"},
            name="a change",
            catch_response=True,
        ) as answer:
            if answer.status_code == 200:
                TAKEN[self.job] = TAKEN.get(self.job, 0) + 1
                KEPT[self.job, self.run_id, self.piece] = self.length = round(wanted, 4)
                self.longer = -self.longer
                self.fields["rev"] = hidden(answer.text, "rev")
                return
            if answer.status_code == 409:  # refused with what came first: no failure
                answer.success()
        self.look()

    @task(2)
    def bare(self) -> None:
        """A page with no job on it, to compare with."""
        self.client.get("/jobs/new", name="a bare page")

    @task(1)
    def find(self) -> None:
        """A customer, mistyped."""
        self.client.get("/find", params={"q": "orin vael"}, name="find")


@events.test_stop.add_listener
def nothing_is_lost(environment: object, **_: object) -> None:
    """Every change that was taken is a revision, and the last length taken of every piece is the one that stands."""
    revisions = sum(newest(job) - BEGAN[job] for job in BEGAN)
    stands = {(job, run, piece): length for job in JOBS for run, piece, length in long_straights(job)}
    other = sum(abs(stands[key] - length) > 0.001 for key, length in KEPT.items())
    print(
        f"{sum(TAKEN.values())} changes were taken, {revisions} revisions stand; "
        f"of {len(KEPT)} straights {other} are not as they were left"
    )
