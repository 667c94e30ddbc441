"""A closed branch under the vehicle: which way round the pipe it leaves, how it lies, and whether it keeps its gaps.

It leaves square to its pipe; then it goes straight on, or turns and lies along the pipe, forward or back, or along it
and back again. Every way round is tried against what is near with the clearance of any pipe, in every position of both;
the best are reviewed with the whole design.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..errors import WideBendError
from ..laying import REST, LaidPiece, LaidRun, Position, lay_pieces, run_start, tube_segments
from ..records import Bend, Design, InLine, Piece, Run, Straight, Tap, Tube
from ..review import Finding, Review, review, worst_over
from ..sound import Remedy
from ..space import Pose
from ..units import Length

CLOCKS = tuple(range(0, 360, 30))
OUT_MM = 25.0  # straight between the pipe's side and the first bend: what can be welded
REVIEWED = 6
OWN_LEAST_MM = 3.0
ENOUGH_MM = 10.0  # more room than this is no better: then the nearest to its pipe
WIDE_MM, BESIDE_MM = 600.0, 150.0  # half a narrow vehicle; a little past what is known to be there
BAD = ("touches", "inside", "tight", "own")


@dataclass(frozen=True)
class BranchFit:
    """A branch in place: the design with it, its run, and how much nearer than wanted it comes to anything [mm]; what
    new trouble it makes.
    """

    mend: Remedy
    design: Design
    run: str
    margin_mm: float
    against: str
    trouble: tuple[Finding, ...]

    @property
    def fits(self) -> bool:
        return not self.trouble


def fitted_branch(design: Design, mend: Remedy, found: Review) -> BranchFit | None:
    """A branch where it fits best; None where it cannot be laid at all."""
    run_id, _, piece_id = mend.stretch.partition("/")
    main = design.run(run_id)
    laid = next((r for r in found.system.runs if r.run.id == run_id), None)
    piece = next((p for p in laid.pieces if p.piece.id == piece_id), None) if laid else None
    if main is None or laid is None or piece is None:
        return None
    name = next(f"q{n}" for n in range(1, 100) if design.run(f"q{n}") is None)
    mover = found.moves.pieces.get((run_id, piece.index), "")
    limits = _limits(design, found)
    rated = []
    for made in _ways(design, main, piece, mend, name):
        shape = _laid(design, made)
        if shape is None:
            continue
        far = _reach(shape, laid, limits)
        if far is None:
            continue
        own = _own_gap(shape, found)
        margin, thing = _margin(shape, mover, found)
        rated.append((min(margin, own - OWN_LEAST_MM), far, thing if margin < own else "its own pipe", made))
    rated.sort(key=lambda r: (-min(r[0], ENOUGH_MM), r[1]))
    before = _troubles(found)
    best: BranchFit | None = None
    for margin, _, thing, made in rated[:REVIEWED]:
        try:
            with_it = design.replace(runs=(*design.runs, made)).validated()
        except WideBendError:
            continue
        trouble = tuple(f for key, f in _troubles(review(with_it)).items() if key not in before)
        fit = BranchFit(mend, with_it, made.id, margin, thing, trouble)
        if best is None or (len(fit.trouble), -fit.margin_mm) < (len(best.trouble), -best.margin_mm):
            best = fit
        if fit.fits:
            break
    return best


def _troubles(found: Review) -> dict[tuple[str, ...], Finding]:
    """Return the findings that spoil a design, by their subject."""
    return {(f.code, f.run, f.part, f.thing, *f.names): f for f in found.findings if f.code in BAD}


def _ways(design: Design, main: Run, piece: LaidPiece, mend: Remedy, name: str) -> Iterator[Run]:
    """Every way round and every shape."""
    tubes = [
        Tube(od_mm=Length(bore + 2 * float(main.tube.wall_mm)), wall_mm=main.tube.wall_mm, material=main.tube.material)
        for _, bore in mend.sections
    ]
    tube, body = tubes[0], tubes[-1] if len(tubes) > 1 else None
    listed = min((float(r) for r in design.settings.clr_mm), default=1.5 * float(tube.od_mm))
    radius = listed if body is None else 1.5 * float(tube.od_mm)
    for clock in CLOCKS:
        tap = Tap(
            run=main.id, piece=piece.piece.id, along_mm=Length(mend.along_mm), roll_deg=float(clock), angle_deg=90.0
        )
        bare = Run(id=name, name="closed branch", start=tap, tube=tube, capped=True)
        start = run_start(design, bare)
        if start is None:
            return
        shapes = (
            _shapes(start, piece.inlet.flow, mend.long_mm, radius)
            if body is None
            else _bottles(start, piece.inlet.flow, mend.sections, radius, body)
        )
        for pieces in shapes:
            yield bare.replace(pieces=pieces)


def _shapes(start: Pose, flow: np.ndarray, long_mm: float, radius: float) -> Iterator[tuple[Piece, ...]]:
    """Straight out; along the pipe, back or forward; along it and back beside itself."""
    quarter, half = radius * math.pi / 2, radius * math.pi
    yield (Straight(id="b1", length_mm=Length(long_mm)),)
    for way in (1.0, -1.0):
        roll = start.roll_of(way * flow)
        rest = long_mm - OUT_MM - quarter
        if rest > OUT_MM:
            turn = Bend(id="b2", angle_deg=90.0, clr_mm=Length(radius), roll_deg=roll)
            out = Straight(id="b1", length_mm=Length(OUT_MM))
            yield out, turn, Straight(id="b3", length_mm=Length(rest))
            each = (rest - half) / 2
            if each > OUT_MM:
                for side in (90.0, 270.0):
                    back = Bend(id="b4", angle_deg=180.0, clr_mm=Length(radius), roll_deg=side)
                    yield (
                        out,
                        turn,
                        Straight(id="b3", length_mm=Length(each)),
                        back,
                        Straight(id="b5", length_mm=Length(each)),
                    )


def _bottles(
    start: Pose, flow: np.ndarray, sections: tuple[tuple[float, float], ...], radius: float, body: Tube
) -> Iterator[tuple[Piece, ...]]:
    """A neck and its body: straight out, or the neck turned so that the body lies along the pipe, back or forward."""
    (neck, _), (long, _) = sections
    last = Straight(id="b3", length_mm=Length(long), tube=body)
    yield Straight(id="b1", length_mm=Length(neck)), last
    straight = neck - radius * math.pi / 2
    if straight > OUT_MM:
        for way in (1.0, -1.0):
            turn = Bend(id="b2", angle_deg=90.0, clr_mm=Length(radius), roll_deg=start.roll_of(way * flow))
            yield Straight(id="b1", length_mm=Length(straight)), turn, last


def _laid(design: Design, run: Run) -> LaidRun | None:
    start = run_start(design, run)
    return LaidRun(run, start, lay_pieces(start, run.pieces, design, run.tube), None) if start else None


def _margin(shape: LaidRun, mover: str, found: Review) -> tuple[float, str]:
    """The least margin to any thing in any position, and to which."""
    worst = worst_over(tube_segments(shape).rows, mover or "hung", found.obstacles, _positions(found, mover))
    return worst.margin_mm, worst.obstacle.thing.name if worst.obstacle else ""


def _limits(design: Design, found: Review) -> np.ndarray:
    """How far the branch may reach (2, 2) [mm]: along the system, and across no wider than the vehicle surely is."""
    at = np.concatenate([np.stack([p.inlet.point, p.outlet.point]) for r in found.system.runs for p in r.pieces])
    rails = design.survey.rails
    wide = max(WIDE_MM, float(np.abs(at[:, 1]).max()) + BESIDE_MM)
    if rails is not None:
        wide = max(wide, abs(float(rails.left_y_mm)) + BESIDE_MM, abs(float(rails.right_y_mm)) + BESIDE_MM)
    return np.array([[at[:, 0].min(), at[:, 0].max()], [-wide, wide]])


def _reach(shape: LaidRun, main: LaidRun, limits: np.ndarray) -> float | None:
    """How far the branch's end lies from its pipe [mm]; None where it leaves the room under the vehicle."""
    at = np.array([p.outlet.point for p in shape.pieces])[:, :2]
    if (at < limits[:, 0]).any() or (at > limits[:, 1]).any():
        return None
    line = np.concatenate([np.linspace(p.inlet.point, p.outlet.point, 12) for p in main.pieces])
    return float(np.linalg.norm(line - shape.end.point, axis=1).min())


