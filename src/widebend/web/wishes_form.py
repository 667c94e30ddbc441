"""A wish as a page carries it: in links and hidden fields, every part readable, nonsense left out."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlencode

from ..core.records import Run, Survey
from ..core.wishes import WEIGHS, Wish

KINDS = ("find", "improve", "mend")


def wish_from(values: Mapping[str, str], run: Run, *, thorough: bool = False) -> Wish:
    """The wish of a request. `keep` names the first piece that goes: "none" for all, "all" for none."""
    keep = values.get("keep", "all")
    index = next((i for i, p in enumerate(run.pieces) if p.id == keep), None)
    kind = values.get("kind", "find")
    weigh = values.get("weigh", "")
    return Wish(
        keep=None if keep == "all" else 0 if keep == "none" else index,
        until=values.get("until", ""), through=_listed(values.get("through", "")),
        avoid=_listed(values.get("avoid", "")), weigh=weigh if weigh in WEIGHS else "gentlest", thorough=thorough,
        kind=kind if kind in KINDS else "find",  # type: ignore[arg-type]  # one of the three
    )  # fmt: skip


def _listed(text: str) -> tuple[str, ...]:
    return tuple(t for t in text.split(",") if t)[:12]


def as_query(keep: str, wish: Wish, **other: str) -> str:
    """The wish as the query of a link; `other` puts parts of it otherwise."""
    parts = {"keep": keep, "until": wish.until, "through": ",".join(wish.through), "avoid": ",".join(wish.avoid),
             "weigh": wish.weigh, "kind": wish.kind} | other  # fmt: skip
    return urlencode({k: v for k, v in parts.items() if v and (k, v) != ("kind", "find")}, safe=":,")


def said_of(wish: Wish, survey: Survey) -> list[tuple[str, str, str]]:
    """What is wished, in words, each with the part it is of and that part without it, so that it can be taken off."""
    out = []
    windows = {w.id: w.name for w in survey.windows} | {m.id: m.name for m in survey.marks}
    for i, name in enumerate(wish.through):
        rest = ",".join((*wish.through[:i], *wish.through[i + 1 :]))
        out.append((f"{'then ' if i else ''}through {windows.get(name, name)}", "through", rest))
    named = {t.id: t.name for t in survey.things} | windows
    for i, shut in enumerate(wish.avoid):
        side, _, key = shut.partition(":")
        rest = ",".join((*wish.avoid[:i], *wish.avoid[i + 1 :]))
        out.append((f"not {side} the {named.get(key, key)}", "avoid", rest))
    return out
