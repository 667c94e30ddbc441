"""The launcher: compiled kernels are kept by what they were compiled from, and older ones go."""

from importlib.machinery import SourceFileLoader
from importlib.util import module_from_spec, spec_from_loader
from pathlib import Path
from types import ModuleType

import pytest

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


def test_an_environment_that_says_where_is_obeyed(launcher: ModuleType, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("NUMBA_CACHE_DIR", "elsewhere")
    assert launcher.environment()["NUMBA_CACHE_DIR"] == "elsewhere"
    monkeypatch.delenv("NUMBA_CACHE_DIR")
    assert launcher.environment()["NUMBA_CACHE_DIR"] == str(launcher.kernels())
