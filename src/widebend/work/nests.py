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
    """Questions as data: which bars, which cuts, which saw, what counts most."""

    questions: tuple[dict[str, Any], ...]
    kind: Literal["nest"] = "nest"


def wish_for(asked: Mapping[str, Problem]) -> NestWish:
    """The wish for longer looks at some questions."""
    return NestWish(tuple(problem_to_keep(one) for one in asked.values()))


def look_longer(wish: Mapping[str, Any], report: Report) -> dict[str, Any]:
    """The answers as data, by the questions' names."""
    questions, found = [problem_from_kept(one) for one in wish["questions"]], dict[str, Any]()
    for k, asked in enumerate(questions):
        report(f"{len(asked.cuts)} pieces into bars, {k + 1} of {len(questions)}", k / len(questions), found)
        found[name_of(asked)] = nest_to_keep(nest(asked.bars, asked.cuts, asked.saw, asked.aim, LOOKS_S))
    return found
