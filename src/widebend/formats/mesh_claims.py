"""How many triangles a mesh file can unfold to, counted before any parser spends memory on it."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Literal

from ..core.errors import InputError

MOST_HEADER = 20_000  # bytes; scanners write a few hundred
SIZES = {
    "char": 1,
    "uchar": 1,
    "int8": 1,
    "uint8": 1,
    "short": 2,
    "ushort": 2,
    "int16": 2,
    "uint16": 2,
    "int": 4,
    "uint": 4,
    "int32": 4,
    "uint32": 4,
    "float": 4,
    "float32": 4,
    "double": 8,
    "float64": 8,
}


def obj_triangles(data: bytes) -> int:
    """Triangles of an OBJ: a face of n corners makes n - 2."""
    faces = re.findall(rb"^[ \t]*f[ \t]+(.*)$", data.replace(b"\\\r\n", b" ").replace(b"\\\n", b" "), re.MULTILINE)
    return sum(max(1, len(face.split()) - 2) for face in faces)


def stl_triangles(data: bytes) -> int:
    """Triangles of an STL, of figures or of text."""
    said = int.from_bytes(data[80:84], "little")
    if data[:5].lower() == b"solid" and len(data) != 84 + 50 * said:
        return data.lower().count(b"endfacet")
    return said


@dataclass
class Element:
    """One list of a PLY's header: its name, how many, and each property as (type of its count or "", type)."""

    name: str
    count: int
    properties: list[tuple[str, str]] = field(default_factory=list)


def ply_triangles(data: bytes, most: int) -> int:
    """Triangles of a PLY, by walking its faces; one that claims more than `most` faces is not walked. Raises
    InputError when its header is none.
    """
    end = data[:MOST_HEADER].find(b"end_header")
    if end < 0:
        raise InputError(f"as PLY its header should end within {MOST_HEADER:,} bytes, and does not: save it again")
    lines = [line.split() for line in data[:end].decode("latin-1").splitlines()]
    body = data[data.find(b"\n", end) + 1 :]
    elements = _elements(lines)
    claimed = next((e.count for e in elements if e.name == "face"), 0)
    if claimed > most or not claimed:
        return claimed
    form = next((words[1] for words in lines if words[:1] == ["format"] and len(words) > 1), "")
    if form == "ascii":
        return _in_text(body, elements)
    return _in_bytes(body, elements, "big" if "big" in form else "little")


def _elements(lines: list[list[str]]) -> list[Element]:
    found: list[Element] = []
    for words in lines:
        if words[:1] == ["element"] and len(words) == 3 and re.fullmatch(r"\d{1,12}", words[2]):
            found.append(Element(words[1], int(words[2])))
        elif words[:1] == ["property"] and found:
            kinds = words[2:4] if words[1:2] == ["list"] else ["", *words[1:2]]
            if len(kinds) != 2 or any(kind and kind not in SIZES for kind in kinds):
                raise InputError("as PLY its header names a property in a way no reader knows: save it again")
            found[-1].properties.append((kinds[0], kinds[1]))
    return found


def _in_text(body: bytes, elements: list[Element]) -> int:
    lines, at = body.split(b"\n"), 0
    for element in elements:
        if element.name == "face":
            return sum(max(1, len(line.split()) - 3) for line in lines[at : at + element.count])
        at += element.count
    return 0


def _in_bytes(body: bytes, elements: list[Element], order: Literal["big", "little"]) -> int:
    at = total = 0
    for element in elements:
        sizes = [(SIZES[count] if count else 0, SIZES[kind]) for count, kind in element.properties]
        if not any(of_count for of_count, _ in sizes):
            at += element.count * sum(size for _, size in sizes)
            continue
        for _ in range(element.count):
            if at >= len(body):
                break
            longest = 0  # whichever of its lists a parser takes for the corners
            for of_count, size in sizes:
                many = int.from_bytes(body[at : at + of_count], order) if of_count else 1
                longest = max(longest, many if of_count else 0)
                at += of_count + many * size
            total += max(1, longest - 2) if element.name == "face" else 0
        if element.name == "face":
            break
    return total