def _positions(found: Review, mover: str) -> tuple[Position, ...]:
    return found.positions.get(mover, (REST,))


def _own_gap(shape: LaidRun, found: Review) -> float:
    """From the branch's own skin to the rest of the system's pipe, by points along both [mm]; where it leaves its pipe
    does not count.
    """
    at = np.concatenate([np.linspace(p.inlet.point, p.outlet.point, 12) for p in shape.pieces])
    at = at[np.linalg.norm(at - shape.start.point, axis=1) > 1.5 * float(shape.run.tube.od_mm)]
    if not len(at):
        return math.inf
    least, mine = math.inf, max(float(p.tube.od_mm) for p in shape.pieces) / 2
    for run in found.system.runs:
        for p in run.pieces:
            if isinstance(p.piece, InLine):
                continue
            line = np.linspace(p.inlet.point, p.outlet.point, max(4, int(p.length_mm / 40)))
            far = float(np.linalg.norm(at[:, None] - line[None], axis=2).min())
            least = min(least, far - mine - float(p.tube.od_mm) / 2)
    for body in found.system.bodies:
        line = np.linspace(body.start, body.end, 8)
        far = float(np.linalg.norm(at[:, None] - line[None], axis=2).min())
        least = min(least, far - mine - body.radius_mm - max(body.half_u, body.half_v))
    return least
