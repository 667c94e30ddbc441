"""Files that no honest hand sends: small odd ones, and those made to take a program's memory or time."""

from __future__ import annotations

import io
import struct
import time
import zipfile
import zlib
from collections.abc import Callable

import numpy as np
import requests
from PIL import Image

from bench.bystander import TOO_LONG_S, Bystander
from bench.fields import addresses
from bench.pages import hidden
from bench.started import begun, new_home

PORT, SLOW_S = 8777, 5.0


def _png(wide: int, high: int, rows: bytes) -> bytes:
    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", wide, high, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def _jpeg() -> bytes:
    held = io.BytesIO()
    Image.new("RGB", (64, 48), "grey").save(held, "JPEG")
    return held.getvalue()


def _zip(**members: bytes) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as out:
        for name, body in members.items():
            out.writestr(name.replace("__", "/"), body)
    return held.getvalue()


def _stl(corners: np.ndarray) -> bytes:
    """A binary STL of triangles (n, 3, 3) [mm]."""
    rows = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    rows["corners"] = corners
    return b"\0" * 80 + struct.pack("<I", len(corners)) + rows.tobytes()


def _soup(count: int) -> bytes:
    """Triangles that all cross each other."""
    return _stl(np.random.default_rng(1).uniform(-500, 500, (count, 3, 3)))


def _comb(teeth: int) -> bytes:
    """A flat comb, whose outline has as many corners as there are teeth."""
    at = np.arange(teeth) * 0.1
    zero = np.zeros(teeth)
    tooth = [np.c_[at, zero, zero], np.c_[at + 0.05, zero, zero], np.c_[at, zero + 500.0, zero]]
    return _stl(np.stack(tooth, axis=1))


def _fan(corners: int) -> bytes:
    """An OBJ with one face of very many corners."""
    turn = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    lines = [f"v {x:.3f} {y:.3f} 0" for x, y in zip(np.cos(turn), np.sin(turn), strict=True)]
    return ("\n".join(lines) + "\nf " + " ".join(map(str, range(1, corners + 1)))).encode()


_PHOTO = _jpeg()
ODD_FILES: list[tuple[str, bytes]] = [
    ("nothing", b""),
    ("text.csv", b"a,b\n1,2\n"),
    ("deep.json", b"[" * 3000),
    ("null.json", b"null"),
    ("number.json", b"1e999"),
    ("keys.json", b'{"a":1,"a":2}'),
    ("lone.json", b'"\\ud800"'),
    ("bad.json", b"\xff\xfe{"),
    ("seen.jpg", _PHOTO),
    ("cut.jpg", _PHOTO[:200]),
    ("turned.jpg", _PHOTO[:20] + bytes(200) + _PHOTO[220:]),
    ("none.png", _png(0, 0, b"")),
    ("wide.png", _png(2**31 - 1, 1, b"")),
    ("solid.stl", b"solid x\nfacet"),
    ("lies.stl", b"\0" * 80 + struct.pack("<I", 2**32 - 1)),
    ("nan.stl", _stl(np.full((4, 3, 3), np.nan))),
    ("far.stl", _stl(np.full((4, 3, 3), 3e38))),
    ("soup.stl", _soup(12)),
    ("text.ply", b"ply\nformat ascii 1.0\n"),
    ("lies.ply", b"ply\nformat ascii 1.0\nelement vertex 999999999\nproperty float x\nend_header\n"),
    ("none.obj", b"f 1 2 3\n"),
    ("minus.obj", b"v 0 0 0\nf -9 -8 -7\n"),
    ("empty.zip", _zip()),
    ("other.zip", _zip(a=b"b")),
    ("up.zip", _zip(**{"..__..__etc__passwd": b"x", "survey.json": b"{}"})),
    ("survey.zip", _zip(**{"survey.json": b'{"things": "x"}'})),
    ("job.zip", _zip(**{"job.json": b"[]"})),
]
HOSTILE: dict[str, Callable[[], bytes]] = {
    "10,000 deep.json": lambda: b'{"a":' * 10_000 + b"1" + b"}" * 10_000,
    "100,000 keys.json": lambda: b"{" + b",".join(b'"%d":[]' % k for k in range(100_000)) + b"}",
    "long number.json": lambda: b"9" * 1_000_000,
    "bomb.zip": lambda: _zip(**{"survey.json": b"{}", "job.json": b"{}", "a": bytes(900_000_000)}),
    "20,000 members.zip": lambda: _zip(**{f"m{k}": b"x" for k in range(20_000)}),
    "bomb.png": lambda: _png(30_000, 30_000, zlib.compress(bytes(90_001 * 3000))),
    "huge.png": lambda: _png(100_000, 100_000, b"x"),
    "soup.stl": lambda: _soup(200_000),
    "40 MB": lambda: bytes(40_000_000),
    "comb.stl": lambda: _comb(100_000),
    "one place.stl": lambda: _stl(np.zeros((200_000, 3, 3))),
    "fan.obj": lambda: _fan(100_000),
    "spaces.csv": lambda: b" " * 2_000_000,
    "quotes.csv": lambda: b'"' * 1_000_000,
    "lines.csv": lambda: b"box,x,1,2,3\n" * 150_000,
    "wide.csv": lambda: b"," * 2_000_000,
}


def bench_bombs() -> None:
    """Files made to be slow or large, to every address that takes files: time, memory, and others meanwhile."""
    from widebend.web import create_app

    takes = [
        a
        for a in addresses(create_app("postgresql://nobody@127.0.0.1/none", secret="x" * 64))
        if a.files and "POST" in a.methods
    ]
    program = begun(new_home("wb-bombs-"), PORT)
    by = Bystander(program)
    by.start()
    codes: dict[str, list[int]] = {}
    slowest = (0.0, "")
    try:
        session = requests.Session()
        token = hidden(session.get(f"{program.host}/jobs/101/route", timeout=TOO_LONG_S).text, "csrf_token")
        for name, make in HOSTILE.items():
            body = make()
            for address in takes:
                path = str(address.rule).replace("<int:job_id>", "101")
                began = time.monotonic()
                answer = session.post(
                    program.host + path,
                    data={
                        "csrf_token": token,
                        "who": "Ann",
                        "kind": "note",
                        "words": "x",
                        "unit": "mm",
                        "axes": "as it is",
                        "name": "a scan",
                    },
                    files={field: (name, body) for field in address.files},
                    timeout=TOO_LONG_S,
                    allow_redirects=False,
                )
                spent = time.monotonic() - began
                codes.setdefault(name, []).append(answer.status_code)
                slowest = max(slowest, (spent, f"{name} to {path}"))
                if answer.status_code >= 500 or spent > SLOW_S:
                    print(f"  {answer.status_code} in {spent:.1f} s: {name} to {path}", flush=True)
    finally:
        by.ended.set()
        by.join()
        program.stop()
    for name, found in codes.items():
        print(f"{name:20s}{sorted(found)}")
    print(
        f"slowest {slowest[0]:.1f} s, {slowest[1]}; memory {by.mb[0]:.0f} MB, most {max(by.mb):.0f}, "
        f"at the end {by.mb[-1]:.0f}; the shop floor meanwhile: worst {max(by.took_s):.2f} s"
    )
