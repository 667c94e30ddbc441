"""Triangle meshes as they are held: triangles in the order of a tree of boxes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class TriangleMesh:
    """An indexed mesh in its own frame [mm].

    `rows` (n, 10) are TRIANGLE solids in the tree's order; `low` and `high` (2 leaves - 1, 3) the tree's boxes, the
    children of i being 2i + 1 and 2i + 2. `closed` means that the triangles bound an inside.
    """

    sha256: str
    rows: Array
    low: Array
    high: Array
    closed: bool

    @property
    def leaves(self) -> int:
        return (len(self.low) + 1) // 2
