"""Underbodies to start from: common layouts, scaled by wheelbase and track. Every figure is a guess until measured.

Shares of wheelbase and track are rough means of how such vehicles are laid out: common practice, no source.
X runs back from the front axle line, so the rear axle is at the wheelbase.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..records import (
    AxleTravel,
    Box,
    Capsule,
    Group,
    GroupState,
    HalfSpace,
    HangPoint,
    LowLine,
    Pivot,
    Rails,
    Rock,
    ShaftSweep,
    Shape,
    Survey,
    Thing,
)
from ..units import Length

GUESS = "a guess until measured"
GUESS_MM = 40.0  # how far a guess may be out
CABIN_MM = 400.0  # so high over the floor no pipe goes
WHEELBASE_MM, TRACK_MM = (900.0, 6000.0), (300.0, 2600.0)  # what makes sense
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Starter:
    """A layout by name, usual wheelbase and track [mm], and what makes it."""

    words: str
    wheelbase_mm: float
    track_mm: float
    make: Callable[[_Frame], Survey]


@dataclass(frozen=True)
class _Frame:
    """Places as shares: x of the wheelbase, y of the track, z in mm (vehicles differ little in height)."""

    wheelbase: float
    track: float

    def at(self, x: float, y: float, z: float) -> tuple[Length, Length, Length]:
        return Length(round(x * self.wheelbase)), Length(round(y * self.track)), Length(z)

    def box(self, name: str, low: Triple, high: Triple, **more: Any) -> Thing:
        a, b = self.at(*low), self.at(*high)
        middle = tuple(Length((p + q) / 2) for p, q in zip(a, b, strict=True))
        size = tuple(Length(q - p) for p, q in zip(a, b, strict=True))
        return _thing(name, Box.model_validate({"center": middle, "size": size}), **more)

    def bar(self, name: str, a: Triple, b: Triple, radius: float, **more: Any) -> Thing:
        return _thing(name, Capsule(a=self.at(*a), b=self.at(*b), radius=Length(radius)), **more)


def starter(key: str, wheelbase_mm: float, track_mm: float) -> Survey:
    """A starter underbody scaled to a vehicle. Raises KeyError for a layout that is not one of `STARTERS`."""
    return STARTERS[key].make(_Frame(wheelbase_mm, track_mm))


def _thing(name: str, shape: Shape, **more: Any) -> Thing:
    values = {"id": name.replace(" ", "-"), "name": name, "shape": shape, "plus_minus_mm": GUESS_MM}
    return Thing.model_validate(values | {"how_measured": GUESS} | more)


def _above(name: str, height: float) -> Thing:
    return _thing(name, HalfSpace(n=(0.0, 0.0, -1.0), d=Length(-height)))


def _cabin(f: _Frame, front: float, height: float) -> tuple[Thing, Thing]:
    """The floor, and the firewall at its front: ahead of it a downpipe may be higher than the floor."""
    return (
        f.box("floor", (front, -0.5, height), (1.38, 0.5, height + CABIN_MM)),
        f.box("firewall", (front - 0.01, -0.5, height), (front, 0.5, height + CABIN_MM)),
    )


def _axle(which: str, droop: float, bump: float, pivot: Pivot | None = None) -> Group:
    travel = AxleTravel(droop_mm=Length(droop), bump_mm=Length(bump), pivot=pivot)
    return Group(id=f"{which}-axle", name=f"{which} axle", motion=travel)


def _hangs(frame: _Frame, *places: Triple) -> tuple[HangPoint, ...]:
    return tuple(
        HangPoint(
            id=f"h{n}", name=f"hanger {n}", point=frame.at(*p), plus_minus_mm=Length(GUESS_MM), how_measured=GUESS
        )
        for n, p in enumerate(places, 1)
    )


def _rock(frame: _Frame, x: float, z: float) -> Group:
    return Group(id="engine", name="engine", motion=Rock(about=frame.at(x, 0.0, z), axis=(1.0, 0.0, 0.0), deg=3.0))


def _rear_drive(f: _Frame) -> Survey:
    front, rear = f.at(0.34, 0.0, 400), f.at(0.93, 0.0, 360)
    shaft = ShaftSweep(front=front, rear=rear, follows="rear-axle")
    return Survey(
        things=(
            f.box("engine sump", (-0.06, -0.1, 220), (0.14, 0.1, 420), moves_with="engine"),
            f.box("gearbox", (0.14, -0.09, 250), (0.34, 0.09, 480), moves_with="engine"),
            f.bar("propshaft", (0.34, 0.0, 400), (0.93, 0.0, 360), 38, moves_with="driveline"),
            f.box("crossmember", (0.3, -0.3, 290), (0.34, 0.3, 370)),
            f.box("fuel tank", (0.72, -0.3, 300), (0.9, -0.05, 520), nature="heat-shy", heat_shy_what="fuel tank"),
            f.bar("rear axle", (1.0, -0.45, 320), (1.0, 0.45, 320), 42, moves_with="rear-axle"),
            f.box("axle housing", (0.96, -0.09, 210), (1.04, 0.09, 440), moves_with="rear-axle"),
            f.bar("brake hose", (0.97, 0.32, 430), (0.99, 0.32, 520), 8, nature="heat-shy", heat_shy_what="brake hose"),
            f.bar("fuel line", (0.1, -0.33, 380), (0.72, -0.33, 380), 6, nature="heat-shy", heat_shy_what="fuel line"),
            f.box("bumper", (1.36, -0.5, 330), (1.4, 0.5, 520), nature="soft"),
            *_cabin(f, 0.2, 560),
        ),
        groups=(_rock(f, 0.1, 420), _axle("rear", 100, 85), Group(id="driveline", name="driveline", motion=shaft)),
        low_line=LowLine(d=Length(150)),
        rails=Rails(left_y_mm=Length(round(-0.31 * f.track)), right_y_mm=Length(round(0.31 * f.track))),
        hang_points=_hangs(f, (0.42, 0.2, 400), (0.92, 0.28, 430), (1.3, 0.25, 430)),
    )


def _front_drive(f: _Frame) -> Survey:
    hub, about = f.at(1.0, 0.0, 300), f.at(0.86, 0.0, 330)
    return Survey(
        things=(
            f.box("engine sump", (-0.1, -0.3, 200), (0.1, 0.1, 420), moves_with="engine"),
            f.box("subframe", (-0.02, -0.3, 210), (0.12, 0.3, 260)),
            f.box("steering rack", (0.08, -0.28, 270), (0.12, 0.28, 330)),
            f.box("fuel tank", (0.68, -0.36, 260), (0.9, 0.1, 420), nature="heat-shy", heat_shy_what="fuel tank"),
            f.bar("torsion beam", (0.9, -0.4, 300), (0.9, 0.4, 300), 40, moves_with="rear-axle"),
            f.bar("brake hose", (0.88, 0.34, 340), (0.9, 0.34, 420), 8, nature="heat-shy", heat_shy_what="brake hose"),
            f.box("spare well", (1.1, -0.22, 260), (1.36, 0.16, 480)),
            f.box("bumper", (1.3, -0.5, 300), (1.34, 0.5, 520), nature="soft", heat_shy_what=""),
            *_cabin(f, 0.16, 430),
        ),
        groups=(_rock(f, 0.0, 350), _axle("rear", 90, 80, Pivot(about=about, axis=(0.0, 1.0, 0.0), hub=hub))),
        low_line=LowLine(d=Length(130)),
        rails=Rails(left_y_mm=Length(round(-0.3 * f.track)), right_y_mm=Length(round(0.3 * f.track))),
        hang_points=_hangs(f, (0.35, 0.0, 330), (0.8, 0.24, 360), (1.2, 0.3, 380)),
    )


def _rear_engine(f: _Frame) -> Survey:
    return Survey(
        things=(
            f.box("engine", (1.02, -0.2, 190), (1.3, 0.2, 430), moves_with="engine"),
            f.box("gearbox", (0.78, -0.1, 210), (1.02, 0.1, 400), moves_with="engine"),
            f.bar("left drive shaft", (0.98, -0.45, 300), (0.98, -0.1, 300), 30, moves_with="rear-axle"),
            f.bar("right drive shaft", (0.98, 0.1, 300), (0.98, 0.45, 300), 30, moves_with="rear-axle"),
            f.bar("brake hose", (0.93, 0.3, 330), (0.95, 0.3, 420), 8, nature="heat-shy", heat_shy_what="brake hose"),
            f.bar("oil hose", (1.05, 0.25, 260), (1.2, 0.25, 260), 12, nature="heat-shy", heat_shy_what="other"),
            f.box("rear skirt", (1.36, -0.5, 260), (1.42, 0.5, 460), nature="soft"),
            _above("engine lid", 620),
        ),
        groups=(_rock(f, 1.1, 320), _axle("rear", 80, 70)),
        low_line=LowLine(d=Length(140)),
        hang_points=_hangs(f, (1.32, -0.25, 360), (1.32, 0.25, 360)),
    )


def _ladder_frame(f: _Frame) -> Survey:
    front, rear = f.at(0.32, -0.05, 520), f.at(0.95, 0.0, 450)
    shaft = ShaftSweep(front=front, rear=rear, follows="rear-axle")
    return Survey(
        things=(
            f.box("left rail", (-0.15, -0.31, 480), (1.42, -0.26, 630)),
            f.box("right rail", (-0.15, 0.26, 480), (1.42, 0.31, 630)),
            f.box("gearbox crossmember", (0.3, -0.26, 440), (0.33, 0.26, 520)),
            f.box("rear crossmember", (1.12, -0.26, 500), (1.15, 0.26, 610)),
            f.box("gearbox", (0.1, -0.1, 430), (0.32, 0.1, 680), moves_with="engine"),
            f.bar("propshaft", (0.32, -0.05, 520), (0.95, 0.0, 450), 45, moves_with="driveline"),
            f.box("fuel tank", (0.4, -0.26, 450), (0.72, -0.1, 650), nature="heat-shy", heat_shy_what="fuel tank"),
            f.bar("rear axle", (1.0, -0.47, 400), (1.0, 0.47, 400), 50, moves_with="rear-axle"),
            f.box("axle housing", (0.95, -0.1, 270), (1.05, 0.1, 540), moves_with="rear-axle"),
            f.bar("brake hose", (0.97, 0.1, 560), (0.99, 0.1, 640), 9, nature="heat-shy", heat_shy_what="brake hose"),
            f.box("spare wheel", (1.16, -0.2, 500), (1.38, 0.2, 690), state="as found"),
            _above("bed floor", 820),
        ),
        groups=(_rock(f, 0.1, 560), _axle("rear", 130, 110), Group(id="driveline", name="driveline", motion=shaft)),
        low_line=LowLine(d=Length(220)),
        rails=Rails(left_y_mm=Length(round(-0.26 * f.track)), right_y_mm=Length(round(0.26 * f.track))),
        hang_points=_hangs(f, (0.36, 0.28, 500), (0.86, 0.28, 500), (1.3, 0.28, 500)),
    )


def _x_frame(f: _Frame) -> Survey:
    front, rear = f.at(0.3, 0.0, 380), f.at(0.94, 0.0, 340)
    shaft = ShaftSweep(front=front, rear=rear, follows="rear-axle")
    return Survey(
        things=(
            f.bar("front left leg", (0.1, -0.3, 330), (0.48, -0.08, 300), 55),
            f.bar("front right leg", (0.1, 0.3, 330), (0.48, 0.08, 300), 55),
            f.box("X centre", (0.46, -0.1, 240), (0.6, 0.1, 360)),
            f.bar("rear left leg", (0.58, -0.08, 300), (0.92, -0.32, 340), 55),
            f.bar("rear right leg", (0.58, 0.08, 300), (0.92, 0.32, 340), 55),
            f.bar("propshaft", (0.3, 0.0, 380), (0.94, 0.0, 340), 38, moves_with="driveline"),
            f.box("gearbox", (0.08, -0.09, 240), (0.3, 0.09, 480), moves_with="engine"),
            f.bar("rear axle", (1.0, -0.45, 330), (1.0, 0.45, 330), 42, moves_with="rear-axle"),
            f.box("axle housing", (0.96, -0.09, 215), (1.04, 0.09, 445), moves_with="rear-axle"),
            f.box("fuel tank", (1.1, -0.3, 330), (1.34, 0.3, 480), nature="heat-shy", heat_shy_what="fuel tank"),
            f.bar("brake hose", (0.97, 0.05, 450), (0.99, 0.05, 520), 8, nature="heat-shy", heat_shy_what="brake hose"),
            _above("floor", 520),
        ),
        groups=(_rock(f, 0.1, 400), _axle("rear", 110, 90), Group(id="driveline", name="driveline", motion=shaft)),
        low_line=LowLine(d=Length(150)),
        hang_points=_hangs(f, (0.4, 0.3, 400), (0.85, 0.36, 400), (1.25, 0.34, 420)),
    )


def _motorcycle(f: _Frame) -> Survey:
    """The track of a motorcycle is its width over the pegs."""
    hub, about = f.at(1.0, 0.0, 310), f.at(0.62, 0.0, 400)
    arm = Pivot(about=about, axis=(0.0, 1.0, 0.0), hub=hub)
    bolted = Group(id="engine", name="engine", states=(GroupState(name="at rest"),))  # in the frame: it does not rock
    return Survey(
        things=(
            f.box("engine", (0.28, -0.28, 230), (0.6, 0.28, 560), moves_with="engine"),
            f.box("front wheel at full brake", (-0.24, -0.08, 30), (0.2, 0.08, 640), moves_with="front-axle"),
            f.bar("swinging arm", (0.62, 0.2, 400), (1.0, 0.2, 310), 26, moves_with="rear-axle"),
            f.box("rear wheel", (0.78, -0.12, 20), (1.22, 0.12, 620), moves_with="rear-axle"),
            f.bar("right peg", (0.6, 0.3, 330), (0.6, 0.5, 330), 14),
            f.bar(
                "brake hose",
                (0.7, 0.22, 420),
                (0.98, 0.22, 360),
                7,
                nature="heat-shy",
                heat_shy_what="brake hose",
                moves_with="rear-axle",
            ),
            f.box("side panel", (0.66, 0.15, 560), (0.95, 0.28, 760), nature="heat-shy", heat_shy_what="plastic"),
        ),
        groups=(bolted, _axle("front", 40, 110), _axle("rear", 40, 90, arm)),
        low_line=LowLine(d=Length(150)),
        hang_points=_hangs(f, (0.58, 0.22, 380), (0.86, 0.2, 560)),
    )


STARTERS: dict[str, Starter] = {
    "rear-drive": Starter("front engine, rear drive, live axle", 2800, 1520, _rear_drive),
    "front-drive": Starter("front drive, torsion beam", 2550, 1480, _front_drive),
    "rear-engine": Starter("rear engine", 2350, 1400, _rear_engine),
    "ladder-frame": Starter("ladder-frame truck", 3300, 1620, _ladder_frame),
    "x-frame": Starter("X-frame classic", 3020, 1500, _x_frame),
    "motorcycle": Starter("motorcycle", 1450, 720, _motorcycle),
}
