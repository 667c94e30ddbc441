"""The database beside the server: one that was killed is started again."""

from __future__ import annotations

import logging
import threading

from .postgres import Cluster

EVERY_S = 1.0


class Watch:
    """Looks every few seconds whether the cluster's server lives, and starts it again when it does not."""

    def __init__(self, cluster: Cluster) -> None:
        self.cluster = cluster
        self.stopping = threading.Event()
        self.thread = threading.Thread(target=self._keep, daemon=True)
        self.thread.start()

    def stop(self) -> None:
        """Look no more."""
        self.stopping.set()
        self.thread.join(EVERY_S + 40.0)

    def _keep(self) -> None:
        while not self.stopping.wait(EVERY_S):
            try:
                self._look()
            except Exception as exc:  # it may die again while it is begun: whatever that looks like, look once more
                logging.getLogger("widebend").error("the database does not start: %s", exc)

    def _look(self) -> None:
        if not self.cluster.running():
            logging.getLogger("widebend").warning("the database is gone: starting it again")
            self.cluster.start()
