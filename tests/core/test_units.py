"""What a person types. Expected values are exact arithmetic: 1 in = 25.4 mm."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from widebend.core.errors import InputError
from widebend.core.units import (
    Length,
    as_typed,
    format_clock,
    format_length,
    parse_angle,
    parse_clock,
    parse_length,
)

READ = [
    ("63.5", 63.5),
    ("2.5in", 63.5),
    ('2 1/2"', 63.5),
    ("1' 4 3/8\"", 415.925),
    ("10 mm", 10.0),
    ("1 cm", 10.0),
    ("2-1/2", 63.5),
    ("3/8", 9.525),
    ("-3/8 in", -9.525),
    (".5", 0.5),
    ("5'", 1524.0),
    ("1.2 m", 1200.0),
    ("2 1/2 in", 63.5),
    ('13 1/4"', 336.55),
]
REFUSED = [
    ("", "nothing was entered"),
    ("abc", "is not a length"),
    ("1/0", "divides by zero"),
    ("nan", "is not a length"),
    ("inf", "is not a length"),
    ("1,500", "without the comma"),
    ("99999999", "more than 50 m"),
    ("1e9", "is not a length"),
    ("9" * 400, "too long"),
    ("--5", "is not a length"),
    ("5 km", "is not a length"),
]


@pytest.mark.parametrize(("text", "mm"), READ)
def test_reads(text: str, mm: float) -> None:
    read = parse_length(text)
    assert read == pytest.approx(mm, abs=1e-9)
    assert read.typed == text.strip()


@pytest.mark.parametrize(("text", "words"), REFUSED)
def test_refuses_with_words(text: str, words: str) -> None:
    with pytest.raises(InputError, match=words):
        parse_length(text)


def test_bare_number_is_in_the_persons_unit() -> None:
    assert parse_length("2.5", "in") == pytest.approx(63.5)


def test_bounds_say_what_would_be_possible() -> None:
    with pytest.raises(InputError, match="10 mm or more"):
        parse_length("5", least=10)


@given(st.integers(0, 4000))
def test_sixteenths_come_back(sixteenths: int) -> None:
    mm = sixteenths * 25.4 / 16
    assert parse_length(format_length(mm, "in16")) == pytest.approx(mm, abs=1e-9)


@given(st.text(max_size=60))
def test_any_text_is_a_length_or_a_plain_refusal(text: str) -> None:
    try:
        assert math.isfinite(parse_length(text))
    except InputError as exc:
        assert str(exc)


def test_halves_round_away_from_zero() -> None:
    assert format_length(95.25) == "95.3 mm"
    assert format_length(-95.25) == "-95.3 mm"


@pytest.mark.parametrize(("text", "deg"), [("3", 90), ("12", 0), ("1:15", 37.5), ("6 o'clock", 180), ("12:30", 15)])
def test_clock(text: str, deg: float) -> None:
    assert parse_clock(text) == deg


@pytest.mark.parametrize("text", ["13", "3:75", "", "noon", "-1"])
def test_clock_refuses(text: str) -> None:
    with pytest.raises(InputError):
        parse_clock(text)


@given(st.integers(0, 143))
def test_clock_comes_back_to_five_minutes(step: int) -> None:
    assert parse_clock(format_clock(step * 2.5)) == pytest.approx(step * 2.5 % 360)


def test_angle_bounds() -> None:
    assert parse_angle("32.5°") == 32.5
    with pytest.raises(InputError, match=r"outside 0\.1 to 180"):
        parse_angle("200", "turn", 0.1, 180)


def test_typed_text_survives_a_record() -> None:
    from widebend.core.records import Straight

    leg = Straight(id="p1", length_mm=Length(63.5, '2 1/2"'))
    again = Straight.model_validate_json(leg.model_dump_json())
    assert again == leg
    assert again.length_mm.typed == '2 1/2"'


def test_what_was_typed_in_another_unit_is_not_shown_as_this_one_s() -> None:
    """63.5 typed in mm is no 63.5 in; what names its own unit means the same to everybody."""
    assert as_typed(parse_length("63.5", "mm"), "in") is None
    assert as_typed(parse_length("2.5", "in"), "mm") is None
    assert as_typed(parse_length("2 1/2in", "mm"), "in") == "2 1/2in"
    assert as_typed(63.5, "mm") is None
