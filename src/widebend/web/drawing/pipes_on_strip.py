"""Pipe on a strip: its pieces, ends, corners, ghosts and shadows, and where something is wrong."""

from __future__ import annotations

import numpy as np

from ...core.editing import Corner
from ...core.laying import LaidPiece, LaidRun, centre_line
from ...core.records import Design, InLine, Straight
from ...core.review import Review
from .marks import Mark, Scale
from .strip import Ghost, Shadow, Strip

LEAST_ARROW_PX = 46.0


def draw_pipe(
    strip: Strip,
    scale: Scale,
    axes: tuple[int, int],
    pieces: tuple[LaidPiece, ...],
    found: Review,
    run_id: str,
    chosen: int | None,
) -> None:
    """A pipe's silhouette is its projected centre line drawn as wide as the tube."""
    pipe = [p for p in pieces if not isinstance(p.piece, InLine)]
    paths = [(p, scale.line(centre_line(p)[:, axes]), p.tube.od_mm * scale.per_mm) for p in pipe]
    for p, d, width in paths:
        edge = _edge_class(found, run_id, p.index, p.index == chosen)
        strip.marks.append(Mark("path", f"pipe-edge {edge}".strip(), {"d": d, "width": width + (4 if edge else 2.4)}))
    for _p, d, width in paths:
        strip.marks.append(Mark("path", "pipe", {"d": d, "width": max(width - 0.4, 1.0)}))
    for p, d, width in paths:
        strip.marks.append(Mark("path", "centre-line", {"d": d, "width": 1}, f"piece {p.index + 1}"))
        strip.marks.append(Mark("hit", "hit", {"d": d, "width": max(width, 14), "piece": p.piece.id}))
    for p in pieces[:-1]:
        strip.marks.append(_joint(scale, axes, p))


def _edge_class(found: Review, run_id: str, index: int, chosen: bool) -> str:
    codes = {f.code for f in found.of_piece(run_id, index)}
    state = "touches" if "touches" in codes else "tight" if codes & {"tight", "own"} else ""
    return " ".join(w for w in (state, "chosen" if chosen else "") if w)


def _joint(scale: Scale, axes: tuple[int, int], piece: LaidPiece) -> Mark:
    """A thin line across the pipe where one piece ends."""
    at, r = piece.outlet, float(piece.tube.od_mm) / 2
    flow = np.array([at.flow[axes[0]], at.flow[axes[1]]])
    length = float(np.linalg.norm(flow))
    square = np.array([-flow[1], flow[0]]) / length if length > 1e-6 else np.array([0.0, 1.0])
    a, b = (np.array([at.point[axes[0]], at.point[axes[1]]]) + s * r * square for s in (-1, 1))
    return Mark("line", "joint", {"x1": scale.x(a[0]), "y1": scale.y(a[1]), "x2": scale.x(b[0]), "y2": scale.y(b[1])})


def draw_ends(strip: Strip, scale: Scale, axes: tuple[int, int], run: LaidRun) -> None:
    """The run's start and aim as arrows along the flow; an end that misses is tied to its aim."""
    start, aim, end = run.start, run.aim, run.end
    arrows = [("start", start, 70.0)] if not run.pieces else []
    if aim is not None and run.miss_mm > 0.01:
        arrows.append(("aim", aim, -70.0))
        x1, y1 = scale.x(end.point[axes[0]]), scale.y(end.point[axes[1]])
        x2, y2 = scale.x(aim.point[axes[0]]), scale.y(aim.point[axes[1]])
        strip.marks.append(Mark("line", "miss", {"x1": x1, "y1": y1, "x2": x2, "y2": y2}))
    for css, at, reach in arrows:
        tail = at.point if reach > 0 else at.point + reach * at.flow
        head = at.point + reach * at.flow if reach > 0 else at.point
        strip.marks.append(
            Mark(
                "line",
                f"arrow {css}",
                {
                    "x1": scale.x(tail[axes[0]]),
                    "y1": scale.y(tail[axes[1]]),
                    "x2": scale.x(head[axes[0]]),
                    "y2": scale.y(head[axes[1]]),
                    "arrow": True,
                },
            )
        )


def gas_arrow(scale: Scale, axes: tuple[int, int], run: LaidRun) -> list[Mark]:
    """Which way the gas goes, on the longest straight of a run as it is seen here."""
    legs = [
        (p.inlet.point[list(axes)], p.outlet.point[list(axes)]) for p in run.pieces if isinstance(p.piece, Straight)
    ]
    if not legs:
        return []
    a, b = max(legs, key=lambda ends: float(np.linalg.norm(ends[1] - ends[0])))
    long_px = float(np.linalg.norm(b - a)) * scale.per_mm
    if long_px < LEAST_ARROW_PX:
        return []
    head, tail = (a + b) / 2 + (b - a) * 9.0 / long_px, (a + b) / 2 - (b - a) * 9.0 / long_px
    return [
        Mark(
            "line",
            "gas-arrow",
            {
                "x1": scale.x(tail[0]),
                "y1": scale.y(tail[1]),
                "x2": scale.x(head[0]),
                "y2": scale.y(head[1]),
                "arrow": True,
            },
        )
    ]


def draw_ghost(strip: Strip, scale: Scale, axes: tuple[int, int], ghost: Ghost, design: Design) -> None:
    css = "ghost chosen" if ghost.chosen else "ghost"
    css += " misses" if ghost.misses else ""
    for piece in ghost.laid:
        width = piece.tube.od_mm * scale.per_mm if ghost.chosen else 2
        strip.marks.append(Mark("path", css, {"d": scale.line(centre_line(piece)[:, axes]), "width": width}))


def shadow_mark(scale: Scale, axes: tuple[int, int], shadow: Shadow) -> Mark:
    width = max(2.0, shadow.width_mm * scale.per_mm)
    return Mark("path", shadow.css, {"d": scale.line(shadow.line[:, axes]), "width": width})


def corner_mark(scale: Scale, axes: tuple[int, int], run: LaidRun, corner: Corner) -> Mark:
    at = {"x": scale.x(float(corner.point[axes[0]])), "y": scale.y(float(corner.point[axes[1]]))}
    return Mark("corner", "corner", {**at, "handle": run.pieces[corner.piece].piece.id})


def touch_marks(strip: Strip, scale: Scale, axes: tuple[int, int], found: Review) -> list[tuple[float, float]]:
    """A lozenge where something is wrong: filled when it touches, half filled when it is tight; their places."""
    places = []
    for finding in found.findings:
        if finding.at is None or finding.code not in ("touches", "tight", "own", "inside"):
            continue
        x, y = scale.x(finding.at[axes[0]]), scale.y(finding.at[axes[1]])
        css = "lozenge touches" if finding.spoils else "lozenge tight"
        strip.marks.append(Mark("lozenge", css, {"x": x, "y": y}, finding.thing_name))
        places.append((x, y))
    return places
