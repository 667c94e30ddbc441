"""Where a hung system goes: down by its own weight, wet, to either side in a turn of the road, and as the engine rocks.

One frame, made ready once, answers all of them: they differ in what loads it and in where its engine end is held.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..laying import ENGINE, HUNG, HungGoing, Movers, Position, System, goes_as
from ..records import Design
from ..space import Vector
from .frame import Solved, weight
from .hung import SIDE_G, WET_KG_M, ends_moved, hang
from .model import HangState, Model, model_of, pre_loads

HALF_MM = 50.0  # of a part without a body: by choice
DOWN_MM = 200.0  # what goes farther is not held any more, and small movements are no measure of it: by choice


@dataclass(frozen=True)
class HungState:
    """One state by name: how far the ends of pieces (run id, index) go (3,), and the middles of parts with their turn
    (6,) [mm, rad].
    """

    name: str
    pieces: Mapping[tuple[str, int], tuple[Vector, Vector]]
    parts: Mapping[str, Vector]


def hung_states(design: Design, system: System, moves: Movers, engine: Sequence[Position]) -> list[HungState]:
    """The states in which what is near must be cleared; `engine` is every position of the engine, at rest first. Raises
    InputError where something of the system is held by nothing.
    """
    model = model_of(design, system, HangState(water_kg_m=WET_KG_M))
    solved, before = Solved(model.frame), pre_loads(model)
    down, left, right = ((0.0, 0.0, -1.0), (0.0, -SIDE_G, -1.0), (0.0, SIDE_G, -1.0))
    dry = {"as it hangs": down, "swung left": left, "swung right": right}
    loads = {name: weight(model.frame, None, np.array(way)) + before for name, way in dry.items()}
    loads["hung and wet"] = weight(model.frame, model.water) + before
    rocked = {p.name: solved.carried_along(_rocked(model, moves, p)) for p in engine[1:]}
    for name, (_, felt) in rocked.items():
        loads[name] = loads["as it hangs"] + felt
    answers = solved.each(np.stack(list(loads.values()), axis=2))
    nothing = np.zeros((len(model.frame.nodes), 6)), None
    return [_state(model, name, answers[:, :, k] + rocked.get(name, nothing)[0]) for k, name in enumerate(loads)]


def lost_states(design: Design, system: System, names: Mapping[str, str]) -> tuple[list[HungState], list[str]]:
    """The states with one rubber lost, by the names of the hangers (hanger id -> name); and the hangers without which
    it comes down: nothing else holds it, or by its flexes only.
    """
    found, down = list[HungState](), list[str]()
    for hanger, name in names.items():
        try:
            hung = hang(design, system, HangState(without=frozenset({hanger})), modes=0)
        except InputError:
            down.append(hanger)
            continue
        if float(np.abs(hung.moved[:, :3]).max()) > DOWN_MM:
            down.append(hanger)
        else:
            found.append(HungState(name, hung.pieces, hung.parts))
    return found, down


def goes_of(states: Sequence[HungState], moves: Movers, system: System) -> dict[object, HungGoing]:
    """How each piece and part that hangs goes in all the states, as a rigid body: a piece so that both its ends go
    where they do, a part about its middle. Where nothing gives, all that goes with the engine hangs too.
    """
    names = [state.name for state in states]
    movers: dict[object, str] = {**moves.pieces, **moves.parts}  # type: ignore[dict-item]
    ends = _ends(system)
    goes: dict[object, HungGoing] = {}
    for key, at in ends.items():
        mover = goes_as(movers.get(key, HUNG))
        if mover == HUNG or (mover == ENGINE and not moves.has_flex):
            far = [_far(state, key, at) for state in states]
            if all(one is not None for one in far):
                goes[key] = HungGoing.of(names, at, [one for one in far if one is not None])
    return goes


def _ends(system: System) -> dict[object, Vector]:
    """Both ends (2, 3) of each piece, and of each part along its flow."""
    found: dict[object, Vector] = {
        (run.run.id, piece.index): np.array([piece.inlet.point, piece.outlet.point])
        for run in system.runs
        for piece in run.pieces
    }
    for body in system.bodies:
        found.setdefault(body.part.id, np.array([body.start, body.end]))
    for part, at in system.parts:
        found.setdefault(part.id, np.array([at.point - HALF_MM * at.flow, at.point + HALF_MM * at.flow]))
    return found


def _far(state: HungState, key: object, ends: Vector) -> Vector | None:
    """How far both ends go in a state; None where that does not say."""
    if isinstance(key, tuple):
        pair = state.pieces.get(key)
        return None if pair is None else np.array(pair)
    moved = state.parts.get(str(key))
    if moved is None:
        return None
    half = (ends[1] - ends[0]) / 2
    return np.array([moved[:3] - np.cross(moved[3:], half), moved[:3] + np.cross(moved[3:], half)])


def _rocked(model: Model, moves: Movers, rock: Position) -> Vector:
    """How far what is held by the engine goes and turns with it (n, 6), all other nodes nothing."""
    moved = np.zeros((len(model.frame.nodes), 6))
    turn = (
        np.array(
            [rock.turn[2, 1] - rock.turn[1, 2], rock.turn[0, 2] - rock.turn[2, 0], rock.turn[1, 0] - rock.turn[0, 1]]
        )
        / 2
    )
    for port, node in model.held.items():
        if goes_as(moves.parts.get(port.partition(".")[0], "")) == ENGINE:
            at = model.frame.nodes[node]
            moved[node] = np.concatenate([rock.points(at) - at, turn])
    return moved


def _state(model: Model, name: str, moved: Vector) -> HungState:
    parts = {part: moved[model.nodes[("mass", part, "")]] for part in model.masses}
    return HungState(name, ends_moved(model, moved), parts)
