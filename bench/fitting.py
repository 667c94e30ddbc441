"""A thousand builds with known errors and noisy readings, corrected after each two joints and not: how far ends
miss.
"""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np

from widebend.core.fitting import (
    Chain,
    Found,
    Reading,
    Spreads,
    at_end,
    built,
    chain_of,
    corrections,
    find,
    read,
    spreads_of,
)
from widebend.core.laying import system_of
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

SYSTEMS = {"estate": cat_back, "twin": twin_x, "truck": low_truck, "quad": quad_rear, "pie": pie_downpipe}
BUILDS, AFTER, SHORTEST_MM = 1000, 2, 10.0
MARKS = ((1450.0, -380.0, 330.0), (1450.0, 380.0, 330.0), (2620.0, 60.0, 410.0))


def _readings(rng: np.random.Generator, plan: Chain, frames: np.ndarray, piece: int) -> list[Reading]:
    """Height, off the rail, inclination, and tapes to three marks, at the end of one piece."""
    step = plan.step_of(piece)
    some = [Reading(piece, "height", 0, 0.7), Reading(piece, "right rail", 0, 0.7, (0.0, 430.0, 0.0)),
            Reading(piece, "angle finder", 0, 0.15), Reading(piece, "heading", 0, 0.2)]  # fmt: skip
    some += [Reading(piece, "tape", 0, 0.7, mark) for mark in MARKS]
    return [replace(one, value=read(one, frames[step + 1], float(plan.od_mm[step])) + rng.normal(0, one.doubt))
            for one in some]  # fmt: skip


def _one(rng: np.random.Generator, plan: Chain, spread: np.ndarray) -> tuple[np.ndarray, list[float], np.ndarray]:
    """One build corrected as it goes: where it ends, how long each correction took, whether what was found was as
    near as it said.
    """
    target = built(plan, np.zeros_like(spread))[-1]
    errors, now, took, inside = rng.normal(size=spread.shape) * spread, plan, [], []
    readings: list[Reading] = []
    last = max(plan.piece)
    for piece in range(AFTER - 1, last, AFTER):
        real = built(now, errors)
        readings += _readings(rng, now, real, piece)
        begun = time.perf_counter()
        found: Found = find(now, spread, readings)
        step = now.step_of(piece)
        off = found.frames[step + 1][:, 3] - real[step + 1][:, 3]
        inside.append(np.abs(off) < 1.96 * np.sqrt(np.diag(found.place_spread(step))))
        now = corrections(found, piece + 1, target, SHORTEST_MM)[-1].plan
        took.append(time.perf_counter() - begun)
    return built(now, errors)[-1], took, np.array(inside)


def bench_fitting() -> None:
    """Builds corrected and not, of every demo system's first run."""
    rng, whole, covered = np.random.default_rng(1), [], []
    for name, make in SYSTEMS.items():
        design = make()
        plan = chain_of(design, system_of(design).runs[0])
        spread = spreads_of(plan, Spreads())
        target = built(plan, np.zeros_like(spread))[-1]
        plain, better, times, inside = [], [], [], []
        for _ in range(BUILDS // len(SYSTEMS)):
            plain.append(_off(built(plan, rng.normal(size=spread.shape) * spread)[-1], target))
            end, took, held = _one(rng, plan, spread)
            better.append(_off(end, target))
            times += took
            inside.append(held.reshape(-1, 3))
        a, b = np.array(plain), np.array(better)
        covered.append(np.concatenate(inside))
        whole.append(b)
        print(f"{name}: uncorrected 95 % {_spread(a)}, corrected {_spread(b)}; one deviation predicted "
              f"{at_end(plan, spread).off_mm:.2f}, seen {np.sqrt((a[:, 0] ** 2).mean()):.2f} mm; stated 95 % holds "
              f"{100 * covered[-1].mean():.1f} %; a correction {1000 * np.median(times):.0f} ms, worst "
              f"{1000 * max(times):.0f}")  # fmt: skip
    print(f"all: corrected 95 % {_spread(np.concatenate(whole))}, stated 95 % holds "
          f"{100 * np.concatenate(covered).mean():.1f} %")  # fmt: skip


def _off(end: np.ndarray, target: np.ndarray) -> tuple[float, float]:
    tilt = np.degrees(np.arccos(np.clip(end[:, 0] @ target[:, 0], -1.0, 1.0)))
    return float(np.linalg.norm(end[:, 3] - target[:, 3])), float(tilt)


def _spread(off: np.ndarray) -> str:
    mm, deg = np.percentile(off, 95, axis=0)
    return f"{mm:.2f} mm {deg:.2f}°"
