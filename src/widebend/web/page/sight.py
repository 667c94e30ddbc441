"""Which things are drawn."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...core.laying import VIEWS, View


@dataclass(frozen=True)
class Sight:
    """Which things are drawn, and in which states. Hidden: natures, or "moving"; whether ribbons of
    the gas are drawn on Route.
    """

    near: bool = False
    hide: tuple[str, ...] = ()
    view: View = "coming"
    gas: bool = False


EVERYTHING = Sight()


HIDEABLE = ("hard", "heat-shy", "soft", "moving")


def sight_from(cookies: Mapping[str, str]) -> Sight:
    """Return the view that this device chose last."""
    hide = tuple(kind for kind in HIDEABLE if kind in cookies.get("hide", "").split("."))
    view: View = cookies.get("view", "coming")  # type: ignore[assignment]
    return Sight(cookies.get("show") == "near", hide, view if view in VIEWS else "coming", cookies.get("gas") == "on")
