"""`./widebend start`: everything begun in order, and ended in the other order however it ends."""

from __future__ import annotations

import argparse
import os
import signal
import time
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path

from .backups import Daily
from .books import begun, brought_up, is_demo_shop
from .database_watchdog import keep
from .lan import joined
from .logs import log_to_file
from .measuring_tools import MeasuringTools
from .place import database_url, home, session_key
from .plain_user import at_home_of, hand_over, plain_user
from .postgres import Cluster
from .serving import Serving, is_zombie, listening, serving_address
from .watch import Watch
from .worker import Worker


def start(options: argparse.Namespace) -> int:
    """Start everything and serve until stopped."""
    since = time.monotonic()
    held = _lock()
    if held is None:  # before anything is touched: of two starts at once the second leaves the first one's things alone
        print(f"already serving at {serving_address(home())} (./widebend stop ends it)")
        return 0
    with ExitStack() as undo:
        undo.callback(held.end)
        try:
            _serve(options, undo, held, since)
        finally:
            _undisturbed()
        print("stopped")
    return 0


def _lock() -> Serving | None:
    held = Serving.held_by_us(home())
    while held is None and is_zombie(home()):
        time.sleep(0.2)
        held = Serving.held_by_us(home())
    return held


def _serve(options: argparse.Namespace, undo: ExitStack, held: Serving, since: float) -> None:
    log = log_to_file(home() / "logs")
    loading = ThreadPoolExecutor(1)  # the database starts while the program loads and warms its kernels
    starting = loading.submit(database_url)
    undo.callback(_stop_database, starting)
    user = plain_user()
    if user:
        at_home_of(user)
    from ..web import create_app
    from .serve import serve, warm_once

    lan = joined(home()) if options.lan else None
    kernels = Path(os.environ.get("NUMBA_CACHE_DIR") or home() / "kernels")
    warm_once(kernels)
    url, cluster = starting.result()
    if user:
        tls = [lan.certificate.parent] if lan else []
        hand_over(user, log.parent, kernels, *tls)
    elif os.geteuid() == 0:
        print("serving as root, since no other user can read this folder: better started by an ordinary user")
    tools = MeasuringTools(user)  # as that user, who could not read the kernels before
    undo.callback(tools.stop)
    brought_up(url, home() / "backups", cluster)
    begun(url, empty=options.empty, kept=home() / "backups")
    for beside in (Worker(url, user), Watch(cluster) if cluster else None, Daily(url, home() / "backups", cluster)):
        if beside:
            undo.callback(beside.stop)
    gate = listening("0.0.0.0" if lan else "127.0.0.1", options.port)  # noqa: S104 - asked for by --lan
    port = gate.getsockname()[1]
    if port != options.port:
        print(f"port {options.port} is taken: using {port}")
    held.say(port)
    at = f"https://{lan.address}:{port}/" if lan else ""
    app = create_app(
        url, secret=session_key(), tools_at=tools.tools(), log_at=str(log), join_at=at, names=lan.names if lan else ()
    )
    here = at or f"http://127.0.0.1:{port}/"

    def ready(*, again: bool) -> None:
        if again:
            print(f"ready again at {here}", flush=True)
            return
        print(f"Wide Bend is ready at {here}  ({time.monotonic() - since:.1f} s; Ctrl-C stops it)")
        if lan:
            print("the certificate is this machine's own: each tablet asks once whether to trust it")
            if is_demo_shop(url):
                print("the demo's people sign in on this machine only: put the demo away, and tablets can sign in")
        print(f"what goes wrong is written to {log}", flush=True)

    run_as = user.pw_name if user else None
    keep(lambda again: serve(app, gate, lambda: ready(again=again), run_as, lan))


def _undisturbed() -> None:
    """Whoever presses Ctrl-C twice does not leave half of it running."""
    for word in (signal.SIGINT, signal.SIGTERM):
        signal.signal(word, signal.SIG_IGN)


def _stop_database(starting: Future[tuple[str, Cluster | None]]) -> None:
    """Stop our own database, also one that was only just starting."""
    if starting.exception() is None and (cluster := starting.result()[1]):
        cluster.stop()
