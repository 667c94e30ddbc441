"""A run laid again at once where what it was laid for has moved: less than a search, and enough where little moved."""

from __future__ import annotations

from ..errors import WideBendError
from ..records import Design
from ..review import review
from .proposals import propose, taken

BAD = ("touches", "inside", "misses")


def laid_again(design: Design, run_id: str) -> Design:
    """The design with a run that misses or touches closed again, from its end or all of it, as leaves least wrong;
    as it was where nothing is, or nothing helps: `mend` and `seek` then look for longer.
    """

    def bad(one: Design) -> int:
        return sum(f.run == run_id and f.code in BAD for f in review(one).findings)

    if not bad(design):
        return design
    tried = [design]
    for keep in (None, 0):
        try:
            tried.append(taken(design, run_id, propose(design, run_id, keep), 0))
        except WideBendError:
            continue
    return min(tried, key=bad)
