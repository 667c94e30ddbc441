"""Checks before a vehicle goes, in the order they are made; what a job does not have is not asked."""

from __future__ import annotations

from collections.abc import Iterator

from ...facts import JOINTS, PART_KINDS
from ..records import Design

# key, words, and what the design must have for it to be asked: common practice, no source
CHECKS: tuple[tuple[str, str, str], ...] = (
    ("tight", "tightened from the front back, weight on its hangers", ""),
    ("cold leaks", "no leak cold: outlet held shut, every joint listened to", ""),
    ("hot leaks", "run hot, no leak, no smoke from paint or sealant left", ""),
    ("hot tight", "tightened again hot, where it has joints that come apart", "joints"),
    ("gaps", "clear at full droop, at bump and at full lock, hot", ""),
    ("rubbers", "every rubber plumb and carrying, none near hot pipe", "hangers"),
    ("sensors", "sensors in, plugged and clear of hot metal; no fault stored", "sensors"),
    ("cat", "emissions parts all in place as they were", "emissions"),
    ("brakes", "brake and fuel lines where they were, nothing leaks, steering free; what was moved is put back", ""),
    ("flex", "flex straight, not pulled, free to move", "flex"),
    ("road", "driven: no rattle, no drone, no smell inside", ""),
)


def checks_for(design: Design) -> Iterator[tuple[str, str]]:
    """The checks of one job: key and words."""
    kinds = {part.item.kind for part in design.parts}
    has = {
        "": True,
        "joints": any(JOINTS[j.kind].comes_apart for run in design.runs for j in run.joints),
        "hangers": bool(design.hangers),
        "flex": "flex" in kinds,
        "emissions": any(PART_KINDS[kind].is_emissions_part for kind in kinds),
        "sensors": bool(design.attachments),
    }
    yield from ((key, words) for key, words, needs in CHECKS if has[needs])
