"""Helpers at the bench on the Layout step: X, Y, H, twin tips, and two faces that should meet. Nothing is kept here."""

from __future__ import annotations

import numpy as np
from flask import Blueprint, g, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.hardware import h_stub, off_centre_mm, off_for_chamber, twin_tip, x_pipe, y_pipe
from ...core.survey import End, match
from ...core.units import format_angle, format_length
from ..page.at_hand import at_hand, transaction
from ..page.edits import Faults, FormState
from ..page.helpers import Answer, Figures, Helper, HelperField
from .sheets import render_sheet

room = Blueprint("crossings", __name__, url_prefix="/jobs/<int:job_id>/layout/crossings")

SIDE_PX, PAD_PX = 360.0, 22.0


def _mm(value: float, digits: int = 1) -> str:
    return format_length(value, g.unit, digits)


def _x(v: Figures) -> Answer:
    off = v["off"]
    if v["chamber"] > 0:
        off = off_for_chamber(v["od"], v["clr"], v["bend"], v["chamber"])
    x = x_pipe(v["od"], v["clr"], v["bend"], off)
    cut = x.cut
    out = Answer(
        figures=[
            ("bend's middle to the cut", _mm(off)),
            ("slice off, at the deepest", _mm(x.depth_mm)),
            ("length of contact, the chamber", _mm(cut.length_mm)),
            ("height of the opening", _mm(cut.height_mm)),
            ("opening", f"{cut.area_mm2 / 100:.1f} cm²"),
            ("weld along the seam", _mm(cut.seam_mm)),
            ("pipes apart at the ends, middles", _mm(x.apart_mm)),
            ("end to end", _mm(x.along_mm)),
        ],
        heads=("roll from the heel", "along that line from the bend's middle, each way"),
        table=[(format_angle(deg), _mm(mm)) for deg, mm in cut.marks if 0 <= deg <= 180],
        note="Both halves are the same: cut one, turn it over for the other."
        + ("" if x.inside_the_bends else " The cut runs on into the straights: leave them on."),
        paths=_fitted([cut.outline]),
        drawing_words="the opening, both halves, true shape",
        shelf={
            "kind": "crossover",
            "crossover-od": f"{v['od']}mm",
            "crossover-clr": f"{v['clr']}mm",
            "crossover-bend": f"{v['bend']}",
            "crossover-off": f"{off}mm",
        },
    )
    if v["left"] > 0 and v["right"] > 0:
        side = off_centre_mm(v["left"], v["right"])
        words = (
            "in the middle" if abs(side) <= 3 else f"{_mm(abs(side))} too far to the {'right' if side > 0 else 'left'}"
        )
        out.figures.append(("the seam is", f"{words}; within 3 mm is usual"))
    return out


def _y(v: Figures) -> Answer:
    y = y_pipe(v["od"], v["clr"], v["bend"], v["leg"])
    return Answer(
        figures=[
            ("crotch behind the outlet end", _mm(y.crotch_mm)),
            ("weld along the seam", _mm(y.seam_mm)),
            ("pipes apart at the far ends, middles", _mm(y.apart_mm)),
            ("far ends ahead of the outlet", _mm(y.along_mm)),
        ],
        heads=("roll from the heel", "along that line from the outlet end"),
        table=[(format_angle(deg), _mm(mm)) for deg, mm in y.marks if deg >= 0],
        note="What lies beyond the marks on the heel side comes off, on both bends; the outlet end stays whole.",
        shelf={
            "kind": "merge",
            "merge-od": f"{v['od']}mm",
            "merge-deg": f"{2 * v['bend']}",
            "merge-long": f"{y.along_mm}mm",
            "merge-od_out": f"{v['od']}mm",
        },
    )


def _h(v: Figures) -> Answer:
    h = h_stub(v["stub"], v["od"], v["apart"])
    return Answer(
        figures=[("stub, longest", _mm(h.longest_mm)), ("stub, shortest", _mm(h.shortest_mm))],
        heads=("roll, 0 along the pipes", "cut away at both ends"),
        table=[(format_angle(deg), _mm(mm)) for deg, mm in h.marks if deg <= 180],
        note="Cut the stub to the longest, then both saddles by the table, one the mirror of the other. Holes in the "
        "pipes follow the stub's inside.",
        paths=_fitted([np.column_stack([np.radians(h.marks[:, 0]) * v["stub"] / 2, -h.marks[:, 1]])]),
        drawing_words="one saddle laid flat, once round the stub",
        shelf={
            "kind": "crossover-h",
            "crossover-h-od": f"{v['od']}mm",
            "crossover-h-apart": f"{v['apart']}mm",
            "crossover-h-stub": f"{v['stub']}mm",
        },
    )


