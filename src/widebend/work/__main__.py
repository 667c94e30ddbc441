"""The worker: does what is on the queue, one task after the other, and takes up what a dead worker left."""

from __future__ import annotations

import asyncio
import contextlib
import os
import sys
import threading

import psycopg
from procrastinate import App
from procrastinate.exceptions import ProcrastinateException
from procrastinate.jobs import DeleteJobCondition
from psycopg_pool import PoolTimeout

from ..store.database import Database
from .searches import QUEUE, queue_app, tidy

HEARTBEAT_S, STALE_S, LOOK_S = 2.0, 8.0, 2.0


async def work(url: str) -> None:
    """Work until told to stop."""
    database = Database(url, most=2)
    database.open()
    app = queue_app(url, database)
    async with app.open_async():
        rescue = asyncio.create_task(_rescue(app, database))
        try:
            await app.run_worker_async(
                queues=[QUEUE],
                concurrency=1,
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT_S,
                stalled_worker_timeout=STALE_S,
                shutdown_graceful_timeout=1.0,
                delete_jobs=DeleteJobCondition.ALWAYS,
            )
        finally:
            rescue.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await rescue


async def _rescue(app: App, database: Database) -> None:
    """Puts back on the queue what a worker left that no longer gives signs of life, and what fell off it.

    A database that is away for a while is no end of it: it looks again.
    """
    while True:
        try:
            for job in await app.job_manager.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=STALE_S):
                await app.job_manager.retry_job(job)
            await asyncio.to_thread(tidy, database)
        except (ProcrastinateException, psycopg.Error, PoolTimeout, OSError) as exc:
            print(f"could not look for lost searches, trying again: {exc}", file=sys.stderr, flush=True)
        await asyncio.sleep(LOOK_S)


def _exit_with_parent() -> None:
    """A worker that the program started ends with its standard input, so also when the program is killed."""
    while os.read(0, 1024):  # not sys.stdin: its lock, held here, would be fatal to an interpreter that is ending
        pass
    os._exit(0)


def main() -> int:
    """Work for the database that WIDEBEND_DATABASE_URL names."""
    url = os.environ.get("WIDEBEND_DATABASE_URL")
    if not url:
        print("say which database to work for: WIDEBEND_DATABASE_URL", file=sys.stderr)
        return 2
    if "--exit-with-parent" in sys.argv:
        threading.Thread(target=_exit_with_parent, daemon=True).start()
    print("working; Ctrl-C stops", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(work(url))
    return 0


if __name__ == "__main__":
    sys.exit(main())
