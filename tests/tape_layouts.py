"""Layouts of marks under an invented vehicle, good and bad, and simulated surveys with them."""

from __future__ import annotations

import numpy as np

from widebend.core.survey import TapeMark, from_tapes
from widebend.core.survey.tapes import SIGMAS_IN_DOUBT, Fix

TAPE_MM, MARK_MM = 3.0, 1.5
ROUND_MM = (200.0, 200.0, 60.0)  # points lie this far each way from the middle of their layout
# marks and the middle of where points are taped to, in mm: what is good or bad about each is in its name
LAYOUTS = {
    "three, well spread": (((900, -420, 330), (900, 420, 340), (1900, 60, 420)), (1350, 150, 240)),
    "four, well spread": (((900, -420, 330), (900, 420, 340), (1900, 420, 430), (1850, -400, 300)), (1350, 150, 240)),
    "three, close together": (((1200, -60, 330), (1260, 80, 338), (1330, -20, 352)), (1400, 500, 250)),
    "three, nearly in a line": (((900, -400, 330), (1400, -340, 331), (1950, -400, 334)), (1500, 200, 260)),
    "point nearly in the marks' plane": (((900, -420, 330), (900, 420, 330), (1900, 0, 330)), (1350, 100, 318)),
    "five, round about": (
        ((800, -400, 330), (800, 400, 420), (2000, 420, 300), (1900, -420, 430), (1300, 0, 520)),
        (1400, 180, 250),
    ),
}


def survey(rng: np.random.Generator, name: str, mark_mm: float = MARK_MM) -> tuple[Fix, float]:
    """One simulated survey: the answer on the true side, and how far it is from the truth [mm].

    The point lies anywhere in its layout's region; the stated doubts of tape and marks hold 95 in 100 of the errors.
    """
    places, point = LAYOUTS[name]
    truth = np.array(point, dtype=float) + rng.uniform(-1.0, 1.0, 3) * ROUND_MM
    at = np.array(places, dtype=float)
    marks = [TapeMark(f"m{n}", p + rng.normal(size=3) * mark_mm / SIGMAS_IN_DOUBT, mark_mm) for n, p in enumerate(at)]
    tapes = np.linalg.norm(truth - at, axis=1) + rng.normal(size=len(at)) * TAPE_MM / SIGMAS_IN_DOUBT
    answers = from_tapes(marks, list(tapes), TAPE_MM).answers
    nearest = min(answers, key=lambda fix: float(np.linalg.norm(fix.point - truth)))
    return nearest, float(np.linalg.norm(nearest.point - truth))


def coverage(name: str, surveys: int, seed: int, mark_mm: float = MARK_MM) -> float:
    """The share of surveys whose stated doubt holds the true error."""
    rng = np.random.default_rng(seed)
    found = [survey(rng, name, mark_mm) for _ in range(surveys)]
    return float(np.mean([error <= fix.plus_minus_mm for fix, error in found]))
