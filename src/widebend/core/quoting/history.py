"""An estimate corrected by the shop's own jobs: what each step took of what was estimated, and how sure that is.

The factor of a step is the mean of the logarithms of taken over estimated, drawn toward 1 as if PRIOR jobs had been
exactly right (shrinkage; Efron and Morris 1975, from memory). The range is where the next job lies, nine times in ten,
by Student's t for the normal of unknown mean and spread with a conjugate prior (Gelman and others, Bayesian Data
Analysis, section 3.3, from memory): a few jobs do not tell how far the next may be off, and the range says so. A step
that took OUTLIER times what the shop's jobs take, or as much less, was a forgotten clock and does not count.
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from scipy.special import stdtrit

from ..records import WorkStep
from .hours import StepEstimate

PRIOR = 2.0
USUAL_SPREAD = 0.25  # of a first estimate's logarithm: common practice, no source
SIDED_90 = 0.95  # nine of ten jobs lie between this quantile and the one as far from the other end
OUTLIER = 4.0  # common practice, no source


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
    known = _without_outliers(past)
    factors = {step.step: _factor(step.step, known) for step in steps}
    by_step = {step.step: factors[step.step] * step.minutes / 60.0 for step in steps}
    hours, reach = sum(by_step.values()), math.exp(_reach(known))
    return Corrected(hours, hours / reach, hours * reach, by_step, factors, len(known))


def _log_ratio(job: PastJob, step: WorkStep) -> float | None:
    """The logarithm of taken over estimated; None where the step was not clocked or not planned."""
    took, said = job.taken.get(step, 0.0), job.estimated.get(step, 0.0)
    return math.log(took / said) if took > 0 and said > 0 else None


def _without_outliers(past: Sequence[PastJob]) -> list[PastJob]:
    """Past jobs without the steps whose clocks cannot be true; those that have none left do not count."""
    steps = {step for job in past for step in job.taken}
    logs = {step: [log for job in past if (log := _log_ratio(job, step)) is not None] for step in steps}
    usual = {step: statistics.median([0.0] * int(PRIOR) + found) for step, found in logs.items()}
    kept = []
    for job in past:
        ratios = {step: log for step in job.taken if (log := _log_ratio(job, step)) is not None}
        true = {step for step, log in ratios.items() if abs(log - usual[step]) <= math.log(OUTLIER)}
        if true:
            kept.append(PastJob(*({s: v for s, v in one.items() if s in true} for one in (job.estimated, job.taken))))
    return kept


def _factor(step: WorkStep, past: Sequence[PastJob]) -> float:
    logs = [log for job in past if (log := _log_ratio(job, step)) is not None]
    return math.exp(sum(logs) / (len(logs) + PRIOR))


def _reach(past: Sequence[PastJob]) -> float:
    """How far the logarithm of the next job's hours may lie from what is expected, nine times in ten."""
    logs = [math.log(sum(job.taken.values()) / sum(job.estimated.values())) for job in past]
    count, mean = len(logs), statistics.fmean(logs) if logs else 0.0
    squares = sum((log - mean) ** 2 for log in logs) + PRIOR * count / (PRIOR + count) * mean**2
    variance = (squares + PRIOR * USUAL_SPREAD**2) / (PRIOR + count) * (1.0 + 1.0 / (PRIOR + count))
    return float(stdtrit(PRIOR + count, SIDED_90)) * math.sqrt(variance)
