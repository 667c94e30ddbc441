"""Where no way goes: the wish that stands in the way, a mark out of reach, and that what travels is not moved."""

import pytest

from widebend.core.errors import EditError
from widebend.core.records import Box, Design, Group, GroupState, MarkPoint, Rules, Survey, Thing
from widebend.core.routing import Wish, parts_of, seek
from widebend.core.routing.no_way import what_opens
from widebend.core.routing.question import asked_of
from widebend.core.routing.searching import goes
from widebend.core.units import Length
from widebend.demo.examples import first_job

QUIET = Rules(hanger_swing_mm=Length(0), hot_rise_k=0.0)


def _box(key: str, x: float, z: float, high: float, moves: str = "body") -> Thing:
    """Right across the way from the start to the muffler, higher than anything goes."""
    return Thing(
        id=key,
        name=key,
        moves_with=moves,
        shape=Box(center=(Length(x), Length(160), Length(z)), size=(Length(60), Length(4000), Length(high))),
    )


def _design(*things: Thing, marks: tuple[MarkPoint, ...] = (), groups: tuple[Group, ...] = ()) -> Design:
    base = first_job()
    survey = Survey(things=things, marks=marks, groups=groups)
    settings = base.settings.replace(rules=QUIET)
    return base.replace(survey=survey, settings=settings)


def _mark(key: str, x: float, z: float) -> MarkPoint:
    return MarkPoint(id=key, name=key, point=(Length(x), Length(100), Length(z)))


def _tried(design: Design, wish: Wish) -> dict[str, bool]:
    miss = seek(design, "r1", wish).miss
    assert miss is not None
    return {trial.tried: trial.opens() for _, trial in what_opens(asked_of(design, "r1", wish), miss)}


def test_the_wish_that_shuts_the_way_is_named_and_solved() -> None:
    """A low beam right across: the one way is over it; with that shut, it is the wish that stands in the way."""
    beam = _box("beam", 2000.0, 150.0, 260.0)
    design = _design(beam)
    assert goes(asked_of(design, "r1", Wish(0)))
    tried = _tried(design, Wish(0, avoid=("over:beam", "under:beam")))
    assert tried["without “not over the beam”"]
    assert tried["the beam off"]  # what is off has no sides that could be shut


def test_what_travels_is_not_moved_out_of_the_way() -> None:
    still = GroupState(name="ride")
    axle = Group(id="axle", name="axle", states=(still,))
    tried = _tried(_design(_box("beam", 2000.0, 300.0, 2000.0, "axle"), groups=(axle,)), Wish(0))
    assert not [words for words in tried if "beam" in words]


def test_a_mark_that_pipe_cannot_come_to_is_said_with_what_it_needs() -> None:
    design = _design(_box("beam", 2000.0, 150.0, 200.0), marks=(_mark("tab", 2000.0, 255.0),))
    with pytest.raises(EditError, match=r"the tab is 5 mm from the beam: .* needs 4\d mm there"):
        seek(design, "r1", Wish(0, through=("tab",)))


def test_parts_of_a_wish_in_words_each_with_the_rest() -> None:
    survey = _design(_box("beam", 2000.0, 150.0, 200.0), marks=(_mark("tab", 2000.0, 400.0),)).survey
    wish = Wish(0, through=("tab", "gone"), avoid=("over:beam",))
    assert [words for words, _ in parts_of(wish, survey)] == ["through tab", "then through gone", "not over the beam"]
    assert [(w.through, w.avoid) for _, w in parts_of(wish, survey)] == [
        (("gone",), ("over:beam",)),
        (("tab",), ("over:beam",)),
        (("tab", "gone"), ()),
    ]


def _slot(wide: float, rocks: float, doubt: float = 0.0) -> Design:
    """A slot across the way, `wide` [mm] and no wider at any height; the engine takes the pipe to either side."""
    halves = (
        Thing(
            id=side,
            name=side,
            needed_gap_mm=Length(5),
            plus_minus_mm=Length(doubt),
            shape=Box(
                center=(Length(2000), Length(160 + sign * (2000 + wide) / 2), Length(300)),
                size=(Length(60), Length(2000), Length(4000)),
            ),
        )
        for side, sign in (("left", -1), ("right", 1))
    )
    sides = [
        GroupState(name=name, shift=(Length(0), Length(by), Length(0)))
        for name, by in (("at rest", 0.0), ("one way", rocks), ("the other way", -rocks))
    ]
    return _design(*halves, groups=(Group(id="engine", name="engine", states=tuple(sides)),))


def test_what_goes_only_while_nothing_moves_is_no_way() -> None:
    """63.5 mm of tube and 5 mm at each side go through 80 mm, and no longer where it goes 10 mm each way."""
    assert goes(asked_of(_slot(80.0, 0.0), "r1", Wish(0)))
    assert not goes(asked_of(_slot(80.0, 10.0), "r1", Wish(0)))
    assert goes(asked_of(_slot(120.0, 10.0), "r1", Wish(0)))
    assert _tried(_slot(80.0, 10.0), Wish(0))["behind a flex"]  # the one thing that opens it


def test_a_guess_in_the_way_is_said_to_want_measuring() -> None:
    """A slot of 100 mm that is a guess of 40 mm leaves no room for 63.5 mm of tube; taped to 3 mm it does."""
    found = seek(_slot(100.0, 0.0, 40.0), "r1", Wish(0))
    assert not found.found
    assert any("Measured to ± 3 mm, what is now known only to ± 40 mm" in words for words in found.opens)
    assert not seek(_slot(60.0, 0.0, 40.0), "r1", Wish(0)).opens  # too narrow however well it is known
