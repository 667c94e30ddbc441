"""Commands that run inside the virtual environment: start, work, stop, reset-demo. The launcher script calls this."""

from __future__ import annotations

import argparse
import errno
import os
import signal
import sys
import time
from pathlib import Path

import psycopg

from .. import __version__
from ..core.errors import NewerBooksError
from ..store.database import is_ours, migrate, waiting
from .backups import IN_USE, backup, in_use, restore
from .books import begun, brought_up
from .place import cluster_folder, database_url, home
from .postgres import Cluster, ServerTrouble
from .serving import serving_pid
from .starting import start

PORT = 8640


def work(_options: argparse.Namespace) -> int:
    """Share the long work of a shop: do what is on the queue of WIDEBEND_DATABASE_URL, or of this checkout."""
    url, cluster = database_url()
    if cluster is None and waiting(url):
        raise ServerTrouble(
            "the shop's books are of an older Wide Bend than this one: bring its server to this "
            "version first, it backs them up and brings them up"
        )
    brought_up(url, home() / "backups", cluster)
    os.environ["WIDEBEND_DATABASE_URL"] = url
    os.execv(sys.executable, [sys.executable, "-m", "widebend.work"])  # noqa: S606 - our own module


def stop(_options: argparse.Namespace) -> int:
    """Stop a server that runs from this checkout."""
    pid = serving_pid(home())
    if not pid:
        print("nothing is running")
        if not os.environ.get("WIDEBEND_DATABASE_URL"):
            Cluster(cluster_folder()).stop()
        return 0
    os.kill(pid, signal.SIGTERM)
    for _ in range(200):
        if not serving_pid(home()):
            print("stopped")
            return 0
        time.sleep(0.1)
    print("still stopping; see again in a moment")
    return 1


def make_backup(options: argparse.Namespace) -> int:
    """Write everything into one file, and prove that it comes back."""
    url, cluster = database_url()
    try:
        file = backup(url, Path(options.folder) if options.folder else home() / "backups", cluster)
        print(f"backed up into {file}" + ("" if cluster else "; it was read back, not restored beside"))
    finally:
        if cluster and not serving_pid(home()):
            cluster.stop()
    return 0


def restore_backup(options: argparse.Namespace) -> int:
    """Put a backup in the place of all that is here, after asking; what was here is backed up first."""
    if serving_pid(home()):
        print("the program is serving: ./widebend stop it first")
        return 1
    if (
        not options.yes
        and input("This puts the backup in the place of all that is here. Type “restore” to go on: ") != "restore"
    ):
        print("nothing was changed")
        return 1
    url, cluster = database_url()
    try:
        if in_use(url):
            raise ServerTrouble(IN_USE)
        migrate(url)
        before = backup(url, home() / "backups", cluster)
        print(f"what was here is kept in {before}")
        found = restore(url, Path(options.file))
        migrate(url)  # a backup of an older program is brought up to this one
        print(f"restored {sum(count for count, _ in found.values())} rows of {len(found)} tables, each compared")
    finally:
        if cluster:
            cluster.stop()
    return 0


def reset_demo(options: argparse.Namespace) -> int:
    """Throw everything away and fill in the demo shop again, after asking; what was there is backed up first."""
    if serving_pid(home()):
        print("the program is serving: ./widebend stop it first, so that nobody's work is taken from under them")
        return 1
    if not options.yes:
        answer = input("This deletes every customer, job, survey and design kept here. Type “delete” to go on: ")
        if answer.strip().strip("“”\"'") != "delete":
            print("nothing was changed")
            return 1
    url, cluster = database_url()
    try:
        with psycopg.connect(url) as connection:
            if not is_ours(connection):
                print("that database holds things that are not Wide Bend's: nothing was changed")
                return 1
        if in_use(url):
            raise ServerTrouble(IN_USE)
        print(f"what was there is kept in {backup(url, home() / 'backups', cluster)}")
        with psycopg.connect(url) as connection:
            connection.execute("DROP SCHEMA public CASCADE")
            connection.execute("CREATE SCHEMA public")
        migrate(url)
        begun(url, empty=False, replace=True)
    finally:
        if cluster:
            cluster.stop()
    return 0


def main() -> int:
    """Run one of the commands."""
    parser = argparse.ArgumentParser(prog="./widebend")
    parser.add_argument("--version", action="version", version=f"Wide Bend {__version__}")
    commands = parser.add_subparsers(required=True)
    begin = commands.add_parser("start", help=start.__doc__)
    begin.add_argument("--port", type=int, default=int(os.environ.get("WIDEBEND_PORT", PORT)))
    begin.add_argument("--lan", action="store_true", help="serve the shop's tablets too, over TLS")
    begin.add_argument("--empty", action="store_true", help="begin new books without the demo's customers and jobs")
    begin.set_defaults(run=start)
    commands.add_parser("work", help=work.__doc__).set_defaults(run=work)
    commands.add_parser("stop", help=stop.__doc__).set_defaults(run=stop)
    keep = commands.add_parser("backup", help=make_backup.__doc__)
    keep.add_argument("folder", nargs="?", help="where to (else beside the program's other things)")
    keep.set_defaults(run=make_backup)
    back = commands.add_parser("restore", help=restore_backup.__doc__)
    back.add_argument("file")
    back.add_argument("--yes", action="store_true", help="do not ask")
    back.set_defaults(run=restore_backup)
    reset = commands.add_parser("reset-demo", help=reset_demo.__doc__)
    reset.add_argument("--yes", action="store_true", help="do not ask")
    reset.set_defaults(run=reset_demo)
    options = parser.parse_args()
    signal.signal(signal.SIGTERM, signal.default_int_handler)  # told to end while it starts, it still cleans up
    try:
        return int(options.run(options))
    except (ServerTrouble, NewerBooksError) as exc:
        print(exc, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("stopped")
        return 130
    except OSError as exc:
        if exc.errno != errno.ENOSPC:
            raise
        print(f"The disk that holds {home()} is full: make room there, then start again.", file=sys.stderr)
        return 1
    except psycopg.Error as exc:
        named = " (WIDEBEND_DATABASE_URL names it)" if os.environ.get("WIDEBEND_DATABASE_URL") else ""
        print(f"the database cannot be used{named}: {str(exc).splitlines()[0]}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
