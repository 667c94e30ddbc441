"""The Weld step: every joint with its plan, drawn by the clock, with what can hurt before the step it belongs to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args

from flask import Blueprint, g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import cut_lists
from ...core.fitting import as_built
from ...core.joining import (
    STANDING,
    WeldJoint,
    WeldPlan,
    every_joint,
    joint_cautions,
    plan_of,
    pull_toward,
    weld_order,
    weld_totals,
)
from ...core.laying import LaidRun
from ...core.records import Design, Welding
from ...core.units import format_length
from ...facts import Process
from ...store.database import Connection
from ..drawing.joint_picture import joint_picture
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import is_htmx, typing_unit
from ..page.reader import Reader

room = Blueprint("weld", __name__, url_prefix="/jobs/<int:job_id>/weld")

PROCESSES: tuple[Process, ...] = get_args(Process)
ROOTS = (("purge", "purge with argon"), ("back flux", "back flux"), ("none", "nothing behind it"))
ORDERS = ("tack all, then weld", "joint by joint")
# what each school holds for itself, said where it is chosen: common practice, no source
ROOT_WORDS = {
    "purge": "a clean root that gas runs past and that lasts hot: the usual where it is stainless or titanium",
    "back flux": "no bottle at the pipe's end; what stays inside is glass and may break loose",
    "none": "quickest; stainless sugars inside, is rough and cracks sooner",
}
ORDER_WORDS = {
    "tack all, then weld": "all of it is on the vehicle before anything is pulled: what is off is seen and mended cold",
    "joint by joint": "each is through before the next is fitted, and what it pulled is measured and answered on Fit",
}
NEARLY = ("purge", "clean", "tack", "weld")


@dataclass(frozen=True)
class JointRow:
    """A joint in the list: its key and place in words, its metals, when it is welded (empty: not), where, its state."""

    key: str
    words: str
    metals: str
    turn: str
    where: str
    long: str
    state: str
    refused: str


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState(piece=request.args.get("joint")))


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    name = "weld/_bench.html" if is_htmx() else "weld/page.html"
    return render_template(name, **_panel(here, said)), code


def joints_at_hand(here: AtHand) -> list[WeldJoint]:
    """Every joint of the job, its cuts as they were taken from the shelf."""
    design, system = here.design, here.system
    runs = [run for run in system.runs if run.pieces]
    return solved(
        design,
        ("joints", g.sight.view),
        lambda: every_joint(
            design,
            system,
            cut_lists(design, runs, here.bends),
            here.found.obstacles,
            float(design.settings.rules.torch_room_mm),
        ),
    )


def _plans(here: AtHand, welding: Welding) -> list[WeldPlan]:
    design = here.design
    runs = {run.run.id: run for run in here.system.runs}
    return [
        plan_of(joint, welding, design.settings.rules, _pull(design, runs.get(joint.run), joint))
        for joint in joints_at_hand(here)
    ]


def _pull(design: Design, run: LaidRun | None, joint: WeldJoint) -> float | None:
    """Toward which clock the weld should pull, where what is behind it was found askew and is only tacked."""
    if run is None or joint.behind is None or joint.state != "tacked":
        return None
    now = solved(design, ("as built", run.run.id), lambda: as_built(design, run.run.id))
    if now is None:
        return None
    step = now.plan.step_of(joint.behind) + 1
    found, planned = now.found.frames[step][:, 0], now.planned[step][:, 0]
    return pull_toward(found, planned, joint.at.reference, joint.at.across)


def joint_words(joint: WeldJoint, design: Design) -> str:
    """Where a joint is, in words."""
    run = design.run(joint.run)
    name = f"{run.name or run.id}: " if run and len(design.runs) > 1 else ""
    if joint.name:
        return joint.name if joint.of.startswith("boss-") or not joint.run else f"{name}{joint.name}"
    if joint.alike > 1 or (joint.ahead == joint.behind and joint.sides[0].name == "slice"):
        return f"{name}between the slices of piece {(joint.ahead or 0) + 1}"
    ahead = "start" if joint.ahead is None else f"piece {joint.ahead + 1}"
    behind = "finish" if joint.behind is None else f"piece {joint.behind + 1}"
    if ahead == behind:
        return f"{name}within piece {(joint.ahead or 0) + 1}"
    return f"{name}{ahead} to {behind}"


def _panel(here: AtHand, said: FormState) -> dict[str, Any]:
    design, welding = here.design, here.design.settings.welding
    plans = _plans(here, welding)
    order = weld_order(plans, welding.order)
    chosen = next((p for p in plans if p.joint.key == said.piece), None)
    if chosen is None and order:
        chosen = next(p for p in plans if p.joint.key == order[0])
    cautions = joint_cautions(chosen, here.found.obstacles) if chosen and chosen.figures else []
    return {
        "here": here,
        "step": "weld",
        "said": said,
        "revision": here.number,
        "plans": plans,
        "chosen": chosen,
        "welding": welding,
        "processes": PROCESSES,
        "picture_of": joint_picture(chosen) if chosen and chosen.tacks else None,
        "rows": [_row(p, order, design) for p in plans],
        "roots": ROOTS,
        "orders": ORDERS,
        "root_words": ROOT_WORDS[welding.root],
        "order_words": ORDER_WORDS[welding.order],
        "totals": weld_totals(plans),
        "schools": _schools(here, welding),
        "standing": [c for c in STANDING if c.before in ("get under", "get in")],
        "before": [(step, [c for c in (*STANDING, *cautions) if c.before == step]) for step in NEARLY],
        "chosen_words": joint_words(chosen.joint, design) if chosen else "",
        "refused": [(joint_words(p.joint, design), p.refused) for p in plans if p.refused],
        "next_key": _next(order, chosen),
        "on_it": _fitted_piece(chosen, design),
    }


def _row(plan: WeldPlan, order: list[str], design: Design) -> JointRow:
    joint = plan.joint
    a, b = (f"{side.metal} {side.wall_mm:g}" if side.wall_mm else side.metal for side in joint.sides)
    turn = str(order.index(joint.key) + 1) if joint.key in order else ""
    many = f"{joint.alike} × " if joint.alike > 1 else ""
    long = many + format_length(joint.weld_mm, g.unit, 0) if joint.welds else joint.kind
    metals = a if a == b else f"{a} to {b}"
    return JointRow(joint.key, joint_words(joint, design), metals, turn, plan.where, long, joint.state, plan.refused)


def _schools(here: AtHand, welding: Welding) -> list[tuple[str, str, float, float]]:
    """Return the cost of each way to protect the root: its name, what it is, litres of gas, minutes that are waited for
    a flush.
    """
    out = []
    for key, words in ROOTS:
        plans = _plans(here, welding.replace(root=key))
        flush = sum(p.purge.flush_min * p.joint.alike for p in plans if p.purge)
        out.append((words, ROOT_WORDS[key], weld_totals(plans).gas_l, flush))
    return out


def _next(order: list[str], chosen: WeldPlan | None) -> str:
    """The joint that is welded after the one in hand."""
    if chosen is None or chosen.joint.key not in order:
        return ""
    at = order.index(chosen.joint.key) + 1
    return order[at] if at < len(order) else ""


def _fitted_piece(chosen: WeldPlan | None, design: Design) -> str:
    """The piece whose joint this is, where it is tacked on."""
    if chosen is None or chosen.joint.behind is None or chosen.joint.state != "tacked":
        return ""
    run = design.run(chosen.joint.run)
    return run.pieces[chosen.joint.behind].id if run else ""


@room.post("/how")
def how(job_id: int) -> ResponseReturnValue:
    """How this job is welded."""
    said = FormState(piece=request.form.get("joint"))

    def keep(connection: Connection, here: AtHand) -> None:
        reader = Reader(request.form, typing_unit())
        was = here.design.settings.welding
        welding = Welding.model_validate(
            {
                "process": reader.choice("process", PROCESSES, was.process),
                "root": reader.choice("root", [key for key, _ in ROOTS], was.root),
                "order": reader.choice("order", ORDERS, was.order),
                "plug_mm": reader.length("plug_mm", 20.0, 2000.0),
            }
        )
        reader.finish()
        settings = here.design.settings.replace(welding=welding)
        said.note = f"Welded by {welding.process}: {welding.root}, {welding.order}."
        keep_design(connection, here, here.design.replace(settings=settings), "how it is welded")

    return run_edit(job_id, said, keep, render, lambda: url_for("weld.show", job_id=job_id))
