"""The program killed three hundred times while people work, and restores cut off: what was acknowledged stands, and it
goes on alone.
"""

from __future__ import annotations

import io
import json
import os
import random
import re
import signal
import statistics
import subprocess
import sys
import threading
import time
import uuid
from collections import Counter, defaultdict
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import psutil
import psycopg
import requests
from PIL import Image

from bench.pages import hidden, straights
from bench.started import ROOT, Started, begun, environment, new_home
from widebend.launch.backups import Print, backup, fingerprint
from widebend.launch.postgres import Cluster

KILLS, POWER_LOSSES, CUT_RESTORES, PORT = 300, 5, 20, 8757
KINDS = ("server", "answering", "worker", "database", "database twice", "connection")
KEEPER_EVERY = 25  # each this many kills the keeper itself goes, and is started as a service of the system would
ANSWERS_S, SEARCH_S, PATIENCE_S = 60.0, 120.0, 20.0
EDITED, TICKED, NOTED, QUOTED = (104, 106), 107, 105, 101


class Hand(threading.Thread):
    """Somebody who does one thing over and over: how often it was acknowledged, how often nobody knows."""

    def __init__(self, host: str) -> None:
        super().__init__(daemon=True)
        self.host, self.session, self.resting = host, requests.Session(), threading.Event()
        self.done, self.doubtful, self.faults = 0, 0, list[str]()
        self.begin()

    def begin(self) -> None:
        """Whatever has to be known before."""

    def act(self) -> bool:
        """Do it once; whether it was acknowledged. Raises requests.RequestException where nobody answered."""
        raise NotImplementedError

    def in_doubt(self) -> None:
        """After an act of which nobody knows whether it was done."""

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        """What the books do not hold that was acknowledged."""
        raise NotImplementedError

    def run(self) -> None:
        while not self.resting.is_set():
            try:
                taken = self.act()
            except requests.RequestException:
                taken = False
            if taken:
                self.done += 1
            else:
                self.doubtful += 1
                with suppress(requests.RequestException):
                    self.in_doubt()
            time.sleep(random.uniform(0.02, 0.15))

    def page(self, path: str) -> str:
        """A page, asked for until it comes."""
        until = time.monotonic() + ANSWERS_S
        while True:
            try:
                answer = self.session.get(self.host + path, timeout=PATIENCE_S)
                if answer.status_code == 200:
                    return answer.text
            except requests.RequestException:
                pass
            if time.monotonic() > until:
                raise requests.Timeout(path)
            time.sleep(0.1)

    def post(self, path: str, fields: dict[str, str], **more: Any) -> requests.Response:
        """A form as a browser sends it."""
        return self.session.post(
            self.host + path,
            data={"csrf_token": self.token()} | fields,
            timeout=PATIENCE_S,
            allow_redirects=False,
            **more,
        )

    def token(self) -> str:
        """What a form carries so that no other page can send it; it holds as long as the session."""
        if not hasattr(self, "_token"):
            self._token = hidden(self.page("/board"), "csrf_token")
        return self._token


