"""Imports point down, and the docs keep their promises."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path

from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "widebend"
ROOMS = ("facts", "core", "formats", "store", "instruments", "demo", "work", "web", "launch")


def test_imports_point_down() -> None:
    """The contracts of pyproject.toml: rooms, packages of the trade, faces, and what the trade never knows."""
    done = subprocess.run(
        [Path(sys.executable).with_name("lint-imports"), "--no-cache"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )
    assert done.returncode == 0, done.stdout


def test_every_package_of_the_trade_has_a_face() -> None:
    for package in (SOURCE / "core").glob("*/__init__.py"):
        assert "__all__" in package.read_text(), package.parent.name


def test_pages_ask_the_store_in_words() -> None:
    for path in (SOURCE / "web").rglob("*.py"):
        assert "queries" not in path.read_text(), path.name


def test_every_room_says_its_rule() -> None:
    for room in ROOMS:
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


def test_every_library_stands_with_its_licence() -> None:
    told = dict(re.findall(r"^\| ([\w.-]+) \| ([^|]+) \|", (ROOT / "docs/dependencies.md").read_text(), re.M))
    locked = {
        name
        for lock in (ROOT / "requirements").glob("*.txt")
        for name in re.findall(r"^([\w.-]+)==", lock.read_text(), re.M)
    }
    assert locked
    assert locked <= told.keys()


def test_every_path_in_the_architecture_exists() -> None:
    """A path with a folder stands below one of the rooms' folders; a name alone is some file of the program."""
    text = (ROOT / "docs/architecture.md").read_text()
    below = [ROOT, SOURCE, SOURCE / "core", SOURCE / "web", SOURCE / "web/templates"]
    names = {path.name for path in [*SOURCE.rglob("*"), *ROOT.iterdir()]}
    for path in re.findall(r"`([\w./-]+\.(?:py|sql|html|js|css|md|toml|json))`", text):
        assert any((folder / path).exists() for folder in below) if "/" in path else path in names, path


def test_pictures_are_linked() -> None:
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs/screenshots").glob("*.png"))
    assert pictures
    assert all(picture.name in readme for picture in pictures)


def test_no_inline_script_or_style() -> None:
    for path in (SOURCE / "web/templates").rglob("*.html"):
        text = path.read_text()
        assert not re.search(r"<script(?![^>]*src=)|<style|\sstyle=|\son[a-z]+=", text), path.name
        assert text.count("\n") < 110, f"{path.name} is long: split it"
        assert max(map(len, text.split("\n"))) <= 200, f"{path.name} has a line nobody can read"


def test_every_sign_on_a_page_is_in_a_font_that_ships() -> None:
    """What no shipped font has is a box on a device whose own fonts lack it too."""
    shipped = set()
    for path in (SOURCE / "web" / "static" / "built").iterdir():
        if path.suffix in (".woff2", ".ttf"):
            shipped |= set(TTFont(path).getBestCmap())
    written = [p for kind in ("*.html", "*.py") for p in (SOURCE / "web").rglob(kind)]
    written += [*(SOURCE / "web" / "static").glob("*.js"), *(SOURCE / "core" / "wording").rglob("*.py")]
    lacking = {(sign, path.name) for path in written for sign in path.read_text() if ord(sign) not in shipped | {10}}
    assert not lacking
