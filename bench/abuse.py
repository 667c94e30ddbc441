"""A hundred thousand requests that no honest page makes, from the URL map and the code of the views, at the program as
it is started: nothing may break, nothing may take long, memory stays as it is, others are served meanwhile.
"""

from __future__ import annotations

import json
import os
import statistics
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import requests
from bs4 import BeautifulSoup, Tag
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from bench.bystander import TOO_LONG_S, Bystander
from bench.fields import Address, addresses
from bench.odd_uploads import ODD_FILES
from bench.pages import hidden
from bench.started import begun, new_home

REQUESTS, CLIENTS, PORT, SLOW_S = 100_000, 2, 8767, 5.0
EACH_ROUND = 10_000  # then the books are begun again: odd requests put jobs away and erase customers
JOBS = tuple(range(101, 108))
ODD = [
    "",
    " ",
    "0",
    "-0",
    "-1",
    "1e9",
    "1e400",
    "nan",
    "inf",
    "-inf",
    "1" * 5000,
    "9" * 30,
    "²",
    "½",
    "1/0",
    "0/0",
    "1/2/3",
    "63.5",
    '2 1/2"',
    "1' 4 3/8\"",
    "-40 mm",
    "12,5",
    "0x10",
    "1_000",
    "٣",
    "a\x00b",
    "a\nb",
    "a\r\n\tb",
    "\u202e",
    "😀",
    "|",
    "a|b",
    "x" * 300,
    "y" * 20_000,
    "{}",
    "[]",
    '{"a": 1}',
    "null",
    "true",
    "<b>",
    "'",
    '"',
    "\\",
    "../..",
    "//host",
    "%00",
    "%",
    "{{7*7}}",
    "'; drop table jobs; --",
    "p1",
    "r1",
    "s.out",
    "a.b.c",
    ".",
    "t1",
    "w1",
    "180",
    "360",
    "361",
    "0.001",
    "24:00",
    "3:15",
    "25",
    "1 2 3",
    "1, 2, 3",
    "0,0,0\n1,1,1",
    "1;2;3",
    "\n" * 400,
    "1,2\n" * 3000,
]
IDS = ("p1", "p2", "p3", "r1", "r2", "t1", "t2", "w1", "m1", "h1", "part-1", "tank", "axle", "none", "all", "new")
LEFT_OUT = {"static", "floor.put_demo_away"}  # after the latter nobody is signed in, and all else is refused
SHEETS = (
    "intake",
    "underbody",
    "underbody/measure",
    "underbody/files",
    "underbody/camera",
    "layout",
    "layout/parts",
    "layout/fixings",
    "layout/crossings",
    "layout/driven",
    "layout/rear",
    "layout/bore",
    "layout/heat",
    "layout/sound",
    "layout/apart",
    "route",
    "hang",
    "cut",
    "cut/card",
    "cut/nest",
    "cut/elsewhere",
    "fit",
    "weld",
    "quote",
    "hours",
    "handover",
)
PAGES = (
    "/",
    "/stock",
    "/rules",
    "/rates",
    "/board",
    "/equipment",
    "/people",
    "/cards",
    "/account",
    *(f"/jobs/{job}/{sheet}" for job in JOBS for sheet in SHEETS),
)
SHAPES = ("form", "form", "form", "form", "file", "twice", "json", "raw", "huge", "many", "query")
KINDS = (
    "application/x-www-form-urlencoded",
    "multipart/form-data",
    "multipart/form-data; boundary=x",
    "application/x-www-form-urlencoded; charset=utf-7",
    "text/plain",
    "a/b; charset=none",
)


@dataclass
class Outcome:
    """What came of requests: how many of each status, which addresses, what broke or took long."""

    codes: Counter[int] = field(default_factory=Counter)
    seen: set[str] = field(default_factory=set)
    broken: list[str] = field(default_factory=list)
    slow: list[tuple[float, str]] = field(default_factory=list)

    def add(self, other: Outcome) -> None:
        """Those of another client too."""
        self.codes += other.codes
        self.seen |= other.seen
        self.broken += other.broken
        self.slow += other.slow


odd = st.one_of(st.sampled_from(ODD), st.text(max_size=60), st.floats().map(repr), st.integers().map(str))
plain = st.one_of(st.floats(-3000, 5000).map(lambda x: f"{x:.1f}"), st.integers(0, 200).map(str))
an_id = st.sampled_from(IDS)


