"""Whatever is typed for a part's measures gives a part or words: never a fault, never an endless loop."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.errors import InputError
from widebend.core.hardware import SHELF, item_of

ODD = [0.0, -1.0, 1e-9, 0.5, 1.0, 89.0, 90.0, 180.0, 3000.0, 1e6, 1e300, math.nan, math.inf]


@pytest.mark.parametrize("key", SHELF)
@settings(max_examples=60, deadline=None)
@given(data=st.data())
def test_a_part_or_words(key: str, data: st.DataObject) -> None:
    kind = SHELF[key]
    values = {m.key: m.usual for m in kind.measures}
    for measure in data.draw(st.lists(st.sampled_from(kind.measures), min_size=1, max_size=3)):
        values[measure.key] = data.draw(st.sampled_from(ODD) | st.floats(-100.0, 3200.0))
    try:
        item = item_of(key, "x", values)
    except InputError as exc:
        assert str(exc)
    else:
        assert all(math.isfinite(float(c)) for port in item.ports for c in (*port.point, *port.axis))


def test_mufflers_with_two_inlets_and_across() -> None:
    def made(key: str, **values: float) -> dict[str, tuple[float, ...]]:
        usual = {m.key: m.usual for m in SHELF[key].measures}
        item = item_of(key, "can", usual | values)
        return {port.id: (*map(float, port.point), *port.axis) for port in item.ports}

    twin = made("muffler", twin=120.0, dual=100.0)
    assert {name: at[1] for name, at in twin.items()} == {
        "in-left": -60.0,
        "in-right": 60.0,
        "out-left": -50.0,
        "out-right": 50.0,
    }
    across = made("muffler-across", wide=600.0, spigot=40.0)
    assert across["in"][3] == -1.0
    assert across["out-left"][1] == -340.0
    assert across["out-right"][1] == 340.0
    assert across["out-left"][4] == pytest.approx(-1.0)
    with pytest.raises(InputError, match="two inlets need"):
        made("muffler", twin=10.0)
