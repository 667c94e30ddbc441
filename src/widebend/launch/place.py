"""Where this installation keeps its own things, and which database it uses."""

from __future__ import annotations

import hashlib
import os
import secrets
from pathlib import Path

from .postgres import Cluster, ServerTrouble, reachable_by_server


def home() -> Path:
    """The folder of this installation's own things: beside the checkout, or WIDEBEND_HOME. Made where it is missing.
    Raises ServerTrouble where it cannot be.
    """
    folder = Path(os.environ.get("WIDEBEND_HOME") or Path(__file__).resolve().parents[3] / ".widebend")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as exc:
        raise ServerTrouble(
            f"nothing can be kept in {folder}: {exc.strerror}. Say with WIDEBEND_HOME=/another/folder where"
        ) from exc
    return folder


def cluster_folder() -> Path:
    """The cluster's folder; in a system folder when the server's user could not reach ours."""
    ours = home() / "postgres"
    if reachable_by_server(ours):
        return ours
    system = Path("/var/lib") / f"widebend-{_short(home())}"
    print(f"{ours} cannot be reached by the database's own user; using {system}")
    return system


def _short(path: Path) -> str:
    """A short stable name for a folder: two checkouts never share a cluster."""
    return hashlib.sha256(str(path).encode()).hexdigest()[:8]


def database_url() -> tuple[str, Cluster | None]:
    """The server to use: the one WIDEBEND_DATABASE_URL names, or our own, started."""
    given = os.environ.get("WIDEBEND_DATABASE_URL")
    if given:
        return given, None
    cluster = Cluster(cluster_folder())
    cluster.start()
    return cluster.url, cluster


def session_key() -> str:
    """The key that signs sessions: made once, kept beside the data, readable by the owner only. One that was written
    half is made again: every open page asks to be loaded again.
    """
    path = home() / "session.key"
    try:
        known = path.read_text().strip() if path.exists() else ""
    except OSError as exc:
        raise ServerTrouble(f"{path} cannot be read: {exc.strerror}. Take it away, and it is made again") from exc
    if len(known) == 64:
        return known
    made = path.with_suffix(".new")
    made.touch(mode=0o600)
    made.write_text(secrets.token_hex(32))
    made.replace(path)
    return path.read_text().strip()
