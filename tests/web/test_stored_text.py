"""What people type is text wherever it comes out: in pages, drawings, tables and on paper, by every route of a job."""

from __future__ import annotations

import io
import json
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

from .conftest import Visitor

BAD = "</title><script>alert(7)</script><img src=x onerror=alert(8)>&\"'"
NAMED = {"name", "title", "wanted", "complaint", "vehicle", "words", "found_removed", "note"}


def _poisoned(value: Any, key: str = "") -> Any:
    """The same with what people name replaced."""
    if isinstance(value, dict):
        return {k: _poisoned(v, k) for k, v in value.items()}
    if isinstance(value, list):
        return [_poisoned(one, key) for one in value]
    return BAD if key in NAMED and isinstance(value, str) else value


def _taken_in(visitor: Visitor) -> int:
    """The demo's twin system as another shop would send it, every name of it a trick."""
    out, sent = io.BytesIO(), zipfile.ZipFile(io.BytesIO(visitor.client.get("/jobs/104/bundle.zip").data))
    with zipfile.ZipFile(out, "w") as packed:
        for name in sent.namelist():
            data = sent.read(name)
            packed.writestr(name, json.dumps(_poisoned(json.loads(data))) if name.endswith(".json") else data)
    form = visitor.form("/take-in", "/take-in")
    token = {i["name"]: i["value"] for i in form.select("input[type=hidden]")}
    answer = visitor.client.post("/take-in", data={**token, "bundle": (io.BytesIO(out.getvalue()), "job.zip")})
    assert answer.status_code == 303, answer.data[-900:]
    return int(answer.location.split("/")[2])


def _looked_at(visitor: Visitor, job: int) -> Iterator[tuple[str, str, bytes]]:
    """Every address of the job that can be looked at, with what it is and what comes."""
    app = visitor.client.application
    for rule in list(app.url_map.iter_rules()):
        if "GET" not in rule.methods or rule.arguments - {"job_id"} or rule.endpoint == "static":
            continue
        url = app.url_map.bind("localhost").build(rule.endpoint, {"job_id": job} if rule.arguments else {})
        answer = visitor.client.get(url)
        assert answer.status_code != 500, url
        if answer.status_code == 200:
            yield url, answer.mimetype, answer.data


def test_no_name_is_ever_a_command(visitor: Visitor, tmp_path: Path) -> None:
    job = _taken_in(visitor)
    visitor.post(f"/jobs/{job}/hours", f"/jobs/{job}/hours/note", kind="note", words=BAD, who="Ada")
    visitor.post(f"/jobs/{job}/intake", f"/jobs/{job}/intake/said", sound=BAD, look=BAD)
    visitor.post(f"/jobs/{job}/handover", f"/jobs/{job}/handover/say", words=BAD)
    seen: dict[str, int] = {}
    for url, kind, data in _looked_at(visitor, job):
        seen[kind] = seen.get(kind, 0) + 1
        if kind == "text/html":
            assert b"<script>alert" not in data, url
            assert b"<img src=x" not in data, url
        elif kind == "image/svg+xml":
            tags = {one.tag.rpartition("}")[2] for one in ElementTree.fromstring(data).iter()}
            assert not tags & {"script", "img", "foreignObject"}, url
        elif kind == "application/pdf":
            paper = tmp_path / "paper.pdf"
            paper.write_bytes(data)
            text = subprocess.run(["pdftotext", str(paper), "-"], check=True, capture_output=True, text=True).stdout
            assert len(text) > 20, url
            assert b"/JavaScript" not in data, url
            seen["said on paper"] = seen.get("said on paper", 0) + ("alert(7)" in text.replace("\n", ""))
    assert seen["text/html"] > 30
    assert seen["application/pdf"] >= 4
    assert seen["said on paper"] >= 3  # as it was typed, and not left out
