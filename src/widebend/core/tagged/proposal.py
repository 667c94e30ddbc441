"""A proposal: something that placed tags can become, how it lies beside what is there already, and a way to take it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from ..photos import FoundTag, job_of
from ..records import Design, HangPoint, MarkPoint, OldPart, Thing, Window
from ..records.base import Point
from ..space import Vector
from ..units import Length

HOW = "by photo"
UNSAID_MM = 5.0  # how far off a place may be that nobody gave a doubt: common practice, no source
SIGN_MM = 18.0  # half of the cross that a point is drawn as
T = TypeVar("T", bound=HangPoint | MarkPoint | OldPart | Thing | Window)
Names = Mapping[int, str]


@dataclass(frozen=True)
class Beside:
    """How something lies beside what is there already: how far off [mm], and how far both doubts allow [mm]."""

    off_mm: float
    allowed_mm: float

    @property
    def disagrees(self) -> bool:
        return self.off_mm > self.allowed_mm


@dataclass(frozen=True)
class Proposal:
    """Something for the survey or the design: its key, what it is in words, where its place is (3,) [mm], how far that
    may be off [mm], the design with it in; a line (n, 3) [mm] and its width that it is drawn by; how it lies beside
    what is there already under its name, none where nothing is; whether it is to be taken unasked; the tags
    of a whole thing, which by themselves are no marks then.
    """

    key: str
    words: str
    at: Vector
    plus_minus_mm: float
    put_in: Callable[[Design], Design]
    line: Vector
    width_mm: float = 0.0
    beside: Beside | None = None
    usual: bool = True
    of: tuple[int, ...] = ()


def called(number: int, names: Names) -> str:
    """Return the name of a tag: as the person says, else by its job and number."""
    job = job_of(number)
    return names.get(number) or f"{job.job if job else 'tag'} {number}"


def named(tags: Sequence[FoundTag], names: Names) -> dict[str, list[FoundTag]]:
    """Tags that the person gave one name."""
    groups: dict[str, list[FoundTag]] = {}
    for tag in tags:
        if names.get(tag.number):
            groups.setdefault(names[tag.number], []).append(tag)
    return groups


def under_name(records: Iterable[T], name: str, key: str) -> T | None:
    """Return the existing record: what these tags became before, else what bears the name."""
    there = list(records)
    return next((one for one in there if one.id == key), None) or next(
        (one for one in there if one.name.strip().lower() == name.strip().lower()), None
    )


def beside(off_mm: float, plus_minus_mm: float, there_mm: float = 0.0) -> Beside:
    """Two places of one thing with their doubts, that of the one that was there often unsaid."""
    return Beside(off_mm, math.hypot(plus_minus_mm, there_mm or UNSAID_MM))


def point(at: Vector) -> Point:
    x, y, z = (Length(round(float(v), 1)) for v in at)
    return x, y, z


def doubt(mm: float) -> Length:
    return Length(round(max(mm, 0.1), 1))


def sign(at: Vector) -> Vector:
    """A cross at a place (n, 3)."""
    arms = [sign * SIGN_MM * np.eye(3)[axis] for axis in range(3) for sign in (-1, 0, 1, 0)]
    return np.asarray(at + np.array([np.zeros(3), *arms]))


def put(there: tuple[T, ...], new: T) -> tuple[T, ...]:
    """With one put in, in place of what has its id."""
    if any(one.id == new.id for one in there):
        return tuple(new if one.id == new.id else one for one in there)
    return (*there, new)


def surveyed(design: Design, **changed: object) -> Design:
    """The design with parts of its survey changed."""
    return design.replace(survey=design.survey.replace(**changed))
