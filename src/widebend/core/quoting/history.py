"""An estimate corrected by the shop's own jobs: what each step took of what was estimated, and how sure that is.

The factor of a step is the mean of the logarithms of taken over estimated, drawn toward 1 as if PRIOR jobs had been
exactly right (shrinkage; Efron and Morris 1975, from memory). The range is the spread of whole jobs about their
corrected estimates, with the same number of jobs of the usual spread before any is known.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..records import WorkStep
from .hours import StepEstimate

PRIOR = 2.0
USUAL_SPREAD = 0.25  # of a first estimate's logarithm: common practice, no source
SIDED_90 = 1.645  # of a normal: nine of ten jobs lie within


@dataclass(frozen=True)
class PastJob:
    """A finished job: minutes estimated and taken of each step that was clocked."""

    estimated: Mapping[WorkStep, float]
    taken: Mapping[WorkStep, float]


@dataclass(frozen=True)
class Corrected:
    """Hours as the shop's history has them: the best figure, and what nine of ten jobs lie between; by step; from how
    many jobs.
    """

    hours: float
    low: float
    high: float
    by_step: Mapping[WorkStep, float]
    factors: Mapping[WorkStep, float]
    jobs: int


def corrected(steps: Sequence[StepEstimate], past: Sequence[PastJob]) -> Corrected:
    """An estimate with each step as past jobs took it."""
    factors = {step.step: _factor(step.step, past) for step in steps}
    by_step = {step.step: factors[step.step] * step.minutes / 60.0 for step in steps}
    hours, spread = sum(by_step.values()), _spread(factors, past)
    return Corrected(hours, hours * math.exp(-SIDED_90 * spread), hours * math.exp(SIDED_90 * spread), by_step,
                     factors, len(past))  # fmt: skip


def _factor(step: WorkStep, past: Sequence[PastJob]) -> float:
    logs = [math.log(job.taken[step] / job.estimated[step]) for job in past
            if job.taken.get(step, 0.0) > 0 and job.estimated.get(step, 0.0) > 0]  # fmt: skip
    return math.exp(sum(logs) / (len(logs) + PRIOR))


def _spread(factors: Mapping[WorkStep, float], past: Sequence[PastJob]) -> float:
    """The spread of whole jobs' logarithms about what these factors would have said of them."""
    squares = []
    for job in past:
        said = sum(factors.get(step, 1.0) * minutes for step, minutes in job.estimated.items() if step in job.taken)
        took = sum(job.taken[step] for step in job.estimated if step in job.taken)
        if said > 0 and took > 0:
            squares.append(math.log(took / said) ** 2)
    return math.sqrt((sum(squares) + PRIOR * USUAL_SPREAD**2) / (len(squares) + PRIOR))
