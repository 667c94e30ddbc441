"""How long a call takes."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np


def median_ms(work: Callable[[], object], times: int = 21) -> float:
    """Median time of a call in milliseconds, after one to warm it."""
    work()
    spent = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        spent.append((time.perf_counter() - begun) * 1000)
    return float(np.median(spent))
