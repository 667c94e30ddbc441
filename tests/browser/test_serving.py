"""The server itself: requests that are sent half and left lying hold nobody up."""

from __future__ import annotations

import socket
import urllib.request
from urllib.parse import urlsplit

HALF = (
    b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-And: ",
    b"POST /preferences HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/x-www-form-urlencoded\r\n"
    b"Content-Length: 50\r\n\r\nunit=in",
)


def test_more_half_sent_requests_than_there_are_threads(address: str) -> None:
    """Forty, and two processes of twelve threads: others are answered all the same."""
    at = urlsplit(address)
    lying = [socket.create_connection((str(at.hostname), int(at.port or 0))) for _ in range(40)]
    try:
        for k, line in enumerate(lying):
            line.sendall(HALF[k % 2])
        for _ in range(5):
            with urllib.request.urlopen(f"{address}/rules", timeout=20) as answer:
                assert answer.status == 200
    finally:
        for line in lying:
            line.close()
