"""Holding the finish: what gives when a piece in a run's middle changes, so that the end stays where it was.

A straight that runs the same way gives first, alone; else the nearest free straights, rolls and angles behind the edit
are solved together; else several straights. Where nothing does, what could is said.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..closing import LEAST_ANGLE_DEG
from ..errors import EditError
from ..laying import LaidRun, angle_between, chain_steps, lay_run
from ..records import Bend, Design, InLine, Piece, Run, Straight
from ..review import CLOSES_DEG, CLOSES_MM
from ..space import Pose, Vector, chain, pose_from_matrix, wrapped
from ..units import Length, format_length

MOST_FREE = 10  # more than this behind an edit is not "the nearest" any more
HOLDS_MM = 1e-7
LONGEST_LEG_MM = 6000.0


def hold_finish(
    design: Design, run: Run, pieces: list[Piece], at: int, before: LaidRun | None = None, sits_in: int | None = None
) -> list[Piece]:
    """The pieces with what stands behind piece `at` changed so that the run's end stays. `sits_in` is the straight that
    a piece was put into: it gives the length, though it stands ahead. Raises EditError saying what could give.
    """
    before = before or lay_run(design, run)
    if before is None:
        raise EditError("the run has no start yet: place it, or carry the rest")
    target = _held_end(before)
    free = _free_values(pieces, at)
    lack = _lack(design, before.start, pieces, target)
    behind = list(range(at + 1, len(pieces)))
    ahead = [sits_in] if sits_in is not None and sits_in >= 0 else []
    if lack is not None and (given := _absorb_in_one_straight(design, pieces, [*ahead, *behind], lack)):
        return given
    steps, rigid, spans = chain_steps(pieces, design)
    first = [span[0] for span in spans]
    arm = max(200.0, float(np.linalg.norm(target.point - before.start.point)) / 3)
    best = np.inf
    for count in range(5, min(len(free), MOST_FREE) + 1):
        chosen = free[:count]
        index = np.array([(first[i], column) for i, column in chosen])
        low, high = _bounds(pieces, chosen, design.settings.shortest_straight_mm)
        start = before.start.matrix()
        closed, error = chain.close_chain(start, steps, rigid, target.matrix(), index, low, high, arm, 120)
        if error < HOLDS_MM:
            return _read_back(pieces, closed, first)
        best = min(best, error)
    if lack is not None and (given := _several_give(design, pieces, behind, lack)):
        return given
    near = f" come no nearer than {best:.0f} mm" if np.isfinite(best) else " cannot give what is needed"
    raise EditError(
        f"the finish cannot be held: the pieces behind piece {at + 1}{near}. {_could_give(pieces, at, lack)}"
    )


EndError = tuple[Vector, Vector]  # what the end lacks (3,) [mm], and the way each piece's inlet runs (n, 3)


def _lack(design: Design, start: Pose, pieces: Sequence[Piece], target: Pose) -> EndError | None:
    """How far the end is from where it was, where it only moved and did not turn; None where it turned."""
    steps, rigid, spans = chain_steps(pieces, design)
    frames = chain.lay_frames(start.matrix(), steps, rigid)
    end = pose_from_matrix(frames[-1])
    if angle_between(end.flow, target.flow) > 1e-6:
        return None
    ways = np.array([pose_from_matrix(frames[spans[i][0]]).flow for i in range(len(pieces))])
    return target.point - end.point, ways


def _absorb_in_one_straight(
    design: Design, pieces: list[Piece], among: Sequence[int], lack: EndError
) -> list[Piece] | None:
    """The nearest straight that runs along what is lacking, made longer or shorter by it."""
    off, ways = lack
    for i in among:
        piece, along = pieces[i], float(off @ ways[i])
        if isinstance(piece, Straight) and not piece.locked and np.linalg.norm(off - along * ways[i]) < HOLDS_MM:
            made = _as_long(design, piece, along)
            if made is not None:
                return [*pieces[:i], made, *pieces[i + 1 :]]
    return None


def _as_long(design: Design, leg: Straight, more: float) -> Straight | None:
    """A straight so much longer; none where that is shorter than the job's shortest or longer than any."""
    long = float(leg.length_mm) + more
    least = min(float(design.settings.shortest_straight_mm), float(leg.length_mm))
    return leg.replace(length_mm=Length(long)) if least - HOLDS_MM <= long <= LONGEST_LEG_MM else None


