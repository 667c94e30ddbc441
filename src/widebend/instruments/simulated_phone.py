"""A simulated phone: photographs printed tags and plain surfaces with a lens, light, blur and noise of its own.

It knows nothing of what the photos are for. Every pixel of a tag is looked up along its own ray, nine to a pixel, so
that edges fall where a real lens would put them.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from PIL import Image

from ..core.photos import cells_of, is_cuff, lens_of, seen_at, size_mm, undistorted
from ..core.space import Vector
from ..core.tagged import Stuck, Surface

FINE = 3  # rays across a pixel
CELL_PX = 16  # of the tag's own picture: ten cells with its white border's share
PAPER = 1.34  # the white round a tag, of its side
WHITE, BLACK = 225.0, 28.0
NEAREST_MM = 50.0
ON_IT_MM = 3.0  # a tag this near to a surface is stuck on it
ASIDE = np.array([(0, 0, 1), (1, 0, 1.2), (-1, 0, 1.2), (0, 1, 1.2), (0, -1, 1.2)])


@dataclass(frozen=True)
class Phone:
    """A phone: its picture's size [pixels], lens (8,), 35 mm equivalent as it is written, blur, noise, JPEG quality."""

    width: int
    height: int
    lens: Vector
    equivalent_mm: float
    blur_px: float = 0.6
    noise: float = 2.0
    quality: int = 92

    @classmethod
    def of(cls, equivalent_mm: float, width: int = 4000, height: int = 3000, bent: float = -0.04, **how: Any) -> Phone:
        """A phone of so much 35 mm equivalent; what it writes is rounded, its lens bends a little."""
        lens = lens_of(equivalent_mm / 36.0 * width * 1.01, width / 2 + 11.0, height / 2 - 7.0, bent, 0.01)
        return cls(width, height, lens, round(equivalent_mm), **how)


def shoot(
    phone: Phone,
    turn: Vector,
    eye: Vector,
    stuck: Sequence[Stuck],
    surfaces: Sequence[Surface],
    rng: np.random.Generator,
) -> bytes:
    """A JPEG of what is there, seen from `eye` (3,) with the vehicle's axes turned to the lens's by `turn` (3, 3)."""
    import cv2

    picture = np.full((phone.height, phone.width), 70.0, dtype=np.float32)
    for surface in sorted(surfaces, key=lambda one: -_farthest(one, turn, eye)):
        _fill(picture, phone, turn, eye, surface)
    for tag in sorted(stuck, key=lambda one: -float(((one.middle - eye) @ turn.T)[2])):
        half = size_mm(tag.number) * tag.scale / 2
        corners = _on_tag(tag, np.array([(-half, half), (half, half), (half, -half), (-half, -half)]))
        if not any(_hides(surface.corners, eye, corners) for surface in surfaces):
            _stick(picture, phone, turn, eye, tag)
    across = np.linspace(0.75, 1.1, phone.width, dtype=np.float32)
    picture *= across[None, :]
    blurred: Any = cv2.GaussianBlur(picture, (0, 0), phone.blur_px) if phone.blur_px > 0 else picture
    blurred += rng.normal(0.0, phone.noise, picture.shape).astype(np.float32)
    return _jpeg(blurred, phone)


def _farthest(surface: Surface, turn: Vector, eye: Vector) -> float:
    return float(((surface.corners - eye) @ turn.T)[:, 2].max())


def _hides(surface: Vector, eye: Vector, points: Vector) -> bool:
    """Whether a convex surface stands before one of some points (n, 3)."""
    normal = np.cross(surface[1] - surface[0], surface[2] - surface[0])
    normal = normal / np.linalg.norm(normal)
    toward = (points - eye) @ normal
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (surface[0] - eye) @ normal / toward
    ahead = (share > 0) & ((1.0 - share) * np.abs(toward) > ON_IT_MM)
    if not ahead.any():
        return False
    met = eye + share[ahead, None] * (points[ahead] - eye)
    sides = np.cross(np.roll(surface, -1, axis=0) - surface, met[:, None] - surface) @ normal
    return bool(((sides > 0).all(axis=1) | (sides < 0).all(axis=1)).any())


def _fill(picture: Any, phone: Phone, turn: Vector, eye: Vector, surface: Surface) -> None:
    import cv2

    before = _in_view((surface.corners - eye) @ turn.T)
    if len(before) < 3:
        return
    pixels = seen_at(before, phone.lens)
    cv2.fillConvexPoly(picture, np.round(pixels).astype(np.int32), float(surface.shade))


def _in_view(corners: Vector) -> Vector:
    """Return the part of a convex outline that lies before the lens and not so far aside that its figures mean nothing
    (n, 3).
    """
    for plane in ASIDE:
        side = corners @ plane - NEAREST_MM * plane[2]
        kept = []
        for k in range(len(corners)):
            a, b = side[k - 1], side[k]
            if (a < 0) != (b < 0):
                kept.append(corners[k - 1] + (corners[k] - corners[k - 1]) * (a / (a - b)))
            if b >= 0:
                kept.append(corners[k])
        corners = np.array(kept).reshape(-1, 3)
    return corners


