"""Imports point down, and the docs keep their promises."""

import ast
import json
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "widebend"
# each room may import only these rooms of ours (and itself)
MAY = {
    "core": set(),
    "formats": {"core"},
    "store": {"core", "formats"},
    "instruments": {"core"},
    "demo": {"core", "store"},
    "work": {"core", "formats", "store"},
    "web": {"core", "formats", "store", "instruments", "demo", "work"},
    "launch": {"core", "formats", "store", "instruments", "demo", "web", "work"},
}
FORBIDDEN_IN_CORE = {
    "flask",
    "psycopg",
    "aiosql",
    "reportlab",
    "socket",
    "os",
    "time",
    "datetime",
    "pathlib",
    "subprocess",
}


def _imports(path: Path) -> set[str]:
    """Absolute names of what a file imports, relative imports resolved."""
    package = ["widebend", *path.relative_to(SOURCE).parts[:-1]]
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else []
            module = ".".join([*base, *(node.module or "").split(".")]).strip(".")
            found |= {module} | {f"{module}.{alias.name}" for alias in node.names}
    return found


@pytest.mark.parametrize("room", MAY)
def test_imports_point_down(room: str) -> None:
    for path in (SOURCE / room).rglob("*.py"):
        ours = {name.split(".")[1] for name in _imports(path) if name.startswith("widebend.")}
        assert ours <= MAY[room] | {room}, f"{path.name} imports {ours - MAY[room] - {room}}"


def test_core_knows_no_web_sql_files_or_clock() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        assert not {name.split(".")[0] for name in _imports(path)} & FORBIDDEN_IN_CORE, path.name


def test_every_room_says_its_rule() -> None:
    for room in MAY:
        assert "ay import" in (SOURCE / room / "__init__.py").read_text(), room


def test_published_schema_is_the_records() -> None:
    from widebend.formats.design_json import schema

    published = json.loads((ROOT / "docs/formats/widebend-design.schema.json").read_text())
    assert published == json.loads(json.dumps(schema()))


def test_every_command_is_in_the_readme() -> None:
    readme = (ROOT / "README.md").read_text()
    for command in (
        "start",
        "stop",
        "test",
        "bench",
        "assets",
        "reset-demo",
        "check",
        "close",
        "route",
        "cut",
        "convert",
    ):
        assert f"./widebend {command}" in readme, command


def test_every_rule_has_its_source() -> None:
    from widebend.core.records import Rules

    sources = (ROOT / "docs/sources.md").read_text()
    for name in Rules.model_fields:
        assert name in sources, name


def test_every_finding_code_is_documented() -> None:
    from widebend.core.review.findings import RANK

    text = (ROOT / "docs/architecture.md").read_text()
    for code in [*RANK, "no-start", "no-aim", "no-low-line", "pending"]:
        assert f"`{code}`" in text, code


def test_pictures_are_linked() -> None:
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs/screenshots").glob("*.png"))
    assert pictures
    assert all(picture.name in readme for picture in pictures)


def test_no_inline_script_or_style() -> None:
    for path in (SOURCE / "web/templates").glob("*.html"):
        text = path.read_text()
        assert not re.search(r"<script(?![^>]*src=)|<style|\sstyle=|\son[a-z]+=", text), path.name
        assert text.count("\n") < 100, f"{path.name} is long: split it"
