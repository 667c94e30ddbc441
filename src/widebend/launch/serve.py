"""The production server: gunicorn behind a port that its keeper holds; kernels are loaded while it answers."""

from __future__ import annotations

import fcntl
import gc
import os
import pwd
import socket
import struct
import tempfile
import threading
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import IO, Any

from flask import Flask
from gunicorn.app.base import BaseApplication
from gunicorn.workers.gthread import ThreadWorker

from ..web import compile_all, warm_up
from .database_watchdog import killed_first
from .lan import Lan

REST_OF_REQUEST_S, ORPHAN_S = 3, 1.5
# of fifty people at twenty jobs on two cores, one change in twenty took over 250 ms with two processes, 180 with four
PROCESSES = 4
LOOKED_THROUGH_AT = 20_000  # new objects: a page makes tens of thousands, nearly all of which go by themselves


class Worker(ThreadWorker):  # type: ignore[misc]
    """A thread waits so long for the rest of a request and no longer: one that is sent half and left lying holds nobody
    up for good.
    """

    def handle(self, conn: Any) -> Any:
        conn.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", REST_OF_REQUEST_S, 0))
        return super().handle(conn)

    def is_parent_alive(self) -> bool:
        """Whether the server that forked us lives. Where it was killed what is under way has a moment to end, and what
        waits unread goes to the next server: not both as long as the slowest.
        """
        if super().is_parent_alive():
            return True
        end = threading.Timer(ORPHAN_S, os._exit, (0,))
        end.daemon = True
        end.start()
        return False

    def finish_request(self, conn: Any, fs: Any) -> None:
        """Beside the loop that hands out requests: a client that neither reads nor goes would hold it for seconds."""
        if fs.cancelled() or fs.exception() is not None or fs.result() is not False:
            super().finish_request(conn, fs)
            return
        self.nr_conns -= 1
        threading.Thread(target=conn.close, kwargs={"graceful": True}, daemon=True).start()


class Server(BaseApplication):  # type: ignore[misc]
    """gunicorn with a few processes of a few threads each: one that solves, or is held up with half a request, leaves
    the others; the kernels release the lock, a shop has five people.
    """

    def __init__(
        self, app: Flask, gate: socket.socket, user: str | None, lan: Lan | None, ready: Callable[[], None]
    ) -> None:
        self.app = app
        self.turn = tempfile.TemporaryFile()  # noqa: SIM115 - a lock among the processes, open as long as they live
        self.options = {
            "bind": f"fd://{gate.fileno()}",
            "workers": PROCESSES,
            "threads": 12,
            "worker_class": Worker,
            "preload_app": True,
            "control_socket_disable": True,
            "loglevel": "warning",
            "graceful_timeout": 5,
            "timeout": 60,
            "when_ready": lambda _: ready(),
            "post_worker_init": _begin,
        }
        if lan:
            self.options |= {"certfile": str(lan.certificate), "keyfile": str(lan.key)}
        if user:
            self.options |= {"user": user, "group": user_group(user)}
        super().__init__()

    def load_config(self) -> None:
        for key, value in self.options.items():
            if key in self.cfg.settings:
                self.cfg.set(key, value)

    def load(self) -> Flask:
        return self.app


def _begin(worker: Any) -> None:
    """Connections cannot be shared across a fork: the pool opens in the process that uses it. Kernels are loaded beside
    the first requests: a shop whose program was killed is not kept waiting for them.
    """
    killed_first(os.getpid())
    worker.app.callable.extensions["database"].open()
    threading.Thread(target=_made_ready, args=(worker.app.turn,), daemon=True).start()


def _made_ready(turn: IO[bytes]) -> None:
    """Load the kernels, one process after another: all at once they keep the first page waiting. Then what was
    loaded is never looked through for what can be let go: that held up one change in thirty by as long again.
    """
    fcntl.lockf(turn, fcntl.LOCK_EX)
    try:
        warm_up()
    finally:
        fcntl.lockf(turn, fcntl.LOCK_UN)
    gc.collect()
    gc.freeze()
    gc.set_threshold(LOOKED_THROUGH_AT)


def warm_once(kernels: Path) -> None:
    """Compile the kernels where they were never compiled, before anybody waits for a page."""
    done = kernels / "compiled"
    if not done.exists():
        print("compiling what measures and searches: some minutes, once for this version", flush=True)
        compile_all()
        with suppress(OSError):  # where nothing can be kept it is done at each start
            kernels.mkdir(parents=True, exist_ok=True)
            done.touch()


def user_group(user: str) -> int:
    """The group of a user."""
    return pwd.getpwnam(user).pw_gid


def serve(
    app: Flask, gate: socket.socket, ready: Callable[[], None], user: str | None = None, lan: Lan | None = None
) -> None:
    """Serve what comes through `gate` until stopped, the processes that answer as `user` where one is named, over TLS
    where `lan` is given; `ready` is called when it answers. Ends this process: see `database_watchdog`.
    """
    Server(app, gate, user, lan, ready).run()
