"""Books of an older program, backed up and brought up to this one."""

from __future__ import annotations

from pathlib import Path

from ..store.database import migrate, waiting
from .backups import backup
from .postgres import Cluster


def brought_up(url: str, backups: Path, cluster: Cluster | None) -> None:
    """Bring books up to this program; those that an older one kept are backed up first, and it is said where. Raises
    NewerBooksError for those of a newer one, ServerTrouble where they cannot be backed up: then nothing is touched.
    """
    if waiting(url):
        print(f"these books were kept by an older Wide Bend: as they were, they are in {backup(url, backups, cluster)}")
    migrate(url)