class Edits(Hand):
    """A straight made longer and shorter; after a doubt its length must be the one before or the one after."""

    def __init__(self, host: str, job: int) -> None:
        self.job = job
        super().__init__(host)

    def begin(self) -> None:
        legs = self.legs()
        self.run_id, self.piece = max(legs, key=lambda key: legs[key])
        self.length = self.wanted = legs[self.run_id, self.piece]
        self.longer = 1.0
        self.look()

    def legs(self) -> dict[tuple[str, str], float]:
        return straights(json.loads(self.page(f"/jobs/{self.job}/design.json")))

    def look(self) -> None:
        page = self.page(f"/jobs/{self.job}/route?run={self.run_id}&piece={self.piece}")
        self.fields = {key: hidden(page, key) for key in ("csrf_token", "rev", "tab", "from_mm", "to_mm")}

    def act(self) -> bool:
        self.wanted = round(self.length + self.longer, 4)
        answer = self.session.post(
            f"{self.host}/jobs/{self.job}/route/set",
            headers={"HX-Request": "true"},
            timeout=PATIENCE_S,
            data=self.fields
            | {
                "run": self.run_id,
                "piece": self.piece,
                "then": "carry",
                "field": "length_mm",
                "shown": "",
                "value": f"{self.wanted:.4f}",
            },
        )
        if answer.status_code != 200:
            return False
        self.length, self.longer = self.wanted, -self.longer
        self.fields["rev"] = hidden(answer.text, "rev")
        return True

    def in_doubt(self) -> None:
        stands = self.legs()[self.run_id, self.piece]
        if min(abs(stands - self.length), abs(stands - self.wanted)) > 0.001:
            self.faults.append(f"job {self.job}: {stands} stands, {self.length} was taken, {self.wanted} in doubt")
        self.length = self.wanted = stands
        self.look()

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        self.in_doubt()
        return self.faults


class Notes(Hand):
    """Notes with a picture each, of which every one must be there with its picture."""

    def begin(self) -> None:
        self.kept = list[str]()

    def act(self) -> bool:
        words, picture = f"n{uuid.uuid4().hex}", io.BytesIO()
        shade = tuple(random.randrange(256) for _ in range(3))
        Image.new("RGB", (640, 480), shade).save(picture, "JPEG")
        answer = self.post(
            f"/jobs/{NOTED}/hours/note",
            {"kind": "note", "words": words, "who": "Ann"},
            files={"picture": ("seen.jpg", picture.getvalue())},
        )
        if answer.status_code == 303:
            self.kept.append(words)
        return answer.status_code == 303

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        rows = books.execute("SELECT n.words FROM job_log n JOIN files f USING (sha256) WHERE n.job_id = %s", [NOTED])
        there = {row[0] for row in rows}
        return [f"note {words}" for words in self.kept if words not in there]


class Bookings(Hand):
    """One more on the shelf each time: counted is what was there, what was acknowledged and some of the doubts."""

    def begin(self) -> None:
        self.item = re.findall(r"/stock/(\d+)/book", self.page("/stock"))[0]

    def act(self) -> bool:
        fields = {"why": "receive", "number": "1", "who": "Ann"}
        return self.post(f"/stock/{self.item}/book", fields).status_code == 303

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        row = books.execute(
            "SELECT i.counted, sum(m.change), sum(m.change) FILTER (WHERE m.who = 'Ann') "
            "FROM stock_items i JOIN stock_moves m ON m.item_id = i.id WHERE i.id = %s "
            "GROUP BY i.id",
            [self.item],
        ).fetchone()
        counted, booked, ours = row or (0, 0, 0)
        whole = counted == booked and self.done <= ours <= self.done + self.doubtful
        return [] if whole else [f"shelf: {counted} counted, {booked} booked, {ours} of {self.done} are ours"]


class Ticks(Hand):
    """A step at the bench done and taken back; a stroke that was not acknowledged is sent again, and counts once."""

    def begin(self) -> None:
        page = self.page(f"/jobs/{TICKED}/cut/card")
        self.fields = {"piece": hidden(page, "piece"), "run": hidden(page, "run"), "at": "1"}
        self.is_done, self.stroke = False, ""

    def act(self) -> bool:
        self.stroke = self.stroke or str(uuid.uuid4())
        outcome = f"{'unstep' if self.is_done else 'step'}:face"
        answer = self.post(f"/jobs/{TICKED}/cut/card", self.fields | {"outcome": outcome, "stroke": self.stroke})
        if answer.status_code != 303:
            return False
        self.is_done, self.stroke = not self.is_done, ""
        return True

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        until = time.monotonic() + ANSWERS_S
        while self.stroke and time.monotonic() < until:
            self.act()
        row = books.execute(
            "SELECT count(*) FROM card_steps s JOIN documents d ON d.id = s.document_id "
            "WHERE d.job_id = %s AND s.piece_id = %s AND s.step = 'face'",
            [TICKED, self.fields["piece"]],
        ).fetchone()
        stands = bool(row and row[0])
        return [] if stands == self.is_done else [f"a tick is {stands}, acknowledged was {self.is_done}"]


