"""The launcher: compiled kernels are kept by what they were compiled from, older ones go; who serves, as whom."""

import os
import pwd
import signal
import sys
import time
from importlib.machinery import SourceFileLoader
from importlib.util import module_from_spec, spec_from_loader
from pathlib import Path
from types import ModuleType
from typing import get_args

import psycopg
import pytest

from widebend.core.errors import InputError
from widebend.instruments.taking import Instrument, Tool, take
from widebend.launch.books import brought_up
from widebend.launch.database_watchdog import keep
from widebend.launch.measuring_tools import MeasuringTools
from widebend.launch.place import home, session_key
from widebend.launch.plain_user import as_user, at_home_of, may_enter
from widebend.launch.postgres import Cluster, ServerTrouble
from widebend.launch.serving import listening
from widebend.launch.shop_role import see_to_role

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture
def launcher(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> ModuleType:
    """The launcher with a checkout of its own, in which one module has kernels and one has none."""
    loader = SourceFileLoader("launcher", str(ROOT / "widebend"))
    module = module_from_spec(spec_from_loader("launcher", loader))
    loader.exec_module(module)
    core = tmp_path / "src" / "widebend" / "core"
    core.mkdir(parents=True)
    (core / "hot.py").write_text("from numba import njit\n")
    (core / "plain.py").write_text("x = 1\n")
    monkeypatch.setattr(module, "ROOT", tmp_path)
    monkeypatch.setattr(module, "HOME", tmp_path / "home")
    return module


def test_kernels_stay_while_what_they_are_made_from_does(launcher: ModuleType) -> None:
    first = launcher.kernels()
    (launcher.ROOT / "src" / "widebend" / "core" / "plain.py").write_text("x = 2\n")
    assert launcher.kernels() == first
    assert first.is_dir()


def test_kernels_of_another_age_are_left_and_thrown_away(launcher: ModuleType) -> None:
    first = launcher.kernels()
    (first / "old.nbi").write_text("compiled")
    (launcher.ROOT / "src" / "widebend" / "core" / "hot.py").write_text("from numba import njit\n# changed\n")
    second = launcher.kernels()
    assert second != first
    assert not first.exists()


def test_a_system_without_our_python_is_no_hindrance(launcher: ModuleType, monkeypatch: pytest.MonkeyPatch) -> None:
    for other in ("/nowhere/python3", "/bin/false"):
        monkeypatch.setattr(launcher, "SYSTEM_PYTHON", other)
        assert launcher.quickest_python() == sys.executable
    monkeypatch.setattr(launcher, "SYSTEM_PYTHON", sys.executable)
    assert launcher.quickest_python() == sys.executable


def test_an_environment_that_says_where_is_obeyed(launcher: ModuleType, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("NUMBA_CACHE_DIR", "elsewhere")
    assert launcher.environment()["NUMBA_CACHE_DIR"] == "elsewhere"
    monkeypatch.delenv("NUMBA_CACHE_DIR")
    assert launcher.environment()["NUMBA_CACHE_DIR"] == str(launcher.kernels())


def test_the_program_works_as_no_superuser_and_takes_over_what_an_older_one_made(
    cluster: Cluster, database_url: str
) -> None:
    name = database_url.rsplit("/", 1)[1]
    with psycopg.connect(f"{cluster.server_url}/{name}", autocommit=True) as older:
        older.execute("ALTER TABLE jobs OWNER TO app")
        older.execute("ALTER TYPE procrastinate_job_status OWNER TO app")
        older.execute(f"ALTER DATABASE {name} OWNER TO app".encode())
    see_to_role(cluster.server_url, name, database_url.split(":")[2].split("@")[0])
    with psycopg.connect(database_url) as ours:
        assert ours.execute("SELECT rolsuper FROM pg_roles WHERE rolname = current_user").fetchone() == (False,)
        left = ours.execute("SELECT count(*) FROM pg_class WHERE relowner = 'app'::regrole AND relname = 'jobs'")
        assert left.fetchone() == (0,)
        ours.execute("ALTER TYPE procrastinate_job_status ADD VALUE IF NOT EXISTS 'other'")
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            ours.execute("COPY jobs TO '/tmp/jobs'")


def test_another_programs_database_is_left_alone(cluster: Cluster, tmp_path: Path) -> None:
    with psycopg.connect(f"{cluster.server_url}/postgres", autocommit=True) as admin:
        admin.execute("DROP DATABASE IF EXISTS others")
        admin.execute("CREATE DATABASE others OWNER shop")
    url = f"{cluster.url.rsplit('/', 1)[0]}/others"
    with psycopg.connect(url) as theirs:
        theirs.execute("CREATE TABLE invoices_of_others (total integer)")
    with pytest.raises(ServerTrouble, match="one of its own"):
        brought_up(url, tmp_path, None)
    with psycopg.connect(url) as theirs:
        tables = theirs.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'").fetchall()
    assert tables == [("invoices_of_others",)]


def test_who_cannot_reach_a_folder_does_not_serve_from_it(tmp_path: Path) -> None:
    nobody = pwd.getpwnam("nobody")
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    assert not may_enter(nobody, closed)
    assert may_enter(nobody, Path("/usr/lib"))
    assert as_user(None) == {}


def test_every_measuring_tool_has_a_stand_in_that_is_begun_again_where_it_was(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PYTHONPATH", str(ROOT / "src"))
    beside = MeasuringTools()
    try:
        tools = beside.tools()
        assert set(tools) == set(get_args(Instrument))
        assert 85 < _answered(tools["sound"]) < 97
        beside.process.kill()
        beside.process.wait()
        assert 85 < _answered(tools["sound"]) < 97
    finally:
        beside.stop()


def _answered(tool: Tool, most_s: float = 60.0) -> float:
    until = time.monotonic() + most_s
    while True:
        try:
            return take(tool, "sound").value
        except InputError:
            assert time.monotonic() < until
            time.sleep(0.2)


def test_who_serves_looks_for_settings_in_a_home_of_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    """A library that cannot enter root's home fails at its first use."""
    monkeypatch.setenv("HOME", "/root")
    monkeypatch.setenv("XDG_CONFIG_HOME", "/root/.config")
    nobody = pwd.getpwnam("nobody")
    at_home_of(nobody)
    assert os.environ["HOME"] == nobody.pw_dir
    assert "XDG_CONFIG_HOME" not in os.environ


def test_secrets_are_for_their_owner_only(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, cluster: Cluster) -> None:
    monkeypatch.setenv("WIDEBEND_HOME", str(tmp_path / "books"))
    key = session_key()
    assert len(key) == 64
    assert session_key() == key, "made once"
    secrets = [home() / "session.key", cluster.folder / "password", cluster.folder / "shop-password"]
    assert [oct(secret.stat().st_mode)[-3:] for secret in secrets] == ["600"] * 3
    (home() / "session.key").write_text(key[:20])
    assert len(session_key()) == 64, "one that was written half is made again"


def test_where_nothing_can_be_kept_it_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("WIDEBEND_HOME", "/proc/none/books")
    with pytest.raises(ServerTrouble, match="WIDEBEND_HOME=/another/folder"):
        home()


def test_a_server_that_dies_is_forked_again_behind_the_same_port(tmp_path: Path) -> None:
    gate = listening("127.0.0.1", 23_900)
    lives = tmp_path / "lives"

    def serve(again: bool) -> None:
        with lives.open("a") as told:
            told.write(f"{again} {gate.getsockname()[1]} {os.getpid() != mother}\n")
        if not again:
            os.kill(os.getpid(), signal.SIGKILL)

    mother, port = os.getpid(), gate.getsockname()[1]
    keep(serve)
    gate.close()
    assert lives.read_text().splitlines() == [f"False {port} True", f"True {port} True"]


def test_a_server_that_dies_at_once_each_time_is_given_up() -> None:
    def serve(_again: bool) -> None:
        os._exit(3)

    with pytest.raises(ServerTrouble, match="as soon as it was started"):
        keep(serve)
