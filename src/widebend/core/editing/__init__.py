"""Every change of a design: a design and what is wanted in, a valid design or an EditError out.

Glossary: *placing* puts hardware where pipe meets it, *mirroring* makes the other side, a *twin* is made again when
its other side changes, *holding the finish* lets the pieces near a change take it up so that the end stays, a
*fixing* is a hanger or an anchor, a *configuration* is the system with some parts left out.
"""

from .as_it_came import leave_as_it_came
from .bends import in_one, mitred, otherwise, sliced, with_radius
from .configurations import configured
from .corner import Corner, corners, drag_corner
from .covering import add_cover, without_cover
from .describing import described_part
from .edits import (
    CARRY,
    HOLD,
    carry,
    changed_pieces,
    describe_change,
    insert,
    kept_pieces,
    last_tube,
    set_locked,
    set_piece,
    set_tube,
    take_answer,
    take_out,
    with_pieces,
)
from .fixings import WATCHES, add_boss, add_branch, set_joint, without_fixing
from .hangers import as_we_hang, changed_hanger, hang_on_part, hang_on_pipe, slid_hanger, without_hanger
from .mirroring import differences, mirror_part, mirror_run, mirrored_item, mixed_up
from .other_item import with_other_item
from .placing import (
    add_part,
    as_high_as,
    joined,
    levelled,
    locked_part,
    made_of,
    moved_part,
    moved_with,
    on_port,
    put_at,
    snapped_part,
    squared,
    turned_part,
    without_part,
    without_run,
)
from .standing import placed_at

__all__ = [
    "CARRY",
    "HOLD",
    "WATCHES",
    "Corner",
    "add_boss",
    "add_branch",
    "add_cover",
    "add_part",
    "as_high_as",
    "as_we_hang",
    "carry",
    "changed_hanger",
    "changed_pieces",
    "configured",
    "corners",
    "describe_change",
    "described_part",
    "differences",
    "drag_corner",
    "hang_on_part",
    "hang_on_pipe",
    "in_one",
    "insert",
    "joined",
    "kept_pieces",
    "last_tube",
    "leave_as_it_came",
    "levelled",
    "locked_part",
    "made_of",
    "mirror_part",
    "mirror_run",
    "mirrored_item",
    "mitred",
    "mixed_up",
    "moved_part",
    "moved_with",
    "on_port",
    "otherwise",
    "placed_at",
    "put_at",
    "set_joint",
    "set_locked",
    "set_piece",
    "set_tube",
    "sliced",
    "slid_hanger",
    "snapped_part",
    "squared",
    "take_answer",
    "take_out",
    "turned_part",
    "with_other_item",
    "with_pieces",
    "with_radius",
    "without_cover",
    "without_fixing",
    "without_hanger",
    "without_part",
    "without_run",
]