def values(address: Address) -> st.SearchStrategy[dict[str, str]]:
    """A form for an address: of the fields that its code reads most are like what they should be, some are odd."""
    known = st.sampled_from(address.known) if address.known else an_id
    each = {name: st.one_of(plain, plain, odd) for name in address.numbers}
    each |= {name: st.one_of(known, an_id, an_id, plain, odd) for name in address.words}
    return st.fixed_dictionaries({}, optional=each) if each else st.just({})


def paths(address: Address) -> st.SearchStrategy[str]:
    """An address with its parts filled in: most of them with what is there."""
    rule = str(address.rule)
    parts = {name: _part(name) for name in address.rule.arguments}
    return st.fixed_dictionaries(parts).map(lambda found: _filled(rule, found))


def _part(name: str) -> st.SearchStrategy[str]:
    whole = st.one_of(st.integers(0, 12), st.integers(), st.just(10**30)).map(str)
    if name == "job_id":
        return st.one_of(*[st.sampled_from(JOBS).map(str)] * 5, whole)
    if name.endswith("_id") and name not in ("bender_id", "run_id"):
        return whole
    words = st.sampled_from(("tape", "plumb", "old", "level", "angle", "distance", "nut", "csv", "a4", "jpg", "f" * 64))
    return st.one_of(words, an_id, odd).map(lambda text: requests.utils.quote(text.encode("utf-8", "replace"), safe=""))


def _filled(rule: str, found: dict[str, str]) -> str:
    for name, text in found.items():
        for kind in ("", "int:", "path:"):
            rule = rule.replace(f"<{kind}{name}>", text)
    return rule


