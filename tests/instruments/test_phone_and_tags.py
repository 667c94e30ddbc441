"""The simulated phone's photos, and what is found in them: against the scene they were taken of."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tests.photo_scenes import RADIUS_MM, Tags, facing, pictures, underside
from widebend.core.errors import InputError
from widebend.core.photos import flat_corners, seen_at
from widebend.formats.tag_photos import read_tag_photo
from widebend.instruments.simulated_phone import Phone, Stuck, shoot
from widebend.instruments.tag_finder import look

EYE = np.array([200.0, 0.0, -500.0])


def _upward() -> np.ndarray:
    """A lens that looks straight up, its top toward the front."""
    z, across = np.array([0.0, 0, 1]), np.array([0.0, -1, 0])
    return np.array([across, np.cross(z, across), z])


def test_corners_are_found_to_a_part_of_a_pixel_where_the_lens_puts_them() -> None:
    tags: Tags = {
        k: (facing((0.1 * k - 0.2, 0.1, -1)), np.array([120.0 * k, 90.0 * (-1) ** k, 350.0])) for k in range(4)
    }
    phone, turn = Phone.of(28, 2000, 1500), _upward()
    stuck = [Stuck(number, *at) for number, at in tags.items()]
    photo = read_tag_photo(shoot(phone, turn, EYE, stuck, (), np.random.default_rng(1)))
    assert photo.focal_px == pytest.approx(28 / 36 * 2000)
    found = look(photo.jpeg)
    assert not found.trouble
    assert {one.number for one in found.seen} == set(tags)
    for one in found.seen:
        own, middle = tags[one.number]
        corners = np.column_stack([flat_corners(one.number), np.zeros(4)]) @ own.T + middle
        assert one.corners == pytest.approx(seen_at((corners - EYE) @ turn.T, phone.lens), abs=0.5)


def test_a_cuff_is_read_round_its_pipe() -> None:
    turn = np.column_stack([(0, 0, -1.0), (0, -1.0, 0), (-1.0, 0, 0)])
    stuck = [Stuck(340 + k, turn, np.array([200.0, 0, 200.0]), 1.0, RADIUS_MM, k * 30 / RADIUS_MM) for k in range(2)]
    photo = shoot(Phone.of(28, 3000, 2250), _upward(), EYE, stuck, (), np.random.default_rng(2))
    assert 340 in {one.number for one in look(photo).seen}


def test_a_dark_a_blurred_and_an_empty_photo_are_named() -> None:
    tags = underside(np.random.default_rng(3), 30)
    plain = pictures(np.random.default_rng(3), tags, 1, Phone.of(26, 2000, 1500), 3600.0)[0]
    assert look(plain).trouble == ""
    soft = pictures(np.random.default_rng(3), tags, 1, Phone.of(26, 2000, 1500, blur_px=3.5), 3600.0)[0]
    assert "blurred" in look(soft).trouble or "no tag" in look(soft).trouble
    dark = io.BytesIO()
    with Image.open(io.BytesIO(plain)) as opened:
        opened.point(lambda v: v // 5).save(dark, "JPEG")
    assert "too dark" in look(dark.getvalue()).trouble
    assert "no tag" in look(shoot(Phone.of(26, 1200, 900), _upward(), EYE, (), (), np.random.default_rng(4))).trouble


def test_what_is_kept_of_a_photo_is_its_pixels_and_nothing_else() -> None:
    made, out = Image.effect_noise((1200, 900), 60.0).convert("RGB"), io.BytesIO()
    notes = made.getexif()
    notes[0x010F], notes[0x0132] = "a maker", "2026:11:27 10:00:00"
    notes.get_ifd(0x8825)[1] = "N"
    notes.get_ifd(0x8769)[0xA405] = 26
    made.save(out, "JPEG", quality=90, exif=notes, comment=b"at home")
    photo = read_tag_photo(out.getvalue())
    for word in (b"a maker", b"2026:11:27", b"at home", b"Exif"):
        assert word not in photo.jpeg
    assert photo.focal_px == pytest.approx(26 / 36 * 1200)
    assert "maker" not in photo.lens
    kept, sent = (np.asarray(Image.open(io.BytesIO(data))) for data in (photo.jpeg, out.getvalue()))
    assert np.array_equal(kept, sent)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"\x00\x00\x00\x18ftypheic\x00\x00\x00\x00mif1heic", "HEIC"),
        (b"\x00\x00\x00\x18ftypmp42abcd", "a video"),
        (b"\x1aE\xdf\xa3abcdefgh", "a video"),
        (b"plain words", "no photo"),
        (b"", "empty"),
        (b"\xff\xd8\xff\xe0", "photo"),
    ],
)
def test_what_is_no_photo_is_named(data: bytes, words: str) -> None:
    with pytest.raises(InputError, match=words):
        read_tag_photo(data)


def test_too_many_and_too_few_pixels_are_refused() -> None:
    large, small = io.BytesIO(), io.BytesIO()
    Image.new("L", (10_000, 7000)).save(large, "PNG")
    Image.new("L", (400, 300)).save(small, "JPEG")
    with pytest.raises(InputError, match="million pixels"):
        read_tag_photo(large.getvalue())
    with pytest.raises(InputError, match="too small"):
        read_tag_photo(small.getvalue())
