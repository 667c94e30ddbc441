"""The books at the start: those of an older program backed up and brought up to this one, empty ones begun."""

from __future__ import annotations

from pathlib import Path

from ..store.database import Database, is_anothers, migrate, waiting
from ..store.jobs import is_demo, open_shop, shop_name
from ..store.people import first_owner
from .backups import backup, backups
from .postgres import Cluster, ServerTrouble


def brought_up(url: str, folder: Path, cluster: Cluster | None) -> None:
    """Bring books up to this program; those that an older one kept are backed up first, and it is said where. Raises
    NewerBooksError for those of a newer one, ServerTrouble where they cannot be backed up or the database is somebody
    else's: then nothing is touched.
    """
    if is_anothers(url):
        raise ServerTrouble("that database holds another program's tables: give Wide Bend one of its own")
    if waiting(url):
        print(f"these books were kept by an older Wide Bend: as they were, they are in {backup(url, folder, cluster)}")
    migrate(url)


def begun(url: str, *, empty: bool, replace: bool = False, kept: Path | None = None) -> None:
    """Books that hold nothing yet are begun: with the demo shop, or with a bare one. Raises ServerTrouble where backups
    of earlier books are `kept`: a demo that opens to anybody does not take the place of what was lost. `replace`: the
    owner asked for that.
    """
    from ..demo import fill  # heavy, and not wanted by a command that only backs up

    database = Database(url, most=1)
    database.open()
    try:
        with database.transaction() as connection:
            if not shop_name(connection) and not replace and not empty and kept and backups(kept):
                raise ServerTrouble(
                    f"the books are empty, and {kept} holds backups of earlier ones, the newest "
                    f"{backups(kept)[0].name}: ./widebend restore it, or begin new books with ./widebend start --empty"
                )
            if empty and open_shop(connection):
                print("began the books of a new shop")
            elif fill(connection):
                print("filled in the demo shop: on this machine it opens without signing in")
            if not is_demo(connection):
                password = first_owner(connection)
                if password:
                    print(f"sign in once as “owner” with {password} and choose a password of your own")
    finally:
        database.close()


def is_demo_shop(url: str) -> bool:
    """Whether these books are the demo's."""
    database = Database(url, most=1)
    database.open()
    try:
        with database.transaction() as connection:
            return is_demo(connection)
    finally:
        database.close()
