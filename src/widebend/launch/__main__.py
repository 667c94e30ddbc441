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

from ..store.database import Database, migrate
from .measuring_tools import MeasuringTools
from .postgres import Cluster, ServerTrouble, free_port, reachable_by_server
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
    if _running_pid():
        print(f"already serving at http://127.0.0.1:{_port_file().read_text().strip()}/ (./widebend stop ends it)")
        return 0
    with ThreadPoolExecutor(1) as beside:  # the database starts while the program loads and warms its kernels
        starting = beside.submit(database_url)
        from ..web import create_app, warm_up
        from .serve import serve

        tools = MeasuringTools()

        warm_up()
        url, cluster = starting.result()
    worker = None
    try:
        migrate(url)
        _fill_demo(url)
        worker = Worker(url)
        port = free_port(options.port)
        if port != options.port:
            print(f"port {options.port} is taken: using {port}")
        _port_file().write_text(f"{port}\n")
        app = create_app(url, secret=_secret(), tools_at=tools.addresses())
        print(f"Wide Bend is ready at http://127.0.0.1:{port}/  ({time.monotonic() - begun:.1f} s; Ctrl-C stops it)")
        sys.stdout.flush()
        serve(app, port, str(_pid_file()))
        print("stopped")
    finally:
        tools.stop()
        if worker:
            worker.stop()
        if cluster:
            cluster.stop()
    return 0


def work(_options: argparse.Namespace) -> int:
    """Share the long work of a shop: do what is on the queue of WIDEBEND_DATABASE_URL, or of this checkout."""
    url, _ = database_url()
    migrate(url)
    os.environ["WIDEBEND_DATABASE_URL"] = url
    os.execv(sys.executable, [sys.executable, "-m", "widebend.work"])  # noqa: S606 - our own module


def _fill_demo(url: str) -> None:
    from ..demo import fill

    database = Database(url, most=1)
    database.open()
    try:
        with database.transaction() as connection:
            if fill(connection):
                print("filled in the demo shop")
    finally:
        database.close()


def stop(_options: argparse.Namespace) -> int:
    """Stop a server that runs from this checkout."""
    pid = _running_pid()
    if not pid:
        print("nothing is running")
        if not os.environ.get("WIDEBEND_DATABASE_URL"):
            Cluster(cluster_folder()).stop()
        return 0
    os.kill(pid, signal.SIGTERM)
    for _ in range(200):
        if not _running_pid():
            print("stopped")
            return 0
        time.sleep(0.1)
    print("still stopping; see again in a moment")
    return 1


def reset_demo(options: argparse.Namespace) -> int:
    """Throw everything away and fill in the demo shop again, after asking."""
    if not options.yes:
        answer = input("This deletes every customer, job, survey and design kept here. Type “delete” to go on: ")
        if answer.strip().strip("“”\"'") != "delete":
            print("nothing was changed")
            return 1
    import psycopg

    was_running = _running_pid() is not None
    url, cluster = database_url()
    try:
        with psycopg.connect(url) as connection:
            connection.execute("DROP SCHEMA public CASCADE")
            connection.execute("CREATE SCHEMA public")
        migrate(url)
        _fill_demo(url)
    finally:
        if cluster and not was_running:
            cluster.stop()
    return 0


def _pid_file() -> Path:
    return home() / "serving.pid"


def _port_file() -> Path:
    return home() / "serving.port"


def _running_pid() -> int | None:
    """The pid of our server when it lives; a stale file is not believed."""
    try:
        pid = int(_pid_file().read_text())
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError):
        return None
    return pid if b"widebend" in command else None


def _secret() -> str:
    """The key that signs sessions: made once, kept beside the data, readable by the owner only."""
    path = home() / "session.key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32))
    return path.read_text().strip()


def main() -> int:
    """Run one of the commands."""
    parser = argparse.ArgumentParser(prog="./widebend")
    commands = parser.add_subparsers(required=True)
    begin = commands.add_parser("start", help=start.__doc__)
    begin.add_argument("--port", type=int, default=int(os.environ.get("WIDEBEND_PORT", PORT)))
    begin.set_defaults(run=start)
    commands.add_parser("work", help=work.__doc__).set_defaults(run=work)
    commands.add_parser("stop", help=stop.__doc__).set_defaults(run=stop)
    reset = commands.add_parser("reset-demo", help=reset_demo.__doc__)
    reset.add_argument("--yes", action="store_true", help="do not ask")
    reset.set_defaults(run=reset_demo)
    options = parser.parse_args()
    home().mkdir(parents=True, exist_ok=True)
    try:
        return int(options.run(options))
    except ServerTrouble as exc:
        print(exc, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main())
