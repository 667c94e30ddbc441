"""Everything that is wrong with a design, or worth saying, worst first: pure functions from records to findings.

Glossary: a *finding* is a fault or a word with its code, place and figures; a *gap* is what stands between the
system and a thing, *needed* what should; *worst* is over every position of pipe and things; a *section* is what
comes out in one between joints that come apart.
"""

from .chances import GapChance, gap_chances
from .design_review import CLOSES_DEG, CLOSES_MM, Review, closes, gap_finding, review
from .emissions import fate_of
from .findings import Finding
from .gaps import (
    Around,
    bare,
    both,
    distances,
    nearest_margins,
    packed,
    point_gaps,
    tube_gaps,
    worst_margin,
    worst_margins,
)
from .hung_gaps import hung_findings, rod_faults, with_free_rods, with_its_rods
from .making import list_findings
from .metals import Meeting, Side, meetings
from .nearest import NOT_WORTH_SAYING_MM, Worst, against, against_each, worst_over
from .own_gaps import pipe_of, segments_apart, solid_of
from .placement import BURIED_SIDES, seats, shut_sides, which_sides
from .rear_view import CLOCKS, TipSeen, sizes, tips_seen
from .section import Section, bodies_of, off_the_table, sections

__all__ = [
    "BURIED_SIDES",
    "CLOCKS",
    "CLOSES_DEG",
    "CLOSES_MM",
    "NOT_WORTH_SAYING_MM",
    "Around",
    "Finding",
    "GapChance",
    "Meeting",
    "Review",
    "Section",
    "Side",
    "TipSeen",
    "Worst",
    "against",
    "against_each",
    "bare",
    "bodies_of",
    "both",
    "closes",
    "distances",
    "fate_of",
    "gap_chances",
    "gap_finding",
    "hung_findings",
    "list_findings",
    "meetings",
    "nearest_margins",
    "off_the_table",
    "packed",
    "pipe_of",
    "point_gaps",
    "review",
    "rod_faults",
    "seats",
    "sections",
    "segments_apart",
    "shut_sides",
    "sizes",
    "solid_of",
    "tips_seen",
    "tube_gaps",
    "which_sides",
    "with_free_rods",
    "with_its_rods",
    "worst_margin",
    "worst_margins",
    "worst_over",
]
