"""A card goes to a simulated bender over a socket, and the pipe that comes back is held against the route."""

import json
import random
import socket
import threading
from collections.abc import Iterator

import pytest

from tests.core.bending.test_bending import TUBE, _bender, _die, _run
from widebend.core.bending import card_of, pose_difference
from widebend.core.errors import InputError
from widebend.core.records import Bend, TestBend
from widebend.instruments.bending import bend
from widebend.instruments.simulated_bender import Metal, SimulatedBender
from widebend.instruments.taking import Tool


@pytest.fixture
def bender() -> Iterator[SimulatedBender]:
    with SimulatedBender(seed=4) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server
        server.shutdown()


def test_a_card_without_springback_gives_the_route_back(bender: SimulatedBender) -> None:
    """Within 0.05 mm and 0.05 deg asked, from either end."""
    bender.metal = Metal(share=1.0, back_deg=0.0, noise_deg=0.0)
    die = _die(*(TestBend(set_deg=s, got_deg=s) for s in (20, 60, 90)))
    chance = random.Random(21)
    for k in range(20):
        pieces, backwards = _run(chance, chance.randint(1, 6)), k % 2 == 1
        card = card_of(pieces, TUBE, _bender(die), die, backwards=backwards)
        apart, turned = pose_difference(pieces, TUBE, bend(Tool(bender.address), card), backwards=backwards)
        assert apart < 0.05
        assert turned < 0.05


def test_with_springback_learnt_on_it_every_angle_comes_out(bender: SimulatedBender) -> None:
    """Test bends made on the same bender teach its die; then every angle is within 0.2 deg asked, but for noise."""
    bender.metal = Metal(share=0.97, back_deg=0.7, noise_deg=0.03)
    tests = []
    for set_deg in (15.0, 30.0, 60.0, 90.0, 120.0) * 3:
        card = card_of([Bend(id="b", angle_deg=set_deg, clr_mm=TUBE.od_mm * 1.5)], TUBE, _bender(_die()), _die())
        tests.append(TestBend(set_deg=set_deg, got_deg=bend(Tool(bender.address), card).rows[0].angle_deg))
    die, chance, worst = _die(*tests), random.Random(3), 0.0
    for _ in range(20):
        pieces = _run(chance, 3)
        made = bend(Tool(bender.address), card_of(pieces, TUBE, _bender(die), die))
        wanted = [p.angle_deg for p in pieces if isinstance(p, Bend)]
        worst = max(worst, *(abs(r.angle_deg - w) for r, w in zip(made.rows, wanted, strict=True)))
    assert worst < 0.2


def test_what_goes_wrong_on_the_way_is_said(bender: SimulatedBender) -> None:
    die = _die()
    card = card_of([Bend(id="b", angle_deg=30.0, clr_mm=TUBE.od_mm * 1.5)], TUBE, _bender(die), die)
    with socket.socket() as nobody:
        nobody.bind(("127.0.0.1", 0))
        with pytest.raises(InputError, match="does not answer"):
            bend(Tool(nobody.getsockname()), card)
    with socket.create_connection(bender.address, timeout=2) as line:
        heard = line.makefile()
        answers = []
        for words in (
            "BEND 30",
            "NEW {}",
            "rubbish",
            'NEW {"clr_mm": 95, "length_mm": 300}',
            "FEED 400",
            "FEED 100",
            "BEND 300",
            "BEND 90",
            "FEED 50",
            "MEASURE",
        ):
            line.sendall(words.encode() + b"\n")
            answers.append(heard.readline().strip())
    assert [a.startswith("ERROR") for a in answers] == [True, True, True, False, True, False, True, False, True, False]
    assert len(json.loads(answers[-1])["rows"]) == 1