def _twin(v: Figures) -> Answer:
    t = twin_tip(v["od"], v["clr"], v["apart"], v["bend"])
    return Answer(
        figures=[
            ("straight between the two bends of a side", _mm(t.leg_mm)),
            ("long, end to end", _mm(t.along_mm)),
            ("crotch behind the inlet", _mm(t.y.crotch_mm)),
            ("four bends of", format_angle(v["bend"])),
        ],
        heads=("roll from the heel", "along that line from the inlet end"),
        table=[(format_angle(deg), _mm(mm)) for deg, mm in t.y.marks if deg >= 0],
        note="Trim the first bend of each side by the table; the second turns back by as much.",
        shelf={
            "kind": "tip-twin",
            "tip-twin-od": f"{v['od']}mm",
            "tip-twin-tip_od": f"{v['od']}mm",
            "tip-twin-apart": f"{v['apart']}mm",
            "tip-twin-long": f"{t.along_mm}mm",
        },
    )


def _faces(v: Figures) -> Answer:
    ends = [End(v[f"{k}_wide"], v[f"{k}_narrow"], v[f"{k}_at"], v[f"{k}_off"], v[f"{k}_high"]) for k in "ab"]
    best, worst = match(*ends)
    half_wall = v["wall"] / 2
    verdict = "fair it in with the torch" if best.step_mm <= half_wall else "open the smaller end, or use a sleeve"
    return Answer(
        figures=[
            ("turn the second's mark from the first's", format_angle(best.rotation_deg)),
            ("step there", f"{_mm(best.step_mm, 2)}: {verdict}"),
            ("gap there", _mm(best.gap_mm, 2)),
            ("at the worst rotation", f"step {_mm(worst.step_mm, 2)}, gap {_mm(worst.gap_mm, 2)}"),
        ],
        note="Clockwise seen from the second piece. A step of up to half the wall is welded over: common practice.",
    )


def _end(key: str, which: str, od: float) -> tuple[HelperField, ...]:
    """The fields of one measured tube end."""
    return (
        HelperField(f"{key}_wide", f"{which}: widest OD", od),
        HelperField(f"{key}_narrow", f"{which}: narrowest OD", od - 0.6),
        HelperField(f"{key}_at", f"{which}: widest lies at, from its mark", 0.0, "deg"),
        HelperField(f"{key}_off", f"{which}: face off square across", 0.0),
        HelperField(f"{key}_high", f"{which}: face stands highest at", 0.0, "deg"),
    )


_OD, _CLR = HelperField("od", "tube outside diameter", 63.5), HelperField("clr", "bend radius", 95.25)
HELPERS = (
    Helper(
        "x",
        "X from two bends",
        (
            _OD,
            _CLR,
            HelperField("bend", "each bend turns", 45.0, "deg"),
            HelperField("off", "bend's middle to the cut", 20.0),
            HelperField("chamber", "or the chamber you want, 0 = as above", 0.0),
            HelperField("left", "seam to the left pipe's far wall, as tacked", 0.0),
            HelperField("right", "and to the right pipe's", 0.0),
        ),
        _x,
    ),
    Helper(
        "y",
        "Y from two bends",
        (
            _OD,
            _CLR,
            HelperField("bend", "each bend turns", 25.0, "deg"),
            HelperField("leg", "straight behind each bend", 80.0),
        ),
        _y,
    ),
    Helper(
        "h",
        "H stub",
        (
            _OD,
            HelperField("stub", "stub outside diameter", 50.8),
            HelperField("apart", "pipes apart, middle to middle", 120.0),
        ),
        _h,
    ),
    Helper(
        "twin",
        "twin tip",
        (
            _OD,
            _CLR,
            HelperField("bend", "each bend turns", 25.0, "deg"),
            HelperField("apart", "tips apart, middle to middle", 110.0),
        ),
        _twin,
    ),
    Helper(
        "faces",
        "two faces",
        (
            *_end("a", "first", 63.6),
            *_end("b", "second", 63.3),
            HelperField("wall", "wall", 1.5),
        ),
        _faces,
    ),
)


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    helper = next((h for h in HELPERS if h.key == request.args.get("helper")), HELPERS[0])
    said, answer = FormState(typed=dict(request.args)), None
    try:
        answer = helper.work(helper.read())
    except Faults as faults:
        said.errors = faults.errors
    except InputError as exc:
        said.errors = {"": str(exc)}
    return render_sheet(
        here,
        said,
        422 if said.errors else 200,
        "crossings.show",
        "layout/_sheet_crossings.html",
        helper=helper,
        helpers=HELPERS,
        answer=answer,
        shown=helper.shown(),
        side=SIDE_PX,
    )


def _fitted(outlines: list[np.ndarray]) -> list[tuple[str, str]]:
    """Outlines (n, 2) [mm] as paths that fill the drawing's square."""
    every = np.concatenate(outlines)
    low, high = every.min(axis=0), every.max(axis=0)
    scale = (SIDE_PX - 2 * PAD_PX) / float(max(high - low))
    middle = (low + high) / 2
    out = []
    for outline in outlines:
        at = (outline - middle) * [scale, -scale] + [SIDE_PX / 2, SIDE_PX / 4 + 10]
        out.append(("opening", "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in at.tolist())))
    return out
