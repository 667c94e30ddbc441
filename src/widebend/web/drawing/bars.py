"""Bars as they are cut: every piece at scale in its bar, the saw's cuts between, the rest at the end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Protocol

from ...core.cutting import USEFUL_DEG, BendPlan, BendSource
from ...core.nesting import Cut, Layout, Nest, Saw
from ...core.units import format_angle, format_length
from .labels import CHAR_PX, Label
from .marks import Mark

BAR_PX, ROW_PX, LEFT_PX = 34.0, 62.0, 2.0


class Cutting(Protocol):
    """Pieces of one tube, rod or flat laid into bars."""

    @property
    def saw(self) -> Saw: ...
    @property
    def cuts(self) -> Mapping[str, Cut]: ...
    @property
    def nest(self) -> Nest: ...


@dataclass
class BarPicture:
    """One bar, ready for the template."""

    words: str
    is_bought: bool
    marks: list[Mark] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)


def draw_bars(
    tube: Cutting, names: dict[str, str], titles: dict[str, str], width_px: float, unit: str
) -> list[BarPicture]:
    """Every bar of a tube, all at one scale; `names` say what a piece is called, `titles` what a bar is."""
    longest = max((one.bar.length_mm for one in tube.nest.layouts), default=1.0)
    per_mm = (width_px - 2 * LEFT_PX) / longest
    return [_drawn(one, tube, names, per_mm, unit, titles.get(one.bar.id, one.bar.id)) for one in tube.nest.layouts]


def _drawn(one: Layout, tube: Cutting, names: dict[str, str], per_mm: float, unit: str, title: str) -> BarPicture:
    kerf, facing, usable = tube.saw.kerf_mm, tube.saw.facing_mm, tube.saw.usable_mm
    picture = BarPicture(f"{title}, {format_length(one.bar.length_mm, unit, 0)}", one.bar.is_bought)
    picture.marks.append(_box("bar", 0.0, one.bar.length_mm * per_mm, title))
    at = 0.0
    for name in one.pieces:
        long = tube.cuts[name].length_mm
        length = format_length(long, unit, 0 if unit == "mm" else 2, suffix=False)
        picture.marks.append(_box("bar-piece", at * per_mm, (long + facing) * per_mm, f"{names[name]}: {length}"))
        _word(picture, names[name], at * per_mm, (long + facing) * per_mm, 14.0, "bar-name")
        _word(picture, length, at * per_mm, (long + facing) * per_mm, 30.0, "bar-figure")
        at += long + facing + kerf
    if one.rest_mm > 0.5:
        start = (one.bar.length_mm - one.rest_mm) * per_mm
        css = "bar-rest" if one.rest_mm >= usable else "bar-scrap"
        picture.marks.append(_box(css, start, one.rest_mm * per_mm, "rest"))
        word = "rest" if one.rest_mm >= usable else "scrap"
        _word(picture, word, start, one.rest_mm * per_mm, 14.0, "bar-name")
        _word(
            picture, format_length(one.rest_mm, unit, 0, suffix=False), start, one.rest_mm * per_mm, 30.0, "bar-figure"
        )
    return picture


def _box(css: str, x: float, wide: float, title: str) -> Mark:
    return Mark("rect", css, {"x": LEFT_PX + x, "y": 1.0, "w": max(wide, 0.5), "h": BAR_PX, "r": 0.0}, title)


def _word(picture: BarPicture, text: str, x: float, wide: float, y: float, kind: str) -> None:
    """A word where there is room for it; its piece says it when pointed at all the same."""
    if CHAR_PX * len(text) + 4 <= wide:
        picture.labels.append(Label(LEFT_PX + x + 4, y, text, kind))


def draw_bends(
    plan: BendPlan, turns: dict[tuple[str, str], float], names: dict[tuple[str, str], str], width_px: float
) -> list[BarPicture]:
    """Every stock bend of a plan laid straight, all at one scale of degrees, in the order it is cut."""
    stocks: list[list[tuple[tuple[str, str], BendSource]]] = []
    for key, source in plan.items():
        if source.is_first:
            stocks.append([])
        stocks[-1].append((key, source))
    widest = max((float(one[0][1].stock.angle_deg) for one in stocks), default=1.0)
    per_deg = (width_px / 2 - 2 * LEFT_PX) / widest
    return [_bent(one, turns, names, per_deg) for one in stocks]


def _bent(
    one: list[tuple[tuple[str, str], BendSource]],
    turns: dict[tuple[str, str], float],
    names: dict[tuple[str, str], str],
    per_deg: float,
) -> BarPicture:
    whole = float(one[0][1].stock.angle_deg)
    picture = BarPicture(one[0][1].words, not one[0][1].item)
    picture.marks.append(_box("bar", 0.0, whole * per_deg, picture.words))
    end = 0.0
    for key, source in one:
        start, turn = whole - source.left_deg, turns.get(key, 0.0)
        name, said = names.get(key, "?"), format_angle(turn)
        picture.marks.append(_box("bar-piece", start * per_deg, turn * per_deg, f"{name}: {said}"))
        _word(picture, name, start * per_deg, turn * per_deg, 14.0, "bar-name")
        _word(picture, said, start * per_deg, turn * per_deg, 30.0, "bar-figure")
        end = start + turn
    if whole - end > 0.5:
        kept = whole - end >= USEFUL_DEG
        picture.marks.append(_box("bar-rest" if kept else "bar-scrap", end * per_deg, (whole - end) * per_deg, "rest"))
        _word(picture, "rest", end * per_deg, (whole - end) * per_deg, 14.0, "bar-name")
        _word(picture, format_angle(whole - end), end * per_deg, (whole - end) * per_deg, 30.0, "bar-figure")
    return picture
