"""Bend cards: a run, or a stretch of it between parts and joints, made on the shop's bender from one straight tube."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.bending import Bent, Card, Clash, card_of, clashes, dies_for, end_doubt, pose_difference
from ...core.errors import InputError
from ...core.flow import as_straight_mm
from ...core.laying import LaidPiece, LaidRun
from ...core.records import Bend, Bender, Die, Piece, Straight, Tube
from ...instruments.bending import bend
from ...store import jobs
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.figures import number
from ..page.instruments import tool_of

room = Blueprint("bender", __name__, url_prefix="/jobs/<int:job_id>/cut/bender")


@dataclass(frozen=True)
class Stretch:
    """Straights and bends of one tube, one behind the other: what comes out of the bender in one piece."""

    name: str
    laid: tuple[LaidPiece, ...]

    @property
    def pieces(self) -> tuple[Piece, ...]:
        return tuple(p.piece for p in self.laid)

    @property
    def tube(self) -> Tube:
        return self.laid[0].tube

    @property
    def first(self) -> int:
        return self.laid[0].index + 1

    @property
    def last(self) -> int:
        return self.laid[-1].index + 1


@dataclass(frozen=True)
class Carded:
    """A stretch with its card on the die that was chosen, and what it hits; or why there is none."""

    stretch: Stretch
    dies: list[tuple[Bender, Die]]
    chosen: int
    card: Card | None
    hits: list[Clash]
    doubt_mm: float
    why: str = ""

    @property
    def loss_mm(self) -> tuple[float, float]:
        """The straight pipe that costs the flow as much: from this die, and from mandrel bends."""
        lost = self.dies[self.chosen][1].lost_bore if self.dies else 0.0
        return as_straight_mm(self.stretch.laid, lost), as_straight_mm(self.stretch.laid)


def _stretches(runs: tuple[LaidRun, ...]) -> list[Stretch]:
    """Every stretch with a bend, of every run: it ends at a part, a mitre, slices, a joint said, another tube."""
    found: list[Stretch] = []
    for laid in runs:
        joints = {j.after for j in laid.run.joints}
        now: list[LaidPiece] = []
        for placed in (*laid.pieces, None):
            whole = placed if placed is not None and isinstance(placed.piece, Straight | Bend) else None
            if now and (whole is None or whole.tube != now[-1].tube or now[-1].piece.id in joints):
                if any(isinstance(p.piece, Bend) for p in now):
                    found.append(Stretch(laid.run.name or laid.run.id, tuple(now)))
                now = []
            if whole:
                now.append(whole)
    return found


def _carded(here: AtHand, benders: tuple[Bender, ...]) -> tuple[list[Stretch], Carded | None, bool]:
    """All stretches, the one that is looked at with its card, and whether it is bent from its other end."""
    stretches = _stretches(here.system.runs)
    if not stretches:
        return [], None, False
    at = min(int(number(request.values.get("at"), 0)), len(stretches) - 1)
    backwards = request.values.get("from") == "end"
    stretch = stretches[max(0, at)]
    dies = dies_for(benders, stretch.tube)
    if not dies:
        return stretches, Carded(stretch, [], 0, None, [], 0.0), backwards
    chosen = min(max(0, int(number(request.values.get("die"), 0))), len(dies) - 1)
    try:
        card = card_of(stretch.pieces, stretch.tube, *dies[chosen], backwards=backwards, unit=g.unit)
    except InputError as exc:
        return stretches, Carded(stretch, dies, chosen, None, [], 0.0, str(exc)), backwards
    if not card.is_possible:
        return stretches, Carded(stretch, dies, chosen, card, [], 0.0), backwards
    doubt = end_doubt(card, stretch.pieces, stretch.tube, backwards=backwards)
    return stretches, Carded(stretch, dies, chosen, card, clashes(card, dies[chosen][0]), doubt), backwards


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id)


@room.post("/prove")
def prove(job_id: int) -> ResponseReturnValue:
    """Bend the card on the bender that answers, and hold what comes out against the design."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        benders = jobs.equipment(connection).benders
    _, carded, _ = _carded(here, benders)
    if carded is None or carded.card is None or not carded.card.is_possible:
        return redirect(url_for("bender.show", job_id=job_id), 303)
    try:
        tool = tool_of("bender")
        made = bend(tool, carded.card)
    except InputError as exc:
        return _page(job_id, wrong=str(exc), code=422)
    return _page(job_id, made=made, stand_in=tool.stand_in)


def _page(
    job_id: int, made: Bent | None = None, wrong: str = "", code: int = 200, *, stand_in: bool = False
) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        benders = jobs.equipment(connection).benders
    stretches, carded, backwards = _carded(here, benders)
    proof = None
    if made and carded and carded.card:
        apart, turned = pose_difference(carded.stretch.pieces, carded.stretch.tube, made, backwards=backwards)
        worst = max(abs(r.angle_deg - line.angle_deg) for r, line in zip(made.rows, carded.card.lines, strict=True))
        proof = {"apart": apart, "turned": turned, "worst": worst, "rows": made.rows, "stand_in": stand_in}
    right = request.values.get("hand") == "right"
    sense = -1.0 if right else 1.0
    return render_template(
        "cut/bender.html",
        here=here,
        step="cut",
        sheet="bender.show",
        stretches=stretches,
        carded=carded,
        backwards=backwards,
        right=right,
        sense=sense,
        proof=proof,
        wrong=wrong,
        at=stretches.index(carded.stretch) if carded else 0,
    ), code
