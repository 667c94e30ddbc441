"""Where faults are written: one file beside the data, the older ones kept a while."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

MOST_BYTES, OLDER_FILES = 2_000_000, 4


def log_to_file(folder: Path) -> Path:
    """Send warnings and faults of this process and of those it forks to a file; the file."""
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / "server.log"
    handler = RotatingFileHandler(file, maxBytes=MOST_BYTES, backupCount=OLDER_FILES, delay=True)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    handler.setLevel(logging.WARNING)
    logging.getLogger().addHandler(handler)
    logging.raiseExceptions = False  # a full disk is told of once, by what could not be kept, not by the log too
    return file