class Quotes(Hand):
    """A quote sent over and over."""

    def act(self) -> bool:
        return self.post(f"/jobs/{QUOTED}/quote/send", {}).status_code == 200

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        row = books.execute("SELECT count(*) FROM quotes WHERE job_id = %s", [QUOTED]).fetchone()
        there = int(row[0]) if row else 0
        return [] if self.done <= there <= self.done + self.doubtful else [f"{there} quotes, {self.done} acknowledged"]


class Searches(Hand):
    """Searches asked for; each that was acknowledged must end."""

    def begin(self) -> None:
        self.asked = set[int]()

    def act(self) -> bool:
        answer = self.post(f"/jobs/{random.choice((TICKED, *EDITED))}/route/look", {})
        found = re.search(r"/search/(\d+)", answer.headers.get("Location", ""))
        if found:
            self.asked.add(int(found[1]))
        time.sleep(1.0)
        return bool(found)

    def lost(self, books: psycopg.Connection[Any]) -> list[str]:
        until = time.monotonic() + SEARCH_S
        while True:
            rows = books.execute("SELECT id, state FROM searches").fetchall()
            open_ones = [f"search {id} is {state}" for id, state in rows if state in ("waiting", "working")]
            missing = [f"search {id} is gone" for id in self.asked - {row[0] for row in rows}]
            if not open_ones or time.monotonic() > until:
                self.states = defaultdict(int)
                for _, state in rows:
                    self.states[state] += 1
                return open_ones + missing
            time.sleep(0.5)


def bench_kills() -> None:
    """300 kills amid edits, pictures, bookings, ticks, quotes and searches; then all of it at once, from a copy."""
    rng = random.Random(5)
    back: dict[str, list[float]] = defaultdict(list)
    with ExitStack() as undo:
        program = begun(new_home("wb-kills-"), PORT)
        undo.callback(lambda: program.stop())
        hands = _hands(program.host)
        for number in range(1, KILLS + 1):
            time.sleep(rng.uniform(0.2, 1.5))
            kind = "keeper" if number % KEEPER_EVERY == 0 else rng.choice(KINDS)
            program, spent = _killed(program, kind)
            back[kind].append(spent)
        for _ in range(POWER_LOSSES):
            time.sleep(rng.uniform(2.0, 4.0))
            program, spent = _from_a_copy(program, hands)
            back["power"].append(spent)
        for kind, times in back.items():
            print(
                f"{kind:12s}{len(times):4d} killed; back in {statistics.median(times):5.2f} s, "
                f"worst {max(times):5.2f} s"
            )
        for hand in hands:
            hand.resting.set()
        for hand in hands:
            hand.join(ANSWERS_S)
        _tell(hands, Cluster(program.home / "postgres").url)
        _restores_cut(program, rng)


def _hands(host: str) -> list[Hand]:
    hands = [
        *(Edits(host, job) for job in EDITED),
        Notes(host),
        Bookings(host),
        Ticks(host),
        Quotes(host),
        Searches(host),
    ]
    for hand in hands:
        hand.start()
    return hands


def _killed(program: Started, kind: str) -> tuple[Started, float]:
    """Kill one process; the program, and how long until a page with a design comes again and the process lives."""
    what = "database" if kind == "database twice" else kind
    victim = _alive(program, what)
    victim.kill()
    if kind == "database twice":  # and again while it is being begun again
        victim = _alive(program, what, not_this=victim)
        victim.kill()
    since = time.monotonic()
    if kind == "keeper":
        program.mother.wait()
        program = begun(program.home, PORT)
    _alive(program, "database" if kind == "connection" else what, not_this=victim if kind != "connection" else None)
    _answers(program.host)
    return program, time.monotonic() - since


