"""What each address reads, taken from the code of its view: the names of its fields, and the words it compares with."""

from __future__ import annotations

import ast
import inspect
import re
import sys
from dataclasses import dataclass

from flask import Flask
from werkzeug.routing import Rule

NUMBERS = {"length", "optional", "point", "angle", "clock", "number", "same"}
WORDS = {"get", "getlist", "choice", "given", "words"}
SOURCES = {"form", "args", "values", "files"}
WORD = re.compile(r"[a-z][a-z0-9_ :.-]{0,30}")


@dataclass(frozen=True)
class Address:
    """An address with its methods, and what the code of its view reads: fields of numbers, of words, of files."""

    rule: Rule
    methods: tuple[str, ...]
    numbers: tuple[str, ...]
    words: tuple[str, ...]
    files: tuple[str, ...]
    known: tuple[str, ...]  # words that stand in the code: what a choice may be


def addresses(app: Flask) -> list[Address]:
    """Every address of the program with what it reads."""
    read = {name: _read(name) for name in {view.__module__ for view in app.view_functions.values()}}
    found = []
    for rule in sorted(app.url_map.iter_rules(), key=str):
        methods = tuple(sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}))
        found.append(Address(rule, methods, *read[app.view_functions[rule.endpoint].__module__]))
    return found


def _read(module: str) -> tuple[tuple[str, ...], ...]:
    """Fields of numbers, of words, of files, and all words of a module's code."""
    numbers, words, files, known = set[str](), set[str](), set[str](), set[str]()
    for node in ast.walk(ast.parse(inspect.getsource(sys.modules[module]))):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and WORD.fullmatch(node.value):
            known.add(node.value)
        name, asked = _asked(node)
        if name in NUMBERS:
            numbers |= asked
        elif name == "files":
            files |= asked
        elif name in WORDS | SOURCES:
            words |= asked
    return tuple(tuple(sorted(some)) for some in (numbers, words - numbers, files, known))


def _asked(node: ast.AST) -> tuple[str, set[str]]:
    """Which reader a piece of code calls, with which names: `reader.length("x")`, `request.form["x"]`."""
    if isinstance(node, ast.Subscript) and isinstance(node.value, ast.Attribute):
        return node.value.attr, _strings([node.slice])
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
        of = node.func.value
        source = of.attr if isinstance(of, ast.Attribute) else ""
        return ("files" if source == "files" else node.func.attr), _strings(node.args)
    return "", set()


def _strings(nodes: list[ast.expr]) -> set[str]:
    said = {n.value for n in nodes if isinstance(n, ast.Constant) and isinstance(n.value, str)}
    return {words for words in said if WORD.fullmatch(words)}
