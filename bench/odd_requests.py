"""Requests with odd fields, made from the program's own forms: nothing may break, nothing may take long."""

from __future__ import annotations

import io
import time
from collections import Counter
from dataclasses import dataclass, field

import numpy as np
from bs4 import BeautifulSoup
from flask.testing import FlaskClient

from bench.served import served_demo

REQUESTS, SLOW_S = 20_000, 5.0
ODD = [
    "", " ", "0", "-0", "-1", "1e9", "1e400", "nan", "inf", "-inf", "1" * 5000, "9" * 30, "²", "½", "1/0", "0/0",
    "1/2/3", "63.5", "2 1/2\"", "1' 4 3/8\"", "-40 mm", "12,5", "0x10", "1_000", "٣", "a\x00b", "a\nb", "a\r\n\tb",
    "\u202e", "😀", "|", "a|b", "x" * 300, "y" * 20_000, "{}", "[]", '{"a": 1}', "null", "true", "<b>", "'", '"',
    "\\", "../..", "//host", "%00", "%", "{{7*7}}", "'; drop table jobs; --", "p1", "r1", "s.out", "a.b.c", ".", "t1",
    "w1", "180", "360", "361", "0.001", "24:00", "3:15", "25", "1 2 3", "1, 2, 3", "0,0,0\n1,1,1", "1;2;3",
    "\n" * 400, "1,2\n" * 3000,
]  # fmt: skip
PAGES = [
    "/", "/jobs/new", "/rules", "/tools", *(f"/jobs/{j}/{p}" for j in (101, 102, 103, 104) for p in (
        "intake", "underbody", "underbody?sheet=travel", "underbody?sheet=windows", "underbody?sheet=hang-points",
        "underbody?sheet=old-parts", "underbody?sheet=marks", "underbody?sheet=stance", "underbody?sheet=check",
        "underbody/files", "underbody/measure/tape", "underbody/measure/plumb", "underbody/measure/old", "layout",
        "layout/parts", "layout/fixings", "layout/crossings", "layout/apart", "layout/driven", "layout/rear",
        "layout/own-shelf", "route", "route?piece=p2", "cut", "cut/card")),
]  # fmt: skip


@dataclass
class Outcome:
    """What came of the requests: how many of each status, and what broke or took long."""

    codes: Counter[int] = field(default_factory=Counter)
    broken: list[str] = field(default_factory=list)
    slowest_s: float = 0.0
    slowest: str = ""


def odd_requests(client: FlaskClient, rng: np.random.Generator, count: int) -> Outcome:
    """Forms of a random page, a few fields made odd, posted or got; the pages are read anew as they change."""
    out = Outcome()
    while sum(out.codes.values()) < count:
        url = str(rng.choice(PAGES))
        page = _tried(client, out, "GET", url, {})
        forms = [f for f in BeautifulSoup(page, "html.parser").select("form") if f.get("action") or f.get("method")]
        for k in rng.permutation(len(forms))[:12]:
            form = forms[k]
            verb = (form.get("method") or "get").upper()
            _tried(client, out, verb, form.get("action") or url, _oddly(form, rng))
        links = [a["href"] for a in BeautifulSoup(page, "html.parser").select("a[href^='/']") if "?" in a["href"]]
        for k in rng.permutation(len(links))[:3]:
            path, _, query = links[k].partition("?")
            keys = [pair.partition("=")[0] for pair in query.split("&")]
            _tried(client, out, "GET", path, {str(rng.choice(keys)): str(rng.choice(ODD))})
    return out


def _oddly(form: BeautifulSoup, rng: np.random.Generator) -> dict[str, object]:
    values: dict[str, object] = {}
    names = []
    for one in form.select("input, select, textarea, button"):
        name = one.get("name")
        if not name:
            continue
        if one.name == "select":
            options = [o.get("value", o.text) for o in one.select("option")]
            values[name] = str(rng.choice(options)) if options else ""
        elif one.get("type") == "file":
            values[name] = (
                io.BytesIO(str(rng.choice(ODD)).encode()),
                f"odd.{rng.choice(['stl', 'json', 'csv', 'zip'])}",
            )
            continue
        elif one.name != "button" or name not in values or rng.random() < 0.5:
            values[name] = one.text if one.name == "textarea" else one.get("value", "")
        names.append(name)
    free = [n for n in dict.fromkeys(names) if n != "csrf_token"]
    for name in rng.permutation(free)[: int(rng.integers(1, 4))]:
        values[str(name)] = str(rng.choice(ODD))
    if rng.random() < 0.05 and free:
        values.pop(str(rng.choice(free)))
    return values


def _tried(client: FlaskClient, out: Outcome, verb: str, url: str, values: dict[str, object]) -> bytes:
    begun = time.perf_counter()
    if verb == "POST":
        response = client.post(url, data=values, headers={"HX-Request": "true"})
    else:
        response = client.get(url, query_string={k: str(v) for k, v in values.items()} or None)
    spent = time.perf_counter() - begun
    out.codes[response.status_code] += 1
    words = f"{verb} {url} { {k: str(v)[:60] for k, v in values.items() if k not in ('csrf_token', 'tab')} }"
    if response.status_code >= 500:
        out.broken.append(words)
    if spent > out.slowest_s:
        out.slowest_s, out.slowest = spent, words
    return response.data


def bench_odd() -> None:
    """20,000 requests with odd fields from the forms themselves: what broke, and the slowest."""
    with served_demo() as app:
        found = odd_requests(app.test_client(), np.random.default_rng(9), REQUESTS)
    print(f"{sum(found.codes.values())} requests: {dict(sorted(found.codes.items()))}; slowest {found.slowest_s:.2f} s")
    print(f"broken: {len(found.broken)}; slowest was {found.slowest[:160]}")
    for words in found.broken[:20]:
        print(f"  {words[:300]}")
