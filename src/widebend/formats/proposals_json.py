"""Proposals as plain data and back: what a worker found travels through the database to the page that shows it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from ..core.closing import Answer, BendOptions, Change
from ..core.editing import last_tube
from ..core.laying import lay_pieces
from ..core.records import Design, Piece
from ..core.review import Finding
from ..core.routing import Made, Proposal, Proposals, Side, ready

FINDINGS: TypeAdapter[tuple[Finding, ...]] = TypeAdapter(tuple[Finding, ...])
PIECES: TypeAdapter[tuple[Piece, ...]] = TypeAdapter(tuple[Piece, ...])


def proposals_data(proposals: Proposals) -> dict[str, Any]:
    """Proposals as JSON data; what is laid is left out, it follows from the pieces."""
    return {
        "kept": proposals.kept,
        "until": proposals.until,
        "why_not": proposals.why_not,
        "opens": list(proposals.opens),
        "tries": proposals.tries,
        "agreeing": proposals.agreeing,
        "found": [_data(p) for p in proposals.found],
        "miss": _data(proposals.miss) if proposals.miss else None,
        "drawn": _data(proposals.drawn) if proposals.drawn else None,
        "changes": [_change(c) for c in proposals.changes],
    }


def _change(change: Change) -> dict[str, Any]:
    ways = change.ways
    return {
        "words": change.words,
        "shift": change.aim_shift_mm,
        "clr": list(ways.clr_mm),
        "angles": list(ways.angles_deg),
        "free": ways.free,
        "shortest": ways.shortest_mm,
    }


def _data(p: Proposal) -> dict[str, Any]:
    return {
        "steps": p.answer.steps.tolist(),
        "from_set": p.answer.from_set,
        "pieces": PIECES.dump_python(p.pieces, mode="json"),
        "margin": p.worst_margin_mm,
        "thing": p.worst_thing,
        "state": p.worst_state,
        "goes": p.goes,
        "sides": [[s.side, s.thing, s.name] for s in p.sides],
        "buried": p.buried,
        "price": p.price,
        "lacks": [list(item) for item in p.lacks],
        "own": p.own_spare_mm,
        "made": [p.made.joints, p.made.weld_mm, FINDINGS.dump_python(p.made.cannot, mode="json")] if p.made else None,
    }


def _made(data: Sequence[Any] | None) -> Made | None:
    if not data:
        return None
    joints, weld_mm, *cannot = data
    return Made(int(joints), float(weld_mm), FINDINGS.validate_python(cannot[0]) if cannot else ())


def read_proposals(data: dict[str, Any], design: Design, run_id: str) -> Proposals:
    """Proposals of a run from their data, laid again. Raises EditError when the run cannot be laid."""
    run, laid = ready(design, run_id)
    kept = int(data["kept"])
    start = laid.pieces[kept - 1].outlet if kept else laid.start
    tube = last_tube(run, kept)

    def one(p: dict[str, Any]) -> Proposal:
        pieces = PIECES.validate_python(p["pieces"])
        answer = Answer(np.array(p["steps"], dtype=float).reshape(-1, 4), p["from_set"])
        sides = tuple(Side(*s) for s in p["sides"])
        lacks = tuple((str(name), float(mm)) for name, mm in p["lacks"])
        return Proposal(
            answer,
            pieces,
            lay_pieces(start, pieces, design, tube),
            p["margin"],
            p["thing"],
            p["state"],
            p["goes"],
            sides,
            p["buried"],
            p["price"],
            lacks,
            p.get("own", 0.0),
            _made(p.get("made")),
        )

    changes = tuple(
        Change(c["words"], BendOptions(tuple(c["clr"]), tuple(c["angles"]), c["free"], c["shortest"]), c["shift"])
        for c in data["changes"]
    )
    miss, drawn = (one(data[key]) if data[key] else None for key in ("miss", "drawn"))
    found = tuple(one(p) for p in data["found"])
    return Proposals(
        kept,
        found,
        data["why_not"],
        changes,
        data["until"],
        miss,
        tuple(data["opens"]),
        drawn,
        data.get("tries", 0),
        data.get("agreeing", 0),
    )
