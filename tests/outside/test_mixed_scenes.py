"""Gaps of whole scenes against a sampled oracle: every kind of piece, shape, window, scan and movement together.
`./widebend bench mixed` does 2,000 of them.
"""

import numpy as np
from bench.mixed_scenes import compared


def test_no_gap_is_too_large_and_none_too_small() -> None:
    """40 scenes: where a thing stands clear, within 0.5 mm too large and 0.1 too small (the samples are 1.2 mm apart);
    where it clashes, it is said, never less deep than the deepest sample. What travels is looked for all the way.
    """
    rng, clear, clashing = np.random.default_rng(2), 0, 0
    for _ in range(40):
        for kinds, got, want in compared(rng):
            clear += want > 0
            clashing += want < 0
            if want > 0:
                assert want - 0.1 <= got <= want + 0.5, (kinds, got, want)
            else:
                assert got <= max(want, -1e-3) + 0.5, (kinds, got, want)
    assert clear > 40
    assert clashing > 15
