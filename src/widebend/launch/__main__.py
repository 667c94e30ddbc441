"""Commands that run inside the virtual environment: start, work, stop, reset-demo. The launcher script calls this."""

from __future__ import annotations

import argparse
import hashlib
import os
import secrets
import signal
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from .. import __version__
from ..core.errors import NewerBooksError
from ..store.database import Database, is_ours, migrate
from .backups import Daily, backup, restore
from .lan import joined
from .logs import log_to_file
from .measuring_tools import MeasuringTools
from .plain_user import hand_over, plain_user
from .postgres import Cluster, ServerTrouble, free_port, reachable_by_server
from .serving import Serving, is_a_corpse, serving_address, serving_pid
from .upgrading import brought_up
from .watch import Watch
from .worker import Worker

PORT = 8640


def home() -> Path:
    """Where this installation keeps its own things: beside the checkout, or WIDEBEND_HOME."""
    return Path(os.environ.get("WIDEBEND_HOME") or Path(__file__).resolve().parents[3] / ".widebend")


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


def start(options: argparse.Namespace) -> int:
    """Start everything and serve until stopped."""
    begun = time.monotonic()
    held = Serving.held_by_us(home())
    while held is None and is_a_corpse(home()):
        time.sleep(0.2)
        held = Serving.held_by_us(home())
    if held is None:  # before anything is touched: of two starts at once the second leaves the first one's things alone
        print(f"already serving at {serving_address(home())} (./widebend stop ends it)")
        return 0
    log = log_to_file(home() / "logs")
    with ThreadPoolExecutor(1) as beside:  # the database starts while the program loads and warms its kernels
        starting = beside.submit(database_url)
        from ..web import create_app, warm_up
        from .serve import serve

        user = plain_user()
        tools = MeasuringTools(user)
        lan = joined(home()) if options.lan else None
        warm_up()
        url, cluster = starting.result()
    if user:
        tls = [lan.certificate.parent] if lan else []
        hand_over(user, log.parent, Path(os.environ.get("NUMBA_CACHE_DIR") or home() / "kernels"), *tls)
    elif os.geteuid() == 0:
        print("serving as root, since no other user can read this folder: better started by an ordinary user")
    worker, watch, daily = None, None, None
    try:
        brought_up(url, home() / "backups", cluster)
        _begin_books(url, empty=options.empty)
        worker, watch = Worker(url, user), Watch(cluster) if cluster else None
        daily = Daily(url, home() / "backups", cluster)
        port = free_port(options.port)
        if port != options.port:
            print(f"port {options.port} is taken: using {port}")
        held.say(port)
        at = f"https://{lan.address}:{port}/" if lan else ""
        app = create_app(url, secret=_secret(), tools_at=tools.tools(), log_at=str(log), join_at=at,
                         names=lan.names if lan else ())  # fmt: skip
        here = at or f"http://127.0.0.1:{port}/"

        def ready() -> None:
            print(f"Wide Bend is ready at {here}  ({time.monotonic() - begun:.1f} s; Ctrl-C stops it)")
            if lan:
                print("the certificate is this machine's own: each tablet asks once whether to trust it")
            print(f"what goes wrong is written to {log}")
            sys.stdout.flush()

        serve(app, port, ready, user.pw_name if user else None, lan)
        print("stopped")
    finally:
        tools.stop()
        if daily:
            daily.stop()
        if worker:
            worker.stop()
        if watch:
            watch.stop()
        if cluster:
            cluster.stop()
        held.end()
    return 0


def work(_options: argparse.Namespace) -> int:
    """Share the long work of a shop: do what is on the queue of WIDEBEND_DATABASE_URL, or of this checkout."""
    url, cluster = database_url()
    brought_up(url, home() / "backups", cluster)
    os.environ["WIDEBEND_DATABASE_URL"] = url
    os.execv(sys.executable, [sys.executable, "-m", "widebend.work"])  # noqa: S606 - our own module


def _begin_books(url: str, *, empty: bool) -> None:
    """Books that hold nothing yet are begun: with the demo shop, or with a bare one."""
    from ..demo import fill
    from ..store.jobs import is_demo, open_shop
    from ..store.people import first_owner

    database = Database(url, most=1)
    database.open()
    try:
        with database.transaction() as connection:
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
    import psycopg

    url, cluster = database_url()
    try:
        with psycopg.connect(url) as connection:
            if not is_ours(connection):
                print("that database holds things that are not Wide Bend's: nothing was changed")
                return 1
        print(f"what was there is kept in {backup(url, home() / 'backups', cluster)}")
        with psycopg.connect(url) as connection:
            connection.execute("DROP SCHEMA public CASCADE")
            connection.execute("CREATE SCHEMA public")
        migrate(url)
        _begin_books(url, empty=False)
    finally:
        if cluster:
            cluster.stop()
    return 0


def _secret() -> str:
    """The key that signs sessions: made once, kept beside the data, readable by the owner only. One that was written
    half is made anew: every open page asks to be loaded again.
    """
    path = home() / "session.key"
    try:
        known = path.read_text().strip() if path.exists() else ""
    except OSError as exc:
        raise ServerTrouble(f"{path} cannot be read: {exc.strerror}. Take it away, and it is made anew") from exc
    if len(known) == 64:
        return known
    made = path.with_suffix(".new")
    made.touch(mode=0o600)
    made.write_text(secrets.token_hex(32))
    made.replace(path)
    return path.read_text().strip()


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
    home().mkdir(parents=True, exist_ok=True)
    signal.signal(signal.SIGTERM, signal.default_int_handler)  # told to end while it starts, it still cleans up
    try:
        return int(options.run(options))
    except (ServerTrouble, NewerBooksError) as exc:
        print(exc, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("stopped")
        return 130
    except Exception as exc:
        if not type(exc).__module__.startswith("psycopg"):
            raise
        print(f"the database cannot be used: {str(exc).splitlines()[0]}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main())
