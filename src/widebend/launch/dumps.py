"""A database written to a file before it is emptied."""

from __future__ import annotations

import subprocess
from datetime import datetime
from pathlib import Path

from .postgres import ServerTrouble, find_binaries


def dumped(url: str, folder: Path) -> Path:
    """Everything of a database as SQL; the file. Raises ServerTrouble when it cannot be written: nothing is emptied."""
    binaries = find_binaries()
    if binaries is None:
        raise ServerTrouble("PostgreSQL's own tools are not here to keep a copy with: nothing was changed")
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"before-reset-{datetime.now():%Y-%m-%d-%H%M%S}.sql"
    with file.open("wb") as out:
        command = [str(binaries / "pg_dump"), "--no-owner", url]
        done = subprocess.run(command, stdout=out, stderr=subprocess.PIPE, check=False)  # noqa: S603 - Debian's own tool
    if done.returncode:
        file.unlink()
        raise ServerTrouble(f"no copy could be kept, so nothing was changed: {done.stderr.decode()[-300:]}")
    return file
