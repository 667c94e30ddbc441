"""How long pieces take to be laid into a full shelf, and how near to the best the answer is."""

from __future__ import annotations

import time

import numpy as np

from widebend.core.nesting import AIMS, Bar, Cut, Saw, nest


def bench_nests() -> None:
    """60 mixed pieces over 40 bars and offcuts of the shelf, the rest bought: each aim, five shelves."""
    for aim in AIMS:
        for seed in range(5):
            rng = np.random.default_rng(seed)
            bars = [
                Bar(f"s{k}", float(round(v)), 1, is_offcut=v < 2500)
                for k, v in enumerate(rng.choice([400.0, 700.0, 1100.0, 1600.0, 3000.0], 40) + rng.uniform(0, 300, 40))
            ]
            bars.append(Bar("new", 6000.0, cost=84.0))
            cuts = [Cut(f"p{k}", float(round(v, 1))) for k, v in enumerate(rng.uniform(60, 1900, 60))]
            begun = time.perf_counter()
            found = nest(bars, cuts, Saw(hold_mm=60.0), aim)
            print(
                f"{aim:14} {time.perf_counter() - begun:5.1f} s  {len(found.layouts):3} bars  "
                f"{found.bought_mm:7.0f} mm bought  gap {100 * found.gap:5.2f} %"
            )
