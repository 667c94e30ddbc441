"""How a mark is written as SVG: one function a kind. Text and attributes that a person entered are escaped."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from markupsafe import Markup, escape

from .marks import Mark

Data = dict[str, Any]


def svg(marks: Iterable[Mark]) -> Markup:
    """Marks as the elements that draw them."""
    return Markup("".join(WRITTEN[m.kind](m, m.data) for m in marks))  # noqa: S704 - each escapes what was entered


def _titled(element: str, attributes: str, title: str) -> str:
    inside = f"<title>{escape(title)}</title>" if title else ""
    return f"<{element} {attributes}>{inside}</{element}>"


def _path(m: Mark, d: Data) -> str:
    return _titled("path", f'class="{m.css}" d="{d["d"]}" stroke-width="{d["width"]:.1f}"', m.title)


def _hit(m: Mark, d: Data) -> str:
    return f'<path class="hit" d="{d["d"]}" stroke-width="{d["width"]:.1f}" data-piece="{escape(d["piece"])}"/>'


def _halo(m: Mark, d: Data) -> str:
    return f'<path class="halo" d="{d["d"]}" stroke-width="{d["width"]:.1f}"/>'


def _poly(m: Mark, d: Data) -> str:
    part = f' data-part="{escape(d["part"])}"' if d.get("part") else ""
    return _titled("polygon", f'class="{m.css}" points="{d["points"]}"{part}', m.title)


def _area(m: Mark, d: Data) -> str:
    thing = f' data-thing="{escape(d["thing"])}"' if d.get("thing") else ""
    return _titled("path", f'class="{m.css}" d="{d["d"]}" fill-rule="evenodd"{thing}', m.title)


def _sign(m: Mark, d: Data) -> str:
    """A mark on the vehicle is a cross, a hang point a ring, an old part a triangle."""
    x, y = d["x"], d["y"]
    shapes = {
        "mark": f"M{x - 6:.1f},{y:.1f}h12m-6,-6v12",
        "hang": f"M{x - 5:.1f},{y:.1f}a5,5 0 1 0 10,0a5,5 0 1 0 -10,0z",
        "old": f"M{x - 5:.1f},{y + 4:.1f}l5,-9l5,9z",
    }
    return _titled("path", f'class="{m.css}" d="{shapes[m.css.rpartition(" ")[2]]}"', m.title)


def _handle(m: Mark, d: Data) -> str:
    x, y = d["x"], d["y"]
    return (
        f'<circle class="handle-hit" cx="{x:.1f}" cy="{y:.1f}" r="18" data-handle="{escape(d["handle"])}"/>'
        f'<rect class="handle" x="{x - 5:.1f}" y="{y - 5:.1f}" width="10" height="10"/>'
    )


def _corner(m: Mark, d: Data) -> str:
    x, y = d["x"], d["y"]
    return (
        f'<circle class="handle-hit" cx="{x:.1f}" cy="{y:.1f}" r="16" data-handle="{escape(d["handle"])}"/>'
        f'<circle class="corner" cx="{x:.1f}" cy="{y:.1f}" r="4.5"/>'
    )


def _polyline(m: Mark, d: Data) -> str:
    return f'<polyline class="{m.css}" points="{d["points"]}"/>'


def _line(m: Mark, d: Data) -> str:
    head = ' marker-end="url(#arrow)"' if d.get("arrow") else ""
    return f'<line class="{m.css}" x1="{d["x1"]:.1f}" y1="{d["y1"]:.1f}" x2="{d["x2"]:.1f}" y2="{d["y2"]:.1f}"{head}/>'


def _rect(m: Mark, d: Data) -> str:
    place = f'x="{d["x"]:.1f}" y="{d["y"]:.1f}" width="{d["w"]:.1f}" height="{d["h"]:.1f}" rx="{d["r"]:.1f}"'
    return _titled("rect", f'class="{m.css}" {place}', m.title)


def _circle(m: Mark, d: Data) -> str:
    return f'<circle class="{m.css}" cx="{d["x"]:.1f}" cy="{d["y"]:.1f}" r="{d["r"]:.1f}"/>'


def _lozenge(m: Mark, d: Data) -> str:
    top = f"M{d['x']:.1f},{d['y'] - 8:.1f}"
    half = f'<path class="lozenge-half" d="{top}l8,8l-8,8z"/>' if "tight" in m.css else ""
    return f'<path class="{m.css}" d="{top}l8,8l-8,8l-8,-8z"/>{half}'


def _words(m: Mark, d: Data) -> str:
    return f'<text class="{m.css}" x="{d["x"]:.1f}" y="{d["y"]:.1f}">{escape(d["text"])}</text>'


WRITTEN: dict[str, Callable[[Mark, Data], str]] = {
    "path": _path,
    "hit": _hit,
    "halo": _halo,
    "poly": _poly,
    "area": _area,
    "sign": _sign,
    "handle": _handle,
    "corner": _corner,
    "polyline": _polyline,
    "line": _line,
    "rect": _rect,
    "circle": _circle,
    "lozenge": _lozenge,
    "words": _words,
}