class Client:
    """Somebody who sends what no page sends, and now and then the form of a page with a few fields made odd."""

    def __init__(self, host: str, number: int) -> None:
        self.host, self.number, self.out = host, number, Outcome()
        self.session = requests.Session()
        self.token = hidden(self.session.get(f"{host}/jobs/101/route", timeout=TOO_LONG_S).text, "csrf_token")
        self.forms: list[tuple[str, str, dict[str, str]]] = []

    def run(self, count: int, all_addresses: list[Address]) -> Outcome:
        """This many requests."""
        wide = st.sampled_from(all_addresses).flatmap(
            lambda a: st.tuples(st.just(a), paths(a), values(a), st.sampled_from(SHAPES), odd)
        )

        some = st.lists(st.tuples(st.integers(0, 99), st.one_of(odd, plain, an_id)), min_size=1, max_size=3)

        @seed(self.number)
        @settings(
            max_examples=count // 2,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(wide, st.sampled_from(PAGES), some)
        def attack(
            asked: tuple[Address, str, dict[str, str], str, str], page: str, changes: list[tuple[int, str]]
        ) -> None:
            self.send(*asked)
            self.send_a_form(page, changes)

        attack()
        return self.out

    def send(self, address: Address, path: str, fields: dict[str, str], shape: str, other: str) -> None:
        """One request to an address; its body is well made, or in one of the ways in which bodies are not."""
        verb = address.methods[0] if other != "" else "PUT"
        headers = {"HX-Request": "true"} if len(other) % 2 else {}
        if verb == "GET" or shape == "query":
            self.tried(verb, path, headers, params=fields, data={"csrf_token": self.token} if verb != "GET" else None)
            return
        whole = {"csrf_token": self.token, **fields}
        if shape == "file":
            sent = {name: ODD_FILES[hash(other) % len(ODD_FILES)] for name in address.files or ("file",)}
            self.tried(verb, path, headers, data=whole, files=sent)
        elif shape == "twice":
            self.tried(verb, path, headers, data=[*whole.items(), *[(k, other) for k in fields]])
        elif shape == "json":
            headers |= {"Content-Type": "application/json", "X-CSRFToken": self.token}
            self.tried(verb, path, headers, data=json.dumps({"a": other, **whole}))
        elif shape == "raw":
            kind = KINDS[len(other) % len(KINDS)]
            headers |= {"Content-Type": kind, "X-CSRFToken": self.token}
            self.tried(verb, path, headers, data=b"--x\r\n" + other.encode("utf-16", "replace") + b"%ff%fe=%00&a=%")
        elif shape == "huge":
            big = next(iter(fields), "words")
            self.tried(verb, path, headers, data=whole | {big: (other or "x") * (400_000 // max(1, len(other)))})
        elif shape == "many":
            self.tried(verb, path, headers, data=whole | {f"{other[:8]}{k}": other for k in range(600)})
        else:
            self.tried(verb, path, headers, data=whole)

    def send_a_form(self, page: str, changes: list[tuple[int, str]]) -> None:
        """A form as a page has it now, one to three of its fields odd."""
        if not self.forms:
            self.harvest(page)
        if not self.forms:
            return
        verb, path, fields = self.forms.pop()
        free = [name for name in fields if name != "csrf_token"]
        for which, value in changes if free else []:
            fields[free[which % len(free)]] = value
        headers = {"HX-Request": "true"}
        if verb == "POST":
            self.tried("POST", path, headers, data=fields)
        else:
            self.tried("GET", path, headers, params=fields)

    def harvest(self, url: str) -> None:
        """The forms of a page, a dozen of them."""
        page = self.tried("GET", url, {})
        for form in BeautifulSoup(page, "html.parser").select("form")[:40]:
            target = form.get("action") or url
            if "put-away" in target or "erase" in target:
                continue
            fields = {
                one["name"]: _value(one)
                for one in form.select("input[name], select[name], textarea[name], button[name]")
                if one.get("type") != "file"
            }
            self.forms.append(((form.get("method") or "get").upper(), target, fields))
        self.forms = self.forms[-12:]

    def tried(self, verb: str, path: str, headers: dict[str, str], **body: Any) -> str:
        """Send it, and write down what came of it; the answer's text."""
        began = time.monotonic()
        words = f"{verb} {path[:120]} {str(body)[:400]}"
        try:
            answer = self.session.request(
                verb, self.host + path, headers=headers, timeout=TOO_LONG_S, allow_redirects=False, **body
            )
        except (requests.RequestException, UnicodeError, ValueError) as exc:
            self.out.codes[0] += 1
            if isinstance(exc, requests.Timeout):
                self.out.broken.append(f"no answer: {words}")
            return ""
        spent = time.monotonic() - began
        self.out.codes[answer.status_code] += 1
        self.out.seen.add(path.partition("?")[0])
        text = answer.text if "html" in answer.headers.get("Content-Type", "") else ""
        if answer.status_code >= 500 or "Traceback" in text:
            self.out.broken.append(f"{answer.status_code} {words}")
        if spent > SLOW_S / 2:
            self.out.slow.append((spent, words))
        return text


def _value(field: Tag) -> str:
    """What a field of a form holds as the page came."""
    if field.name == "select":
        chosen = field.select_one("option[selected]") or field.select_one("option")
        return str(chosen.get("value", chosen.text)) if chosen else ""
    return field.text if field.name == "textarea" else str(field.get("value", ""))


def _client(host: str, number: int, count: int) -> Outcome:
    from widebend.web import create_app

    wanted = [
        a
        for a in addresses(create_app("postgresql://nobody@127.0.0.1/none", secret="x" * 64))
        if a.rule.endpoint not in LEFT_OUT
    ]
    return Client(host, number).run(count, wanted)


def bench_abuse() -> None:
    """100,000 requests with odd ids, fields, types, sizes, encodings and files: what broke, what was slow, memory."""
    whole, number = Outcome(), 0
    while sum(whole.codes.values()) < int(os.environ.get("WIDEBEND_ABUSE", REQUESTS)):
        number += 1
        found, by = _one_round(number)
        whole.add(found)
        quarter = max(1, len(by.mb) // 4)
        early, late = (statistics.median(some) for some in (by.mb[quarter : 2 * quarter] or by.mb, by.mb[-quarter:]))
        ranked, slow = sorted(by.took_s), sum(s > SLOW_S for s, _ in whole.slow)
        print(
            f"round {number}: {sum(whole.codes.values())} requests {dict(sorted(whole.codes.items()))}; "
            f"memory {early:.0f} -> {late:.0f} MB; the shop floor meanwhile: "
            f"median {statistics.median(ranked):.2f} s, worst {ranked[-1]:.2f} s; "
            f"broken {len(whole.broken)}, over {SLOW_S:.0f} s {slow}",
            flush=True,
        )
    print(f"{len(whole.seen)} different addresses")
    for words in whole.broken[:40]:
        print(f"  broken: {words[:500]}")
    for spent, words in sorted(whole.slow, reverse=True)[:15]:
        print(f"  {spent:5.1f} s  {words[:200]}")


def _one_round(number: int) -> tuple[Outcome, Bystander]:
    program = begun(new_home("wb-abuse-"), PORT)
    out, by = Outcome(), Bystander(program)
    by.start()
    try:
        with ProcessPoolExecutor(CLIENTS) as clients:
            numbers = [100 * number + k for k in range(CLIENTS)]
            for found in clients.map(partial(_client, program.host, count=EACH_ROUND // CLIENTS), numbers):
                out.add(found)
    finally:
        by.ended.set()
        by.join()
        program.stop()
    return out, by
