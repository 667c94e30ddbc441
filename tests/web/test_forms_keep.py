"""What a form shows and posts back is what there was, to the last figure; what is changed changes nothing else."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.records import (
    AxleTravel,
    Box,
    Capsule,
    Cylinder,
    Extrusion,
    Group,
    GroupState,
    HalfSpace,
    MeshShape,
    Pivot,
    Rock,
    Sphere,
    Steer,
    Survey,
    Thing,
    Window,
)
from widebend.web.page.reader import Reader
from widebend.web.underbody.lists import BOOKS, before_of
from widebend.web.underbody.thing_form import read_thing, shown

mm = st.floats(-3000, 3000)
size = st.floats(1, 900)
point = st.tuples(mm, mm, mm)
deg = st.floats(-179, 179)
slanted = st.sampled_from([(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (0.6, 0.0, 0.8), (0.0, 0.28, -0.96)])
STAR = ((0.0, 100.3), (-60.12345, -80.0), (10.0, -20.0), (75.5, -90.25))
HOLE = ((-3.0, -3.0), (3.0, -3.0), (0.0, 4.0))


def _square(axis: tuple[float, float, float]) -> tuple[float, float, float]:
    return (0.0, 0.0, 1.0) if abs(axis[2]) < 0.9 else (-1.0, 0.0, 0.0)


boxes = st.builds(Box, center=point, size=st.tuples(size, size, size), rpy_deg=st.tuples(deg, deg, deg))
bars = st.builds(
    lambda kind, a, r: kind(a=a, b=(a[0] + 50.123, a[1], a[2] - 7.0), radius=r),
    st.sampled_from([Capsule, Cylinder]),
    point,
    size,
)
balls = st.builds(Sphere, center=point, radius=size)
halves = st.builds(HalfSpace, n=slanted, d=mm)
outlines = st.builds(
    lambda o, a, d: Extrusion(origin=o, axis=a, reference=_square(a), depth=d, outline=STAR, holes=(HOLE,)),
    point,
    slanted,
    size,
)
scans = st.builds(
    lambda s, r: MeshShape(
        sha256="a" * 64, shift=s, rpy_deg=(r, 0.0, 1.0), low=(0, 0, 0), high=(1, 1, 1), triangles=4, closed=True
    ),
    point,
    deg,
)
motions = st.one_of(
    st.builds(AxleTravel, droop_mm=st.floats(1, 120), bump_mm=st.floats(1, 120)),
    st.builds(
        lambda p, d: AxleTravel(
            droop_mm=d, bump_mm=20.0, pivot=Pivot(about=p, axis=(0.0, 0.6, 0.8), hub=(p[0] + 400.777, p[1] + 1.0, p[2]))
        ),
        point,
        st.floats(1, 90),
    ),
    st.builds(lambda p, d: Rock(about=p, axis=(0.9, 0.1, 0.0), deg=d), point, st.floats(0.5, 9)),
    st.builds(lambda p, d: Steer(about=p, axis=(0.0, 0.0, 1.0), turn_deg=d), point, st.floats(1, 40)),
    st.builds(Steer, side_mm=st.floats(1, 90)),
)
groups = st.one_of(
    st.builds(lambda m: Group(id="rear-axle", name="beam axle", motion=m), motions),
    st.builds(
        lambda z: Group(
            id="rear-axle",
            name="listed",
            states=(
                GroupState(name="low", shift=(0.123, 0, z)),
                GroupState(name="mid"),
                GroupState(name="top", shift=(0, 4.0, 9)),
            ),
        ),
        mm,
    ),
)
UNITS = st.sampled_from(["mm", "in"])


def _posted(fields: dict[str, str]) -> dict[str, str]:
    """As a browser sends it: line ends of its own, fields of other shapes not at all."""
    return {key: value.replace("\n", "\r\n") for key, value in fields.items() if value}


@settings(max_examples=250, deadline=None)
@given(st.one_of(boxes, bars, balls, halves, outlines, scans), groups, st.floats(0, 40), UNITS)
def test_a_thing_posted_back_as_shown_is_the_same(shape: Any, group: Group, doubt: float, unit: str) -> None:
    thing = Thing(id="t1", name="part", shape=shape, moves_with="rear-axle", plus_minus_mm=doubt, needed_gap_mm=17.123)
    survey = Survey(things=(thing,), groups=(group,))
    form = _posted(shown(thing, survey, unit))
    again, travel = read_thing(form, unit, survey)
    assert again == thing
    assert travel == group
    # another name changes the name alone
    renamed, travel = read_thing(form | {"name": "other"}, unit, survey)
    assert renamed == thing.replace(name="other")
    assert travel == group


@settings(max_examples=200, deadline=None)
@given(groups, point, slanted, st.sampled_from([STAR, HOLE]), UNITS)
def test_an_item_posted_back_as_shown_is_the_same(
    group: Group, at: tuple[float, float, float], axis: tuple[float, float, float], outline: Any, unit: str
) -> None:
    wall = Thing(id="w", name="wall", shape=Sphere(center=(0, 0, 0), radius=5))
    window = Window(
        id="x",
        name="hole",
        center=at,
        axis=axis,
        reference=_square(axis),
        outline=outline,
        through="w",
        thickness_mm=3.3333,
        needed_gap_mm=None,
        plus_minus_mm=1.2345,
    )
    survey = Survey(things=(wall,), groups=(group,), windows=(window,))
    for key, item in (("travel", group), ("windows", window)):
        book = BOOKS[key]
        before = before_of(book, item, unit)
        form = _posted(dict(before.shown))
        assert Reader(form, unit, before).unchanged
        changed = form | {"name": "other", "plus_minus_mm": "7"}
        read = book.read(Reader(changed, unit, before), survey, item.id)
        expected = (
            {} if key == "travel" else {"name": "other", "plus_minus_mm": pytest.approx(7 if unit == "mm" else 177.8)}
        )
        for name, value in item:
            assert getattr(read, name) == expected.get(name, value), name
