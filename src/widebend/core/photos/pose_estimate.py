"""How all photos and tags stand, as the adjustment changes it: poses, lenses, the paper's scale, cuffs' radii."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..space import Vector
from .lens import FIGURES, projected
from .sightings import IndexArray, Table
from .square import skew, turned

POSE = 6


@dataclass(frozen=True)
class PoseEstimate:
    """Photos: world to lens, turn (p, 3, 3) and shift (p, 3); bodies: own to world, turn (b, 3, 3) and place (b, 3)
    [mm]; lenses (l, 8); what the paper is larger than meant; radius of each body (b,) [mm], of use for cuffs only.
    """

    photo_turn: Vector
    photo_shift: Vector
    body_turn: Vector
    body_place: Vector
    lens: Vector
    scale: float
    radius: Vector


@dataclass(frozen=True)
class Places:
    """Where each unknown stands in the list of all: lenses, scale, radii of cuffs, photos, bodies."""

    lens: int
    scale: int
    radius: IndexArray  # (b,) of each body, the scale's own place where it has none
    photo: int
    body: int
    count: int

    @classmethod
    def of(cls, table: Table) -> Places:
        scale = FIGURES * len(table.lenses)
        radius = np.where(table.cuff, scale + np.cumsum(table.cuff), scale)
        photo = scale + 1 + int(table.cuff.sum())
        body = photo + POSE * len(table.photos)
        return cls(0, scale, radius, photo, body, body + POSE * len(table.bodies))

    def of_photo(self, k: int) -> slice:
        return slice(self.photo + POSE * k, self.photo + POSE * (k + 1))

    def of_body(self, k: int) -> slice:
        return slice(self.body + POSE * k, self.body + POSE * (k + 1))

    def rows(self, table: Table) -> IndexArray:
        """The unknowns of each sighting (n, 22): its photo's, its body's, its lens's, the scale, its radius."""
        six = np.arange(POSE)
        return np.concatenate(
            [
                self.photo + POSE * table.photo[:, None] + six,
                self.body + POSE * table.body[:, None] + six,
                self.lens + FIGURES * table.lens[:, None] + np.arange(FIGURES),
                np.full((len(table.photo), 1), self.scale),
                self.radius[table.body][:, None],
            ],
            axis=1,
        )


def on_body(paper: Vector, scale: float, cuff: IndexArray, radius: Vector) -> tuple[Vector, Vector, Vector]:
    """Where places on paper (n, k, 2) are in their bodies' frames (n, k, 3), with the derivatives by the paper's
    scale and by the radius; on a cuff what is to the right goes round.
    """
    right, up = paper[..., 0], paper[..., 1]
    nothing = np.zeros_like(right)
    flat, flat_by = np.stack([scale * right, scale * up, nothing], -1), np.stack([right, up, nothing], -1)
    if not cuff.any():
        return flat, flat_by, np.zeros_like(flat)
    r = np.where(cuff, radius, 1.0)[:, None]
    angle = scale * right / r
    c, s = np.cos(angle), np.sin(angle)
    round_, by_scale = np.stack([r * c, r * s, scale * up], -1), np.stack([-right * s, right * c, up], -1)
    by_radius = np.stack([c + angle * s, s - angle * c, nothing], -1)
    which = cuff[:, None, None]
    return np.where(which, round_, flat), np.where(which, by_scale, flat_by), np.where(which, by_radius, 0.0)


def left_over(at: PoseEstimate, table: Table) -> tuple[Vector, Vector]:
    """Return the residuals of corners (n, 8) [pixels], and its derivatives (n, 8,
    22) in the order of `Places.rows`. Photos are turned about their own lens, bodies about their middle, by small
    rotation vectors.
    """
    cuff, radius = table.cuff[table.body], at.radius[table.body]
    own, by_scale, by_radius = on_body(table.paper, at.scale, cuff, radius)
    body_turn, photo_turn = at.body_turn[table.body], at.photo_turn[table.photo]
    carried = own @ body_turn.transpose(0, 2, 1)
    world = carried + at.body_place[table.body][:, None]
    before = world @ photo_turn.transpose(0, 2, 1) + at.photo_shift[table.photo][:, None]
    pixels, by_point, by_lens = projected(before, at.lens[table.lens][:, None, :])
    by_world = by_point @ photo_turn[:, None]
    whole_turn = body_turn.transpose(0, 2, 1)
    blocks = [
        by_point @ -skew(before),
        by_point,
        by_world @ -skew(carried),
        by_world,
        by_lens,
        by_world @ (by_scale @ whole_turn)[..., None],
        by_world @ (by_radius @ whole_turn)[..., None],
    ]
    n = len(table.photo)
    return (pixels - table.pixels).reshape(n, 8), np.concatenate(blocks, axis=-1).reshape(n, 8, -1)


def stepped(at: PoseEstimate, step: Vector, places: Places, table: Table) -> PoseEstimate:
    """The standing after a step of all unknowns."""
    p, b = len(table.photos), len(table.bodies)
    photos = step[places.photo : places.photo + POSE * p].reshape(p, POSE)
    bodies = step[places.body : places.body + POSE * b].reshape(b, POSE)
    radius = at.radius.copy()
    radius[table.cuff] = np.maximum(radius[table.cuff] + step[places.radius[table.cuff]], 3.0)
    turn = turned(photos[:, :3])
    return PoseEstimate(
        turn @ at.photo_turn,
        (turn @ at.photo_shift[..., None])[..., 0] + photos[:, 3:],
        turned(bodies[:, :3]) @ at.body_turn,
        at.body_place + bodies[:, 3:],
        at.lens + step[: places.scale].reshape(-1, FIGURES),
        at.scale + float(step[places.scale]),
        radius,
    )
