"""Nests that a page did not prove the best while it waited, looked at for longer on the queue."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..core.nesting import Problem, name_of, nest, nest_to_keep, problem_from_kept, problem_to_keep

LOOKS_S = 20.0  # for each question
Report = Callable[[str, float, dict[str, Any]], None]


@dataclass(frozen=True)
class NestWish:
    """Questions as data: which bars, which cuts, which saw, what counts most; and the answers that earlier looks gave,
    by the questions' names: other bends make other straights, so one look leads to the next.
    """

    questions: tuple[dict[str, Any], ...]
    known: dict[str, Any]
    kind: Literal["nest"] = "nest"


def wish_for(asked: Mapping[str, Problem], known: Mapping[str, Any]) -> NestWish:
    """The wish for longer looks at some questions, with what was answered already, as data."""
    return NestWish(tuple(problem_to_keep(one) for one in asked.values()), dict(known))


def look_longer(wish: Mapping[str, Any], report: Report) -> dict[str, Any]:
    """The answers as data, by the questions' names, with those that were known."""
    questions, found = [problem_from_kept(one) for one in wish["questions"]], dict(wish["known"])
    for k, asked in enumerate(questions):
        report(f"{len(asked.cuts)} pieces into bars, {k + 1} of {len(questions)}", k / len(questions), found)
        found[name_of(asked)] = nest_to_keep(nest(asked.bars, asked.cuts, asked.saw, asked.aim, LOOKS_S))
    return found