@cache
def _paper(number: int) -> Any:
    """A tag's picture with white round it."""
    tag = np.kron(np.where(cells_of(number), BLACK, WHITE), np.ones((CELL_PX, CELL_PX))).astype(np.float32)
    edge = round(len(tag) * (PAPER - 1) / 2)
    return np.pad(tag, edge, constant_values=WHITE)


def _stick(picture: Any, phone: Phone, turn: Vector, eye: Vector, tag: Stuck) -> None:
    """Look every fine pixel round the tag up on its paper."""
    import cv2

    half = size_mm(tag.number) * tag.scale * PAPER / 2
    outline = _on_tag(
        tag, np.array([(-half, half), (half, half), (half, -half), (-half, -half), (0, half), (0, -half)])
    )
    before = (outline - eye) @ turn.T
    out = _out(tag)
    if (before[:, 2] < 100.0).any() or float((outline.mean(axis=0) - eye) @ out) > 0:
        return
    pixels = seen_at(before, phone.lens)
    low = np.floor(pixels.min(axis=0)).astype(int) - 2
    low = np.maximum(low, 0)
    high = np.minimum(np.ceil(pixels.max(axis=0)).astype(int) + 3, (phone.width, phone.height))
    if (high - low < 4).any():
        return
    steps = (np.arange(FINE) + 0.5) / FINE - 0.5
    u = (np.arange(low[0], high[0])[:, None] + steps).ravel()
    v = (np.arange(low[1], high[1])[:, None] + steps).ravel()
    rays = undistorted(np.stack(np.meshgrid(u, v), axis=-1), phone.lens)
    ways = np.concatenate([rays, np.ones((*rays.shape[:-1], 1))], axis=-1) @ turn
    right, up, there = _met(tag, eye, ways)
    paper = _paper(tag.number)
    own = len(cells_of(tag.number)) * CELL_PX / (size_mm(tag.number) * tag.scale)
    middle = (len(paper) - 1) / 2
    x, y = (middle + right * own).astype(np.float32), (middle - up * own).astype(np.float32)
    values = cv2.remap(paper, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    inside = (there & (np.abs(right) <= half) & (np.abs(up) <= half)).astype(np.float32)
    size = (int(high[0] - low[0]), int(high[1] - low[1]))
    share, sum_ = (cv2.resize(one, size, interpolation=cv2.INTER_AREA) for one in (inside, inside * values))
    part = picture[low[1] : high[1], low[0] : high[0]]
    part[:] = part * (1.0 - share) + sum_


def _out(tag: Stuck) -> Vector:
    """The way a tag faces in the vehicle's frame."""
    own = np.array([np.cos(tag.angle), np.sin(tag.angle), 0.0]) if is_cuff(tag.number) else np.array([0.0, 0.0, 1.0])
    return np.asarray(tag.turn @ own)


def _on_tag(tag: Stuck, paper: Vector) -> Vector:
    """Places on a tag's paper (n, 2) in the vehicle's frame (n, 3)."""
    if not is_cuff(tag.number):
        return np.asarray(np.column_stack([paper, np.zeros(len(paper))]) @ tag.turn.T + tag.middle)
    angle = tag.angle + paper[:, 0] / tag.radius_mm
    own = np.column_stack([tag.radius_mm * np.cos(angle), tag.radius_mm * np.sin(angle), paper[:, 1]])
    return np.asarray(own @ tag.turn.T + tag.middle)


def _met(tag: Stuck, eye: Vector, ways: Vector) -> tuple[Vector, Vector, Any]:
    """Where rays (..., 3) from the eye meet a tag's paper: right and up on it (...) [mm], and whether they do."""
    own, start = ways @ tag.turn, (eye - tag.middle) @ tag.turn
    if not is_cuff(tag.number):
        along = -start[2] / own[..., 2]
        return start[0] + along * own[..., 0], start[1] + along * own[..., 1], along > 0
    a = own[..., 0] ** 2 + own[..., 1] ** 2
    b = start[0] * own[..., 0] + start[1] * own[..., 1]
    c = start[0] ** 2 + start[1] ** 2 - tag.radius_mm**2
    under = b * b - a * c
    along = (-b - np.sqrt(np.maximum(under, 0.0))) / a
    x, y = start[0] + along * own[..., 0], start[1] + along * own[..., 1]
    off = (np.arctan2(y, x) - tag.angle + np.pi) % (2 * np.pi) - np.pi
    return off * tag.radius_mm, start[2] + along * own[..., 2], (under > 0) & (along > 0)


def _jpeg(picture: Any, phone: Phone) -> bytes:
    made = Image.fromarray(np.clip(picture, 0, 255).astype(np.uint8)).convert("RGB")
    notes = made.getexif()
    notes.get_ifd(0x8769)[0xA405] = int(phone.equivalent_mm)
    out = io.BytesIO()
    made.save(out, "JPEG", quality=phone.quality, exif=notes)
    return out.getvalue()
