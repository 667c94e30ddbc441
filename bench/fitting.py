"""A thousand builds with known errors and noisy readings: how far ends miss uncorrected, corrected after each two
joints, and with the closing straight cut last to what is measured then.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, field, replace

import numpy as np

from widebend.core.fitting import (
    CUT_LAST,
    Chain,
    Reading,
    Spreads,
    at_end,
    between,
    built,
    chain_of,
    closing_places,
    corrections,
    find,
    held_finish,
    read,
    rest_of,
    spreads_of,
    standing,
    tilts,
    with_gap,
    with_rest,
)
from widebend.core.laying import run_start
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

SYSTEMS = {
    "estate": (cat_back, 0),
    "twin, front": (twin_x, 0),
    "twin, rear": (twin_x, 1),
    "truck": (low_truck, 0),
    "quad, left": (quad_rear, 0),
    "quad, right": (quad_rear, 1),
    "pie": (pie_downpipe, 0),
}
BUILDS, AFTER, SHORTEST_MM = 1000, 2, 10.0
MARKS = ((1450.0, -380.0, 330.0), (1450.0, 380.0, 330.0), (2620.0, 60.0, 410.0))
FEELER_MM, FEELS_DEG, DRESSED_DEG = 0.1, 0.25, 0.1  # one deviation; what is dressed at all; how true a file is
GAP_MM = 0.4  # a rule laid over the gap, one deviation
CLOCKS = (0.0, 90.0, 180.0, 270.0)
Frames = np.ndarray


@dataclass
class Tally:
    """What came of the builds of one system."""

    plain: list[tuple[float, float]] = field(default_factory=list)
    on_the_way: list[tuple[float, float]] = field(default_factory=list)
    closed: list[tuple[float, float]] = field(default_factory=list)
    dressed: list[tuple[float, float]] = field(default_factory=list)
    inside: list[bool] = field(default_factory=list)
    took: list[float] = field(default_factory=list)


def _readings(rng: np.random.Generator, plan: Chain, frames: Frames, piece: int) -> list[Reading]:
    """Height, off the rail, inclination, heading, and tapes to three marks, at the end of one piece."""
    some = [
        Reading(piece, "height", 0, 0.7),
        Reading(piece, "right rail", 0, 0.7, (0.0, 430.0, 0.0)),
        Reading(piece, "angle finder", 0, 0.15),
        Reading(piece, "heading", 0, 0.2),
    ]
    some += [Reading(piece, "tape", 0, 0.7, mark) for mark in MARKS]
    return _taken(rng, plan, frames, some)


def _taken(rng: np.random.Generator, plan: Chain, frames: Frames, some: list[Reading]) -> list[Reading]:
    """Readings as they would be read of a build, with noise."""
    out = []
    for one in some:
        step = plan.step_of(one.piece)
        value = read(one, frames[step + 1], float(plan.od_mm[step]), frames[step])
        out.append(replace(one, value=value + rng.normal(0, one.doubt)))
    return out


def _one(rng: np.random.Generator, plan: Chain, spread: np.ndarray, closing: int, tally: Tally) -> None:
    """One build, corrected as it goes from the start; the tail on its finish, the closing straight last."""
    finish = built(plan, np.zeros_like(spread))[-1]
    errors, now, last = rng.normal(size=spread.shape) * spread, plan, max(plan.piece)
    tally.plain.append(_off(built(plan, errors)[-1], finish))
    readings: list[Reading] = []
    closing_front, closing_readings = plan, list(readings)
    for piece in range(AFTER - 1, last, AFTER):
        real = built(now, errors)
        readings += _readings(rng, now, real, piece)
        begun = time.perf_counter()
        found = find(now, spread, readings)
        first = now.first_of(piece + 1)
        answer = corrections(rest_of(now, found.frames[first], first), finish, SHORTEST_MM)[-1]
        tally.took.append(time.perf_counter() - begun)
        off = found.frames[first][:, 3] - real[first][:, 3]
        tally.inside += list(np.abs(off) < 1.96 * np.sqrt(np.diag(found.place_spread(first - 1))))
        if piece + 1 <= closing:
            closing_front, closing_readings = with_rest(now, answer.rest, first), list(readings)
        now = with_rest(now, answer.rest, first)
    tally.on_the_way.append(_off(built(now, errors)[-1], finish))
    if 0 < closing < last:
        closed, dressed = _close(rng, closing_front, spread, errors, closing, finish, closing_readings)
        tally.closed.append(closed)
        tally.dressed.append(dressed)


def _close(
    rng: np.random.Generator,
    plan: Chain,
    spread: np.ndarray,
    errors: np.ndarray,
    closing: int,
    finish: np.ndarray,
    readings: list[Reading],
) -> tuple[tuple[float, float], tuple[float, float]]:
    """The closing straight, cut last between what is on: the gap along it that stays [mm], and how far its worse face
    stands askew [deg]; the same when it was held up, its faces felt round with a feeler, and dressed once.
    """
    k = plan.step_of(closing)
    errors = _on_its_finish(plan, errors, k, finish)
    real = built(plan, errors)
    near = _readings(rng, plan, real, closing - 1) + _at_face(rng, plan, errors, real, closing + 1)
    gaps = [Reading(closing, "gap", 0, GAP_MM, (c, far % 360.0, 0.0)) for c in CLOCKS for far in (c, c + 180.0)]
    gaps += [Reading(closing, "gap", 0, GAP_MM, (c, c, 0.0)) for c in CLOCKS]
    taken = [*readings, *near, *_taken(rng, plan, real, gaps)]
    found = find(plan, with_gap(plan, spread, closing, closing + 1), [*taken, *held_finish(max(plan.piece), finish)])
    rest, target = between(found, closing, closing + 1)
    cut = corrections(rest, target, SHORTEST_MM, closing=True, fits=CUT_LAST)[-1].rest
    gap = plan.steps[k, 1] + errors[k, 0] - cut.steps[0, 1] + rng.normal(0, Spreads().length_mm)
    made = built(cut, np.zeros((len(cut.steps), 5)))
    body = standing(plan, errors, real, k + 1)
    along = real[k + 1][:, 3] - real[k][:, 3]
    along /= np.linalg.norm(along)
    # how each face should lean, on the vehicle, against how it was marked and cut
    faces = [
        np.cross(real[k][:, 0], along) - np.cross(cut.start[:, 0], made[1][:, 0]),
        np.cross(along, body[:, 0]) - np.cross(made[1][:, 0], made[-1][:, 0]),
    ]
    turned = rng.normal(0, Spreads().saw_deg, (2, 2))
    askew = [
        float(np.hypot(np.degrees(np.linalg.norm(face)) + a, b)) for face, (a, b) in zip(faces, turned, strict=True)
    ]
    felt = [one + rng.normal(0, np.degrees(FEELER_MM * 2**0.5 / plan.od_mm[k])) for one in askew]
    left = [
        float(np.hypot(one - by, rng.normal(0, DRESSED_DEG))) if by > FEELS_DEG else one
        for one, by in zip(askew, felt, strict=True)
    ]
    off = sum(plan.od_mm[k] / 2 * np.radians(max(0.0, by)) for by in felt if by > FEELS_DEG)
    return (abs(float(gap)), max(askew)), (abs(float(gap + off)), max(left))


def _at_face(rng: np.random.Generator, plan: Chain, errors: np.ndarray, frames: Frames, piece: int) -> list[Reading]:
    """What is read at the front face of a tail."""
    at = plan.first_of(piece)
    some = [
        Reading(piece, "angle finder", 0, 0.15, inlet=True),
        Reading(piece, "heading", 0, 0.2, inlet=True),
        Reading(piece, "height", 0, 0.7, inlet=True),
        *(Reading(piece, "tape", 0, 0.7, mark, inlet=True) for mark in MARKS),
    ]
    face, od = standing(plan, errors, frames, at), float(plan.od_mm[at])
    return [replace(one, value=read(one, face, od, frames[at]) + rng.normal(0, one.doubt)) for one in some]


def _on_its_finish(plan: Chain, errors: np.ndarray, k: int, finish: np.ndarray) -> np.ndarray:
    """The errors with those of the closing straight, step k, and of the joint behind it such that the tail ends where
    it is bolted: what the straight would have to be.
    """
    out = errors.copy()
    out[k] = out[k + 1, 3:] = 0.0
    real = built(plan, out)
    near, end = real[k], real[-1]
    body = real[k + 1][:, :3] @ tilts(plan.trims[k + 1 : k + 2])[0, :, :3]  # the tail's own inlet, its face trimmed
    back = finish[:, :3] @ end[:, :3].T
    axes, point = back @ body, finish[:, 3] + back @ (real[k + 1][:, 3] - end[:, 3])
    way = near[:, :3].T @ (point - near[:, 3])
    long = float(np.linalg.norm(way))
    out[k, 0] = long - plan.steps[k, 1]
    out[k, 3:] = np.degrees([np.arctan2(way[2], way[0]), np.arcsin(-way[1] / long)]) - plan.trims[k]
    turn = built(plan, out)[k + 1][:, :3].T @ axes
    face = np.degrees([np.arcsin(-turn[0, 2]), np.arctan2(turn[0, 1], turn[0, 0])])
    out[k + 1, 3:] = face - plan.trims[k + 1]
    own = turn @ tilts(face[None])[0, :, :3].T
    out[k, 2] = float(np.degrees(np.arctan2(own[2, 1], own[1, 1])))
    return out


def bench_fitting() -> None:
    """Builds corrected and not, of seven runs of the demo's systems."""
    rng, every = np.random.default_rng(1), Tally()
    for name, (make, at) in SYSTEMS.items():
        design = make()
        run = design.runs[at]
        start = run_start(design, run)
        assert start is not None
        plan = chain_of(design, start, run.pieces, run.tube)
        spread = spreads_of(plan, Spreads())
        places = closing_places(plan, np.diag(spread.ravel() ** 2), SHORTEST_MM)
        closing = next((one.piece for one in places if 0 < one.piece < max(plan.piece)), 0)
        tally = Tally()
        for _ in range(BUILDS // len(SYSTEMS) + 1):
            _one(rng, plan, spread, closing, tally)
        off = np.array(tally.plain)[:, 0]
        print(
            f"{name}, closing at piece {closing + 1}: {_said(tally)}; one deviation predicted "
            f"{at_end(plan, spread).off_mm:.2f}, seen {np.sqrt((off**2).mean()):.2f} mm"
        )
        for key in ("plain", "on_the_way", "closed", "dressed", "inside", "took"):
            getattr(every, key).extend(getattr(tally, key))
    print(f"all: {_said(every)}")


def _said(tally: Tally) -> str:
    return (
        f"95 % uncorrected {_spread(tally.plain)}, corrected {_spread(tally.on_the_way)}, closed last "
        f"{_spread(tally.closed)}, dressed {_spread(tally.dressed)}; "
        f"stated 95 % holds {100 * np.mean(tally.inside):.1f} %; a correction "
        f"{1000 * np.median(tally.took):.0f} ms, worst {1000 * max(tally.took):.0f}"
    )


def _off(end: np.ndarray, target: np.ndarray) -> tuple[float, float]:
    tilt = np.degrees(np.arccos(np.clip(end[:, 0] @ target[:, 0], -1.0, 1.0)))
    return float(np.linalg.norm(end[:, 3] - target[:, 3])), float(tilt)


def _spread(off: list[tuple[float, float]]) -> str:
    mm, deg = np.percentile(np.array(off), 95, axis=0)
    return f"{mm:.2f} mm {deg:.2f}°"
