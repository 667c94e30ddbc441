"""The process above the server: it holds the port and the loaded program, and forks a new server when one dies.

The port is never let go meanwhile: who asks then waits for the next server, and is not refused.
"""

from __future__ import annotations

import logging
import os
import signal
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from .postgres import ServerTrouble

QUICK_S, MOST_QUICK = 5.0, 5  # one that dies so often so soon would die for ever
END_S = 8.0


def keep(serve: Callable[[bool], None]) -> None:
    """Have `serve` run in a process of its own until we are told to stop, again and again where that process dies;
    it is told whether it is one that came after. Raises ServerTrouble where it dies at once each time.
    """
    quick, again = 0, False
    while quick < MOST_QUICK:
        begun = time.monotonic()
        child, lifeline = _forked(serve, again)
        try:
            _, status = os.waitpid(child, 0)
        except KeyboardInterrupt:
            _end(child)
            return
        finally:
            os.close(lifeline)
        code = os.waitstatus_to_exitcode(status)
        if code == 0:
            return
        logging.getLogger("widebend").error("the server ended (%d): starting it again", code)
        again = True
        quick = quick + 1 if time.monotonic() - begun < QUICK_S else 0
    raise ServerTrouble(f"the server ended {MOST_QUICK} times as soon as it was started: the log says why")


def _forked(serve: Callable[[bool], None], again: bool) -> tuple[int, int]:
    """A process that serves, and the end of a pipe that keeps it alive: it ends when we do, however we do."""
    theirs, ours = os.pipe()
    sys.stdout.flush()  # what is still to be printed is printed once
    child = os.fork()
    if child:
        os.close(theirs)
        return child, ours
    os.close(ours)
    threading.Thread(target=_end_with, args=(theirs,), daemon=True).start()
    code = 1
    try:
        serve(again)
        code = 0
    except SystemExit as ended:
        code = ended.code if isinstance(ended.code, int) else 0
    except BaseException:
        logging.getLogger("widebend").exception("the server failed")
    finally:
        os._exit(code)  # what its mother cleans up is not cleaned up by the child


def _end_with(pipe: int) -> None:
    os.read(pipe, 1)
    os.kill(os.getpid(), signal.SIGQUIT)  # gunicorn's word for "now"


def _end(child: int) -> None:
    """Tell a server to end, and see that it does."""
    with suppress(ProcessLookupError):
        os.kill(child, signal.SIGTERM)
        for _ in range(int(END_S / 0.05)):
            if os.waitpid(child, os.WNOHANG)[0]:
                return
            time.sleep(0.05)
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)


def killed_first(pid: int) -> None:
    """Where memory runs out a process goes before its keeper and the database: it is begun again."""
    with suppress(OSError):  # no Linux
        Path(f"/proc/{pid}/oom_score_adj").write_text("500")


def after_people(pid: int) -> None:
    """A process that nobody waits for with a page open works with what those who do leave of the machine."""
    with suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, pid, 10)
