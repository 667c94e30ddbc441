"""An engine's exhaust gas: how much gas, how hot, in each state, and how sure that is.

What is not given is usual, and its range is wide: common practice, no source. docs/sources.md has each figure.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..errors import InputError
from ..records import Aspiration, Engine, Fuel
from .mass_flow import by_displacement, by_power
from .mixture import Gas, exhaust, stoichiometric

State = Literal["idle", "cruise", "full"]
STATES: tuple[State, ...] = ("idle", "cruise", "full")
AIR_KG_M3 = 1.18  # as it is drawn, 25 C at sea level


@dataclass(frozen=True)
class Span:
    """A figure with its range."""

    low: float
    usual: float
    high: float

    @classmethod
    def about(cls, usual: float, share: float) -> Span:
        return cls(usual * (1 - share), usual, usual * (1 + share))

    def times(self, factor: float) -> Span:
        return Span(self.low * factor, self.usual * factor, self.high * factor)


@dataclass(frozen=True)
class EngineGas:
    """The gas of one state: all banks together [kg/s], as it enters [C], lambda, and where the figures are from."""

    state: State
    rpm: float
    kg_s: Span
    enters_c: Span
    air: float
    gas: Gas
    because: str


# fuel for each kWh at full power [g]: low, usual, high
FUEL_G_KWH: dict[Fuel, tuple[float, float, float]] = {
    "petrol": (250.0, 290.0, 340.0),
    "diesel": (200.0, 220.0, 250.0),
    "E85": (340.0, 400.0, 470.0),
}
FULL_LAMBDA: dict[Fuel, float] = {"petrol": 0.88, "diesel": 1.35, "E85": 0.85}
PART_LAMBDA: dict[Fuel, dict[State, float]] = {
    "petrol": {"idle": 1.0, "cruise": 1.0},
    "diesel": {"idle": 6.0, "cruise": 2.5},
    "E85": {"idle": 1.0, "cruise": 1.0},
}
# how far the cylinders fill with fresh air, as a share of what they displace at the air outside: low, usual, high
FILLED: dict[State, tuple[float, float, float]] = {
    "idle": (0.2, 0.28, 0.4),
    "cruise": (0.25, 0.4, 0.55),
    "full": (0.8, 0.9, 1.0),
}
FILLED_DIESEL = (0.8, 0.9, 1.0)  # no throttle
BOOSTED: dict[Aspiration, float] = {"natural": 1.0, "turbo": 1.9, "supercharged": 1.5}
# the gas where the system starts [C], behind the manifold or the turbine: low, usual, high
ENTERS_C: dict[tuple[Fuel, bool], dict[State, tuple[float, float, float]]] = {
    ("petrol", False): {"idle": (250, 350, 450), "cruise": (480, 580, 680), "full": (720, 820, 900)},
    ("petrol", True): {"idle": (200, 300, 400), "cruise": (430, 530, 630), "full": (680, 780, 880)},
    ("diesel", False): {"idle": (100, 150, 200), "cruise": (230, 300, 400), "full": (450, 550, 650)},
    ("diesel", True): {"idle": (90, 130, 180), "cruise": (200, 270, 360), "full": (400, 480, 580)},
    ("E85", False): {"idle": (230, 330, 430), "cruise": (450, 550, 650), "full": (680, 780, 860)},
    ("E85", True): {"idle": (190, 280, 380), "cruise": (400, 500, 600), "full": (640, 740, 840)},
}
TYPED_C = 30.0  # how sure a temperature is that somebody measured


def gas_of(engine: Engine, state: State) -> EngineGas:
    """The gas of an engine in a state. Raises InputError where neither power nor displacement is said."""
    if engine.power_kw is None and engine.litres is None:
        raise InputError("say the engine's power or what it displaces: either tells how much gas it gives")
    air = _air(engine, state)
    kg_s, because = _flow(engine, state, air)
    typed = {"idle": engine.idle_c, "cruise": engine.cruise_c, "full": engine.full_c}[state]
    low, usual, high = ENTERS_C[(engine.fuel, engine.aspiration == "turbo")][state]
    enters = Span(low, usual, high) if typed is None else Span(max(0.0, typed - TYPED_C), typed, typed + TYPED_C)
    return EngineGas(state, rpm_of(engine, state), kg_s, enters, air, exhaust(engine.fuel, air), because)


def rpm_of(engine: Engine, state: State) -> float:
    """How fast the engine turns in a state [1/min]."""
    return {"idle": engine.idle_rpm, "cruise": engine.cruise_rpm, "full": engine.rated_rpm}[state]


def _air(engine: Engine, state: State) -> float:
    if state == "full":
        return FULL_LAMBDA[engine.fuel] if engine.full_lambda is None else engine.full_lambda
    return PART_LAMBDA[engine.fuel][state]


def _flow(engine: Engine, state: State, air: float) -> tuple[Span, str]:
    """All banks together [kg/s], and what it was calculated from."""
    if state == "full" and engine.power_kw is not None:
        power = engine.power_kw
        low, usual, high = (by_power(power, g, stoichiometric(engine.fuel) * air) for g in FUEL_G_KWH[engine.fuel])
        return Span(low, usual, high), "by power and what fuel it takes"
    litres, known = _litres(engine)
    filled = FILLED_DIESEL if engine.fuel == "diesel" else FILLED[state]
    boost = BOOSTED[engine.aspiration] if state == "full" else 1.0
    low, usual, high = (
        by_displacement(
            litres, rpm_of(engine, state), share * boost, AIR_KG_M3, stoichiometric(engine.fuel) * air, engine.strokes
        )
        for share in filled
    )
    return Span(low, usual, high), "by what it displaces" if known else "by what an engine of that power displaces"


def _litres(engine: Engine) -> tuple[float, bool]:
    """Return its displacement [l], and whether that was said: otherwise what would draw its full gas."""
    if engine.litres is not None:
        return engine.litres, True
    assert engine.power_kw is not None  # asked in `gas_of`
    ratio = stoichiometric(engine.fuel) * _air(engine, "full")
    full = by_power(engine.power_kw, FUEL_G_KWH[engine.fuel][1], ratio)
    share = FILLED_DIESEL[1] if engine.fuel == "diesel" else FILLED["full"][1]
    one = by_displacement(1.0, engine.rated_rpm, share * BOOSTED[engine.aspiration], AIR_KG_M3, ratio, engine.strokes)
    return full / one, False