def _alive(program: Started, kind: str, not_this: psutil.Process | None = None) -> psutil.Process:
    until = time.monotonic() + ANSWERS_S
    while time.monotonic() < until:
        found = program.one(kind)
        if found and found != not_this:
            return found
        time.sleep(0.02)
    raise TimeoutError(f"no {kind} lives")


def _answers(host: str) -> None:
    until = time.monotonic() + ANSWERS_S
    while time.monotonic() < until:
        try:
            if requests.get(f"{host}/jobs/{EDITED[0]}/intake", timeout=PATIENCE_S).status_code == 200:
                return
        except requests.RequestException:
            pass
        time.sleep(0.02)
    raise TimeoutError("no page comes")


def _from_a_copy(program: Started, hands: list[Hand]) -> tuple[Started, float]:
    """Every process of ours killed at once, as when the power goes; started again from a copy of the files."""
    keeper, database = psutil.Process(program.mother.pid), psutil.Process(program.postmaster())
    for process in [keeper, database, *keeper.children(recursive=True), *database.children()]:
        with suppress(psutil.NoSuchProcess):
            process.kill()
    program.mother.wait()
    home = new_home("wb-power-")
    subprocess.run(["cp", "-a", f"{program.home}/.", home], check=True)
    since = time.monotonic()
    again = begun(home, PORT)
    for hand in hands:
        hand.host = again.host
    _answers(again.host)
    return again, time.monotonic() - since


def _tell(hands: list[Hand], url: str) -> None:
    with psycopg.connect(url, autocommit=True) as books:
        for hand in hands:
            lost = hand.lost(books)
            print(f"{type(hand).__name__:10s}{hand.done:6d} acknowledged, {hand.doubtful:4d} not; lost: {len(lost)}")
            for words in lost[:5]:
                print(f"    {words}")


def _restores_cut(program: Started, rng: random.Random) -> None:
    """Restores killed at any moment: the books are those from before or those of the backup, and nothing else."""
    program.stop()
    program.mother.wait()
    cluster = Cluster(program.home / "postgres")
    cluster.start()
    file = backup(cluster.url, program.home / "kept")
    wanted, took, ends = _changed_and_restored(program, cluster, file, None)
    assert ends == wanted
    counted = Counter[str]()
    for _ in range(CUT_RESTORES):
        before, _, now = _changed_and_restored(
            program, cluster, file, rng.choice((rng.uniform(0.2, 0.9), rng.uniform(0.9, 1.02))) * took
        )
        counted["as they were" if now == before else "the backup" if now == wanted else "something else"] += 1
    print(f"restores    {CUT_RESTORES} cut within {took:.1f} s: the books were then {dict(counted)}")
    cluster.stop()


def _changed_and_restored(
    program: Started, cluster: Cluster, file: Path, cut_s: float | None
) -> tuple[Print, float, Print]:
    """The books changed, then the backup put in their place, killed after some seconds; the books before (whole: of the
    backup), how long it took [s], the books then.
    """
    cluster.start()
    with psycopg.connect(cluster.url, autocommit=True) as books:
        of_backup = fingerprint(books)
        books.execute("INSERT INTO audit (who, what) VALUES ('bench', 'changed before a restore')")
        before = fingerprint(books)
    since = time.monotonic()
    process = subprocess.Popen(
        [sys.executable, "-m", "widebend.launch", "restore", "--yes", str(file)],
        cwd=ROOT,
        env=environment(program.home),
        start_new_session=True,
        stdout=subprocess.DEVNULL,
    )
    with suppress(subprocess.TimeoutExpired):
        process.wait(cut_s)
    took = time.monotonic() - since
    with suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()
    cluster.start()
    with psycopg.connect(cluster.url) as books:
        return before if cut_s else of_backup, took, fingerprint(books)
