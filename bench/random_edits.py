"""Random edits of a design, as a person's hands and typing slips would make them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Any

import numpy as np

from widebend.core.editing import drag_corner, fixings, hang_on_pipe, mirroring, placing
from widebend.core.editing import edits as editing
from widebend.core.errors import EditError, InputError
from widebend.core.records import Design, InLine, Run, Tap, Tube
from widebend.core.review import review
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

EDITS = 5000
Rng = np.random.Generator


def _run(design: Design, rng: Rng) -> Run:
    return design.runs[int(rng.integers(len(design.runs)))]


def _piece(run: Run, rng: Rng) -> str:
    return run.pieces[int(rng.integers(len(run.pieces)))].id if run.pieces and rng.random() < 0.95 else "gone"


def _part(design: Design, rng: Rng) -> str:
    return design.parts[int(rng.integers(len(design.parts)))].id if rng.random() < 0.95 else "gone"


def _port(design: Design, rng: Rng) -> str:
    part = design.parts[int(rng.integers(len(design.parts)))]
    return f"{part.id}.{part.item.ports[int(rng.integers(len(part.item.ports)))].id}"


def _then(rng: Rng) -> str:
    return str(rng.choice([editing.CARRY, editing.HOLD]))


def _set(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    name = str(rng.choice(["length_mm", "angle_deg", "clr_mm", "roll_deg"]))
    value = float(rng.choice([0.0, -5.0, 0.001, 1.0, rng.uniform(0, 400), rng.uniform(0, 180), 7000.0, 179.9, 181.0]))
    return editing.set_piece(design, run.id, _piece(run, rng), {name: value}, _then(rng))


def _insert(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return editing.insert(design, run.id, _piece(run, rng), str(rng.choice(["leg", "bend"])), _then(rng))[0]


def _take_out(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return editing.take_out(design, run.id, _piece(run, rng), _then(rng))


def _carry(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return editing.carry(design, run.id, _piece(run, rng), _part(design, rng), _then(rng))[0]


def _tube(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return editing.set_tube(
        design, run.id, _piece(run, rng), Tube(od_mm=float(rng.choice([38.1, 76.2, 101.6])), wall_mm=1.5)
    )


def _corner(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return drag_corner(design, run.id, _piece(run, rng), rng.normal(size=3) * rng.uniform(0, 200))


def _move(design: Design, rng: Rng) -> Design:
    return placing.moved_part(design, _part(design, rng), rng.normal(size=3) * rng.uniform(0, 300))


def _without_part(design: Design, rng: Rng) -> Design:
    return placing.without_part(design, _part(design, rng))


def _without_run(design: Design, rng: Rng) -> Design:
    return placing.without_run(design, _run(design, rng).id) if len(design.runs) > 1 else design


def _join(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return placing.joined(design, _port(design, rng), _port(design, rng), run.tube)[0]


def _mirror(design: Design, rng: Rng) -> Design:
    return mirroring.mirror_run(design, _run(design, rng).id, 0.0) if len(design.runs) < 8 else design


def _boss(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return fixings.add_boss(design, run.id, _piece(run, rng), rng.uniform(-10, 400), rng.uniform(0, 360))


def _branch(design: Design, rng: Rng) -> Design:
    if len(design.runs) > 7:
        return design
    run = _run(design, rng)
    return fixings.add_branch(design, run.id, _piece(run, rng), rng.uniform(0, 300), rng.uniform(0, 360), 45.0, 38.1)[0]


def _hanger(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return hang_on_pipe(design, run.id, _piece(run, rng), rng.uniform(0, 300), None)[0]


def _lock(design: Design, rng: Rng) -> Design:
    run = _run(design, rng)
    return editing.set_locked(design, run.id, _piece(run, rng), bool(rng.random() < 0.3))


def _wreck(design: Design, rng: Rng) -> Design:
    """What no button does, but a file or a fault might: something points elsewhere."""
    run = _run(design, rng)
    change: dict[str, Any] = [
        {"start": _port(design, rng)},
        {"aim": _port(design, rng)},
        {"twin_of": _run(design, rng).id},
        {"start": Tap(run=_run(design, rng).id, piece=_piece(run, rng), along_mm=10, roll_deg=0)},
        {"pieces": (*run.pieces, InLine(id="wreck", part=_part(design, rng)))},
    ][int(rng.integers(5))]
    changed = run.replace(**change)
    return design.replace(runs=tuple(changed if r.id == run.id else r for r in design.runs))


KINDS: tuple[Callable[[Design, Rng], Design], ...] = (
    _set,
    _set,
    _set,
    _insert,
    _take_out,
    _carry,
    _tube,
    _corner,
    _move,
    _without_part,
    _without_run,
    _join,
    _mirror,
    _boss,
    _branch,
    _hanger,
    _lock,
    _wreck,
)


def edited(design: Design, rng: Rng) -> Design | None:
    """A design after one random edit through the door; None where it was refused in words."""
    kind = KINDS[int(rng.integers(len(KINDS)))]
    try:
        return kind(design, rng).validated()
    except (EditError, InputError) as exc:
        assert str(exc)
        return None


def bench_edits() -> None:
    """5,000 random edits through the one door: sound designs, refusals, and anything else that came of them."""
    rng, outcomes, other = np.random.default_rng(8), Counter[str](), Counter[str]()
    makers = (twin_x, pie_downpipe, low_truck, quad_rear)
    design = makers[0]()
    for k in range(EDITS):
        if k % 60 == 0:
            design = makers[k // 60 % len(makers)]()
        try:
            after = edited(design, rng)
            if after is not None and k % 5 == 0:
                review(after)
        except Exception as exc:
            other[f"{type(exc).__name__}: {str(exc)[:100]}"] += 1
            continue
        outcomes["refused" if after is None else "sound"] += 1
        design = after or design
    print(f"{EDITS} edits: {outcomes['sound']} sound, {outcomes['refused']} refused, {other.total()} something else")
    for words, times in other.most_common(10):
        print(f"  {times} x {words}")
