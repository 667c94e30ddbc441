"""Serving the tablets of the shop: this machine's address in its network, and a certificate of its own for TLS."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
from dataclasses import dataclass
from pathlib import Path

from .postgres import ServerTrouble

DAYS = 397  # browsers take a certificate for no longer: CA/Browser Forum ballot SC31


@dataclass(frozen=True)
class Lan:
    """Where tablets reach this machine: its address, the names it answers to, certificate and key."""

    address: str
    names: tuple[str, ...]
    certificate: Path
    key: Path


def own_address() -> str:
    """The address of this machine in the network it would reach others by; nothing is sent. Raises ServerTrouble."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        try:
            asked.connect(("192.0.2.1", 9))  # RFC 5737: an address that nobody has
        except OSError as exc:
            raise ServerTrouble("this machine is in no network: join the shop's first, then start with --lan") from exc
        return str(asked.getsockname()[0])


def joined(home: Path) -> Lan:
    """This machine in its network, with a certificate that names it: made again where the address is another one."""
    address, name = own_address(), socket.gethostname()
    certificate, key, named = home / "tls" / "shop.crt", home / "tls" / "shop.key", home / "tls" / "named"
    names = (address, name, f"{name}.local")
    if not (certificate.exists() and key.exists() and named.exists() and named.read_text() == " ".join(names)):
        certificate.parent.mkdir(exist_ok=True)
        _made(certificate, key, address, name)
        named.write_text(" ".join(names))
    return Lan(address, names, certificate, key)


def _made(certificate: Path, key: Path, address: str, name: str) -> None:
    """A certificate that this machine signs itself. Raises ServerTrouble."""
    tool = shutil.which("openssl")
    if tool is None:
        raise ServerTrouble("openssl is not here to make a certificate with: sudo apt-get install openssl")
    key.touch(mode=0o600)
    others = f"subjectAltName=IP:{address},IP:127.0.0.1,DNS:localhost,DNS:{name},DNS:{name}.local"
    kind = ["-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", str(DAYS)]
    named = ["-subj", "/CN=Wide Bend", "-addext", others]
    command = [tool, "req", "-x509", *kind, *named, "-keyout", str(key), "-out", str(certificate)]
    done = subprocess.run(command, capture_output=True, check=False)  # noqa: S603 - Debian's own tool
    if done.returncode:
        raise ServerTrouble(f"no certificate could be made: {done.stderr.decode()[-300:]}")
    os.chmod(key, 0o600)