def _several_give(design: Design, pieces: list[Piece], among: Sequence[int], lack: EndError) -> list[Piece] | None:
    """Several straights, each as little as can be."""
    off, ways = lack
    legs = [i for i in among if isinstance(pieces[i], Straight) and not pieces[i].locked]
    if not legs:
        return None
    more, *_ = np.linalg.lstsq(ways[legs].T, off, rcond=None)
    if np.linalg.norm(ways[legs].T @ more - off) > HOLDS_MM:
        return None
    out = list(pieces)
    for i, by in zip(legs, more, strict=True):
        piece = pieces[i]
        made = _as_long(design, piece, float(by)) if isinstance(piece, Straight) else None
        if made is None:
            return None
        out[i] = made
    return out


def _could_give(pieces: Sequence[Piece], at: int, lack: EndError | None) -> str:
    """Describe alternatives: a straight ahead that runs the same way, what is locked behind."""
    ideas: list[str] = []
    if lack is not None:
        off, ways = lack
        for i in range(at - 1, -1, -1):
            piece, along = pieces[i], float(off @ ways[i])
            along_it = np.linalg.norm(off - along * ways[i]) < HOLDS_MM
            if isinstance(piece, Straight) and along_it and float(piece.length_mm) + along >= 0:
                verb = "lengthen" if along > 0 else "shorten"
                ideas.append(f"{verb} piece {i + 1} by {format_length(abs(along))} and carry the rest")
                break
    locked = [str(i + 1) for i in range(at + 1, len(pieces)) if pieces[i].locked]
    if locked:
        ideas.append(f"unlock piece {' or '.join(locked[:3])}")
    ideas += ["take a smaller step", "carry the rest and close it again"]
    return f"{ideas[0][0].upper()}{ideas[0][1:]}, " + ", ".join([*ideas[1:-1], f"or {ideas[-1]}"])


def _held_end(run: LaidRun) -> Pose:
    if run.aim and run.miss_mm < CLOSES_MM and run.miss_deg < CLOSES_DEG:
        return run.aim
    return run.end


def _free_values(pieces: Sequence[Piece], at: int) -> list[tuple[int, int]]:
    """(piece, kernel column) of what may answer, nearest first: legs, then rolls and angles as they come."""
    out: list[tuple[int, int]] = []
    for i in range(at + 1, len(pieces)):
        piece = pieces[i]
        if piece.locked or isinstance(piece, InLine):
            continue
        if isinstance(piece, Straight):
            out.append((i, 1))
        elif isinstance(piece, Bend):
            out += [(i, 3), (i, 1)]
    return out


def _bounds(pieces: Sequence[Piece], free: list[tuple[int, int]], shortest: float) -> tuple[np.ndarray, np.ndarray]:
    low, high = [], []
    for i, column in free:
        piece = pieces[i]
        if isinstance(piece, Straight):
            low.append(min(float(shortest), float(piece.length_mm)))
            high.append(LONGEST_LEG_MM)
        elif isinstance(piece, Bend) and column == 1:
            low.append(min(LEAST_ANGLE_DEG, float(piece.angle_deg)))
            high.append(180.0)
        else:
            low.append(-1080.0)
            high.append(1080.0)
    return np.array(low), np.array(high)


def _read_back(pieces: Sequence[Piece], steps: np.ndarray, first: Sequence[int]) -> list[Piece]:
    out: list[Piece] = []
    for i, piece in enumerate(pieces):
        step = steps[first[i]]
        if isinstance(piece, Straight) and abs(step[1] - piece.length_mm) > 1e-12:
            piece = piece.replace(length_mm=Length(step[1]))
        elif isinstance(piece, Bend) and (step[1] != piece.angle_deg or step[3] != piece.roll_deg):
            roll = wrapped(float(step[3]))
            piece = piece.replace(angle_deg=float(step[1]), roll_deg=roll)
        out.append(piece)
    return out
