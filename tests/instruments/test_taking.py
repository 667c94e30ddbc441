"""Readings from a tool over a socket: noise, dropped and absurd ones, and no tool at all."""

import socketserver
import threading
from collections.abc import Iterator

import pytest

from widebend.core.errors import InputError
from widebend.instruments.stand_in import StandIn, panel_of, set_panel
from widebend.instruments.taking import Address, Tool, take


@pytest.fixture
def tool(request: pytest.FixtureRequest) -> Iterator[Address]:
    with StandIn(request.param, seed=3) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server.address
        server.shutdown()


def _answering(line: bytes) -> socketserver.ThreadingTCPServer:
    class Talk(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            for _ in self.rfile:
                self.wfile.write(line)

    server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Talk)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


@pytest.mark.parametrize("tool", ["distance"], indirect=True)
def test_a_quiet_tool_reads_what_it_was_set_to(tool: Address) -> None:
    set_panel(tool, {"value": 1385.0, "noise": 0.0, "drop": 0.0, "absurd": 0.0})
    reading = take(Tool(tool), "distance")
    assert reading.value == pytest.approx(1385.0, abs=0.06)
    assert (reading.good, reading.dropped, reading.absurd, reading.plus_minus) == (7, 0, 0, 1.0)
    assert panel_of(tool).value == 1385.0


@pytest.mark.parametrize("tool", ["angle"], indirect=True)
def test_absurd_readings_never_reach_the_field(tool: Address) -> None:
    """One in five is absurd: in 25 takings every value kept is within the noise, or the tool is refused in words."""
    set_panel(tool, {"value": 12.0, "noise": 0.1, "drop": 0.0, "absurd": 0.2})
    kept = []
    for _ in range(25):
        try:
            kept.append(take(Tool(tool), "angle"))
        except InputError as exc:
            assert "readings to trust" in str(exc)
    assert len(kept) > 15
    assert all(abs(r.value - 12.0) < 0.4 for r in kept)
    assert any(r.absurd and "absurd" in r.words for r in kept)


@pytest.mark.parametrize("tool", ["angle"], indirect=True)
def test_a_tool_that_drops_everything_is_refused_in_words(tool: Address) -> None:
    set_panel(tool, {"drop": 1.0})
    with pytest.raises(InputError, match="gave 0 readings to trust"):
        take(Tool(tool), "angle")


@pytest.mark.parametrize(
    "line", [b"DISTANCE 1.2 m\n", b"\xff\xfe\x00\n", b"ANGLE nine deg\n", b"ANGLE 9999 deg\n", b"x" * 500]
)
def test_a_tool_that_talks_nonsense_is_refused_in_words(line: bytes) -> None:
    with _answering(line) as server:
        with pytest.raises(InputError, match="readings to trust"):
            take(Tool(("127.0.0.1", server.server_address[1])), "angle")
        server.shutdown()


def test_no_tool_at_all() -> None:
    with pytest.raises(InputError, match="does not answer"):
        take(Tool(("127.0.0.1", 9)), "distance")
    assert panel_of(("127.0.0.1", 9)) is None


def test_inches_and_millimetres_from_a_tool() -> None:
    with _answering(b"DISTANCE 10.0 in\n") as server:
        assert take(Tool(("127.0.0.1", server.server_address[1])), "distance").value == pytest.approx(254.0)
        server.shutdown()
