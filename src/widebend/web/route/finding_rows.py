"""Findings as the Route step lists them."""

from __future__ import annotations

from typing import Any

from flask import g, request, url_for

from ...core.records import Design
from ...core.review import Finding, Review
from ...core.units import format_length
from ...core.wording import say


def finding_rows(found: Review, design: Design) -> list[dict[str, Any]]:
    """Findings in words, worst first, each with the address that shows it."""
    rows = []
    for index, finding in enumerate(found.findings):
        margin = finding.margin_mm
        rows.append(
            {
                "index": index,
                "text": say(finding, design, g.unit),
                "finding": finding,
                "figure": format_length(margin, g.unit) if margin is not None else "",
                "css": "touches" if finding.spoils else "tight" if finding.rank[0] <= 3 else "note",
                "show": _where_seen(finding, index, design),
            }
        )
    return rows


def _where_seen(finding: Finding, index: int, design: Design) -> str:
    """The address that shows a finding at its place, in its run; empty where it has none."""
    if not finding.at:
        return ""
    run = design.run(finding.run)
    piece = run.pieces[finding.piece].id if run and finding.piece is not None else request.values.get("piece")
    seen: dict[str, Any] = {
        "sight": f"at:{finding.at[0]:.1f}",
        "cursor": finding.at[0],
        "moved": "cursor",
        "finding": index,
    }
    shown: dict[str, Any] = {
        "run": run.id if run else request.values.get("run"),
        "then": request.values.get("then"),
        "piece": piece,
    }
    return url_for("route.show", job_id=(request.view_args or {})["job_id"], tab=g.tab, **shown, **seen)
