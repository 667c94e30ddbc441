"""A PostgreSQL cluster of our own around Debian's server: made, started on loopback, stopped. Never the system's."""

from __future__ import annotations

import errno
import grp
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from .shop_role import ROLE, see_to_role

OS_USER = "postgres"  # initdb refuses root: the server then runs as Debian's own user
DATABASE = "widebend"
FULL = os.strerror(errno.ENOSPC)
FAST_TESTS = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")


class ServerTrouble(Exception):
    """The database server cannot be made or started; the message says what to do."""


def find_binaries() -> Path | None:
    """The folder with initdb and pg_ctl, newest version first; None when PostgreSQL is not installed."""
    folders = sorted(Path("/usr/lib/postgresql").glob("*/bin"), key=lambda p: -int(p.parent.name))
    folders += [Path(p).parent for p in [shutil.which("initdb")] if p]
    return next((f for f in folders if (f / "initdb").exists() and (f / "postgres").exists()), None)


def free_port(preferred: int, tries: int = 50) -> int:
    """`preferred`, or the next port on loopback that nothing listens on."""
    for port in range(preferred, preferred + tries):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise ServerTrouble(f"no free port from {preferred} to {preferred + tries - 1}")


def reachable_by_server(folder: Path) -> bool:
    """Whether the server's OS user could enter a folder to be made here (as root it runs as another user)."""
    if os.geteuid() != 0:
        return True
    user = pwd.getpwnam(OS_USER)
    groups = {user.pw_gid, *(g.gr_gid for g in grp.getgrall() if OS_USER in g.gr_mem)}
    for parent in [p for p in (folder, *folder.parents) if p.exists()]:
        mode = parent.stat()
        shift = 6 if mode.st_uid == user.pw_uid else 3 if mode.st_gid in groups else 0
        if not mode.st_mode >> shift & 1:
            return False
    return True


@dataclass
class Cluster:
    """One cluster in `folder`: data, socket and password in it."""

    folder: Path
    preferred_port: int = 54_860
    settings: Sequence[str] = ()

    @property
    def data(self) -> Path:
        return self.folder / "data"

    @property
    def url(self) -> str:
        """Where the application connects: loopback, as the shop's own role, which is no superuser."""
        return f"postgresql://{ROLE}:{self._password('shop-password')}@{self._host()}/{DATABASE}"

    @property
    def server_url(self) -> str:
        """The superuser's address, up to the name of a database."""
        return f"postgresql://app:{self._password('password')}@{self._host()}"

    def _host(self) -> str:
        return f"127.0.0.1:{(self.folder / 'port').read_text().strip()}"

    def _password(self, name: str) -> str:
        """A password of ours, made at the first asking, readable by its owner only."""
        path = self.folder / name
        if not path.exists():
            path.touch(mode=0o600)
            path.write_text(secrets.token_urlsafe(24) + "\n")
        return path.read_text().strip()

    def _run(self, *command: str, timeout: float = 60.0) -> subprocess.CompletedProcess[str]:
        binaries = find_binaries()
        if binaries is None:
            raise ServerTrouble("PostgreSQL is not installed: apt-get install postgresql")
        full = [str(binaries / command[0]), *command[1:]]
        if os.geteuid() == 0:
            switch = ["setpriv", f"--reuid={OS_USER}", f"--regid={OS_USER}", "--init-groups", "--reset-env"]
            full = [*switch, *full]
        # output to a file: a server that outlives pg_ctl would keep a pipe open
        log = self.folder / "command.log"
        with log.open("w") as out:
            done = subprocess.run(full, stdout=out, stderr=subprocess.STDOUT, timeout=timeout, cwd="/", check=False)  # noqa: S603
        return subprocess.CompletedProcess(full, done.returncode, log.read_text(errors="replace"), "")

    def make(self) -> None:
        """Make the cluster when it is not there yet. Raises ServerTrouble."""
        if (self.data / "PG_VERSION").exists():
            return
        self.folder.mkdir(parents=True, exist_ok=True)
        self.data.mkdir(mode=0o700, exist_ok=True)
        self._password("password")
        self._give_to_server()
        done = self._run(
            "initdb",
            "-D",
            str(self.data),
            "-U",
            "app",
            "--auth-local=scram-sha-256",
            "--auth-host=scram-sha-256",
            f"--pwfile={self.folder / 'password'}",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
            *(["--no-sync"] if "fsync=off" in self.settings else []),
        )
        if done.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            raise ServerTrouble(f"the database folder cannot be made in {self.folder}:\n{done.stdout[-1500:]}")

    def _give_to_server(self) -> None:
        if os.geteuid() == 0:
            user = pwd.getpwnam(OS_USER)
            for path in (self.folder, self.data, self.folder / "password"):
                os.chown(path, user.pw_uid, user.pw_gid)

    def running(self) -> bool:
        """Whether the server of this folder lives: by the process itself, never by what a file says of one."""
        return self._postmaster() is not None

    def _postmaster(self) -> int | None:
        """The living server's pid: what its file says where that is true, else any that works in our data folder."""
        try:
            said = [int((self.data / "postmaster.pid").read_text().split("\n", 1)[0])]
        except (OSError, ValueError):
            said = []
        others = (int(p.name) for p in Path("/proc").iterdir() if p.name.isdecimal())
        return next((pid for pid in (*said, *others) if self._is_ours(pid)), None)

    def _is_ours(self, pid: int) -> bool:
        """Whether a process is the mother of a server in our data folder, and no corpse."""
        try:
            state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
            here = os.readlink(f"/proc/{pid}/cwd") == str(self.data.resolve())
            words = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
        except (OSError, IndexError):
            return False
        return state not in "ZX" and here and words[0].endswith(b"postgres") and b"-D" in words

    def start(self) -> None:
        """Start the server on loopback and see to its database. Raises ServerTrouble."""
        self.make()
        if not self.running():
            # it names whatever has that number now: the server itself would believe it and refuse to start
            (self.data / "postmaster.pid").unlink(missing_ok=True)
            port = free_port(self._last_port())
            (self.folder / "port").write_text(f"{port}\n")
            # on loopback only, without a socket file: its folder's name may be too long for one, or hold a space
            options = f"-c listen_addresses=127.0.0.1 -p {port} -c unix_socket_directories="
            options += "".join(f" -c {s}" for s in self.settings)
            log = self.folder / "server.log"
            done = self._run("pg_ctl", "-D", str(self.data), "-w", "-t", "30", "-l", str(log), "-o", options, "start")
            if done.returncode:
                raise ServerTrouble(f"the database server does not start: {self._why_not(done.stdout)}")
        see_to_role(self.server_url, DATABASE, self._password("shop-password"))

    def _why_not(self, said: str) -> str:
        """Why the server did not start, by the last it wrote."""
        log = self.folder / "server.log"
        lines = log.read_text(errors="replace").splitlines()[-20:] if log.exists() else []
        told = [line for line in lines if "FATAL" in line or "PANIC" in line][-1:] or [said[-500:], *lines]
        full = f"\nThe disk that holds {self.folder} is full: make room there." if FULL in "".join(told) else ""
        return "\n".join(told) + full

    def _last_port(self) -> int:
        try:
            return int((self.folder / "port").read_text())
        except (OSError, ValueError):
            return self.preferred_port

    def stop(self) -> None:
        """Stop the server, letting it finish what it writes."""
        pid = self._postmaster()
        if pid is None:
            return
        os.kill(pid, signal.SIGINT)  # its word for "fast": open connections are ended, what is committed is written
        for _ in range(300):
            if not self._is_ours(pid):
                return
            time.sleep(0.1)
