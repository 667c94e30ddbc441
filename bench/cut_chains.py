"""Random mixtures of pieces and joints cut, and put together again by nothing but their marks."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ellipe
from tests.chains import end_by_rotations, random_pose

from widebend.core.cutting import CutList, CutPiece, cut_list
from widebend.core.laying import LaidRun, lay_pieces
from widebend.core.records import Design, Mitre, Run, SegmentedBend, Settings, StockBend, Tube
from widebend.core.space.chain import BEND, LEG, MITRE

CHAINS = 500
OD, THIN = 63.5, Tube(od_mm=63.5, wall_mm=1.2)


@dataclass
class Cut:
    """A run as laid, cut, and what a plain count over its pieces says."""

    laid: LaidRun
    cuts: CutList
    joints: int
    weld_mm: float


def random_cut(rng: np.random.Generator, legs: tuple[float, ...] = (0.0, 64.0, 100.0)) -> Cut:
    """Two to nine pieces of every kind, some of a thinner tube, joined in every way; stock with legs or none."""
    pieces, joints = [], []
    for k in range(int(rng.integers(2, 10))):
        kind, roll = rng.choice(["leg", "leg", "bend", "bend", "mitre", "pie"]), rng.uniform(0, 360)
        if kind == "mitre" and (not pieces or pieces[-1]["kind"] == "mitre"):
            kind = "leg"
        made = {"id": f"p{k}", "kind": kind} | {
            "leg": {"length_mm": float(rng.choice([8.0, rng.uniform(20, 120), rng.uniform(120, 600)]))},
            "bend": {"angle_deg": rng.uniform(8, 175), "clr_mm": 95.25, "roll_deg": roll},
            "mitre": {"turn_deg": rng.uniform(5, 60), "roll_deg": roll},
            "pie": {
                "slices": int(rng.integers(2, 8)),
                "turn_each_deg": rng.uniform(5, 20),
                "clr_mm": 95.25,
                "roll_deg": roll,
            },
        }[kind]
        if rng.random() < 0.15:
            made["tube"] = THIN
        joint = rng.choice(["", "", "", "slip", "v-band", "flange", "clamp"])
        if joint and kind in ("leg", "bend") and not (joint == "slip" and kind == "bend"):
            joints.append({"after": f"p{k}", "kind": joint, "overlap_mm": 38.0 if joint == "slip" else 0.0})
        pieces.append(made)
    if pieces[-1]["kind"] == "mitre":
        pieces.append({"id": "last", "kind": "leg", "length_mm": 200.0})
    run = Run.model_validate(
        {
            "id": "r",
            "start": "s.out",
            "aim": "m.in",
            "pieces": pieces,
            "joints": joints,
            "tube": {"od_mm": OD, "wall_mm": 1.5},
        }
    )
    leg = float(rng.choice(legs))
    stock = tuple(StockBend(angle_deg=a, clr_mm=95.25, leg_mm=leg) for a in (45.0, 90.0, 180.0))
    design = Design.model_construct(settings=Settings(stock=stock), runs=(run,), parts=())
    start = random_pose(rng)
    laid = LaidRun(run, start, lay_pieces(start, run.pieces, design, run.tube), None)
    cuts = cut_list(design, laid)
    return Cut(laid, cuts, *_plain_count(laid, cuts))


def _round(slant_deg: float) -> float:
    """The way round the tube on a slanted face: an ellipse."""
    t = math.radians(slant_deg)
    return 2 * OD / math.cos(t) * float(ellipe(math.sin(t) ** 2))


def _plain_count(laid: LaidRun, cuts: CutList) -> tuple[int, float]:
    """Joints and weld counted piece by piece: a seam at the start, at the aim, at every joint that is said, at every
    slanted face, between slices, and a plain one wherever else two pieces of the list meet.
    """
    welds = {"butt": 1, "slip": 0, "clamp": 0, "v-band": 2, "flange": 2}
    said = {j.after: j.kind for j in laid.run.joints}
    metal = [c for c in cuts.pieces if c.kind != "mitre"]
    turns = {p.index: p.piece.turn_deg / 2 for p in laid.pieces if isinstance(p.piece, Mitre)}
    count, weld = len(metal) + 1, 0.0
    faces = [c.laid.piece.turn_each_deg / 2 if isinstance(c.laid.piece, SegmentedBend) else 0.0 for c in metal]
    for cut, face in zip(metal, faces, strict=True):
        if isinstance(cut.laid.piece, SegmentedBend):
            count += cut.laid.piece.slices - 1
            weld += (cut.laid.piece.slices - 1) * _round(face)
    weld += _round(faces[0])
    for k, cut in enumerate(metal):
        last = max(cut.pieces)
        nearest = min(metal[k + 1].pieces) if k + 1 < len(metal) else last + 1
        between = range(last, nearest) if nearest > last else ()
        kind = next((said[laid.pieces[i].piece.id] for i in between if laid.pieces[i].piece.id in said), "butt")
        slant = max([face for face in faces[k : k + 2]] + [turns.get(i, 0.0) for i in between])
        weld += welds[kind] * _round(slant)
    return count, weld


def put_together(cuts: CutList, laid: LaidRun) -> tuple[np.ndarray, np.ndarray]:
    """Where the pieces of a list end when they are welded up by their lengths, marks and rolls alone."""
    steps: list[tuple[float, float, float, float]] = []
    for cut in cuts.pieces:
        steps += _steps(cut)
    return end_by_rotations(laid.start, np.array(steps))


def _steps(cut: CutPiece) -> list[tuple[float, float, float, float]]:
    if cut.kind == "straight":
        return [(LEG, cut.length_mm - cut.slip_mm, 0.0, 0.0)]
    roll = cut.roll.roll_deg if cut.roll else 0.0
    if cut.kind == "bend" and cut.marks:
        angle = math.degrees((cut.marks.heel_mm - cut.marks.throat_mm) / OD)
        clr = (cut.marks.heel_mm + cut.marks.throat_mm) / 2 / math.radians(angle)
        return [
            (LEG, cut.marks.keep_before_mm, 0, 0),
            (BEND, angle, clr, roll),
            (LEG, cut.marks.keep_after_mm - cut.slip_mm, 0, 0),
        ]
    if cut.kind == "mitre":
        return [(MITRE, 2 * cut.face_deg, 0.0, roll)]
    each = cut.length_mm / cut.count
    return [(MITRE, cut.face_deg, 0.0, roll), (LEG, each, 0, 0), (MITRE, cut.face_deg, 0.0, roll)] * cut.count


def bench_cuts() -> None:
    """500 mixed chains cut, put together again from their marks alone, and counted plainly."""
    rng, off, turned, miscounted, wrong = np.random.default_rng(3), 0.0, 0.0, 0, 0.0
    for _ in range(CHAINS):
        made = random_cut(rng)
        point, flow = put_together(made.cuts, made.laid)
        off = max(off, float(np.linalg.norm(point - made.laid.end.point)))
        turned = max(
            turned,
            math.degrees(
                math.atan2(float(np.linalg.norm(np.cross(flow, made.laid.end.flow))), float(flow @ made.laid.end.flow))
            ),
        )
        miscounted += made.joints != made.cuts.joints
        wrong = max(wrong, abs(made.weld_mm - made.cuts.weld_mm))
    print(
        f"{CHAINS} chains: end off by at most {off:.6f} mm and {turned:.6f} deg; joints miscounted in {miscounted}, "
        f"weld off by at most {wrong:.6f} mm"
    )
