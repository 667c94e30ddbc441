"""A wish as a page carries it: in links and hidden fields, every part readable, nonsense left out."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlencode

from ...core.records import Run
from ...core.routing import WEIGHS, Wish

KINDS = ("find", "improve", "mend")


def wish_from(values: Mapping[str, str], run: Run, *, thorough: bool = False) -> Wish:
    """The wish of a request. `keep` names the first piece that goes: "none" for all, "all" for none."""
    keep = values.get("keep", "all")
    index = next((i for i, p in enumerate(run.pieces) if p.id == keep), None)
    kind = values.get("kind", "find")
    weigh = values.get("weigh", "")
    return Wish(
        keep=None if keep == "all" else 0 if keep == "none" else index,
        until=values.get("until", ""),
        through=_listed(values.get("through", "")),
        avoid=_listed(values.get("avoid", "")),
        weigh=weigh if weigh in WEIGHS else "gentlest",
        thorough=thorough,
        kind=kind if kind in KINDS else "find",  # type: ignore[arg-type]  # one of the three
    )


def _listed(text: str) -> tuple[str, ...]:
    return tuple(t for t in text.split(",") if t)[:12]


def as_query(keep: str, wish: Wish, **other: str) -> str:
    """The wish as the query of a link; `other` puts parts of it otherwise."""
    parts = {
        "keep": keep,
        "until": wish.until,
        "through": ",".join(wish.through),
        "avoid": ",".join(wish.avoid),
        "weigh": wish.weigh,
        "kind": wish.kind,
    } | other
    return urlencode({k: v for k, v in parts.items() if v and (k, v) != ("kind", "find")}, safe=":,")
