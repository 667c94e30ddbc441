"""Where faults are written: one file beside the data, the older ones kept a while."""

from __future__ import annotations

import fcntl
import logging
from logging.handlers import WatchedFileHandler
from pathlib import Path

MOST_BYTES, OLDER_FILES = 2_000_000, 4


class SharedFileHandler(WatchedFileHandler):
    """A log file that several processes write to: each line is appended in one go, and whoever finds the file full
    moves it aside under a lock. The others notice at their next line; what they write until then goes to the older
    file, so that no line is lost.
    """

    def emit(self, record: logging.LogRecord) -> None:
        try:
            if Path(self.baseFilename).stat().st_size >= MOST_BYTES:
                self._set_aside()
        except OSError:  # not there yet, or the disk is full: the line itself says so if it must
            pass
        super().emit(record)

    def _set_aside(self) -> None:
        file = Path(self.baseFilename)
        with file.with_suffix(".lock").open("a") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            if file.stat().st_size < MOST_BYTES:  # another process was quicker
                return
            older = [file.with_name(f"{file.name}.{k}") for k in range(1, OLDER_FILES + 1)]
            for newer, place in zip(reversed(older[:-1]), reversed(older[1:]), strict=True):
                if newer.exists():
                    newer.replace(place)
            file.replace(older[0])


def log_to_file(folder: Path) -> Path:
    """Send warnings and faults of this process and of those it forks to a file; the file."""
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / "server.log"
    handler = SharedFileHandler(file, delay=True)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    handler.setLevel(logging.WARNING)
    logging.getLogger().addHandler(handler)
    logging.raiseExceptions = False  # a full disk is told of once, by what could not be kept, not by the log too
    return file
