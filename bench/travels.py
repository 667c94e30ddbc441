"""Random systems with movers of every kind beside dense sampling in time and space."""

from __future__ import annotations

from tests.core.review.test_travelled import FEW, compared

SYSTEMS = 2000


def bench_travels() -> None:
    """2,000 systems past things that travel, rock, steer or are put elsewhere: gaps overstated, clashes said clear."""
    pieces, over, clear, most = 0, 0, 0, 0.0
    for seed in range(SYSTEMS):
        for _, ours, theirs in compared(seed):
            if theirs > 80.0:
                continue
            pieces += 1
            most = max(most, ours - theirs)
            over += ours > theirs + 0.5
            clear += theirs <= 0.0 < ours - FEW
    print(
        f"{SYSTEMS} systems, {pieces} pieces near: {over} gaps overstated by 0.5 mm or more, at most by "
        f"{most:.2f} mm; {clear} clashes said to be clear"
    )
