"""How many triangles a file unfolds to is known before a parser spends memory on it; trimesh counts beside."""

from __future__ import annotations

import io

import numpy as np
import pytest
import trimesh

from widebend.core.errors import InputError
from widebend.core.geometry import MOST_TRIANGLES
from widebend.formats.mesh_claims import obj_triangles, ply_triangles, stl_triangles
from widebend.formats.mesh_files import read_mesh


@pytest.mark.parametrize("kind", ["ply", "ply text", "obj", "stl", "stl_ascii"])
def test_what_is_counted_is_what_a_library_finds(kind: str) -> None:
    ball = trimesh.creation.icosphere(subdivisions=2)
    more = {"encoding": "ascii"} if kind == "ply text" else {}
    data = ball.export(file_type=kind.split()[0], **more)
    data = data.encode() if isinstance(data, str) else data
    count = {"p": lambda d: ply_triangles(d, MOST_TRIANGLES), "o": obj_triangles, "s": stl_triangles}[kind[0]]
    assert count(data) == len(ball.faces)


def _many_cornered_ply(faces: int, corners: int, comments: str = "") -> bytes:
    head = (
        f"ply\nformat binary_little_endian 1.0\n{comments}element vertex 300\nproperty float x\nproperty float y\n"
        f"property float z\nelement face {faces}\nproperty uchar red\nproperty list uchar int vertex_indices\n"
        "property float worth\nend_header\n"
    )
    face = b"\x07" + bytes([corners]) + np.arange(corners, dtype="<i4").tobytes() + b"\0\0\0\0"
    return head.encode() + np.random.default_rng(1).random((300, 3)).astype("<f4").tobytes() + face * faces


def test_faces_of_many_corners_are_counted_as_the_triangles_they_make() -> None:
    few = _many_cornered_ply(40, 5)
    there = trimesh.load_mesh(io.BytesIO(few), file_type="ply", process=False)
    assert ply_triangles(few, MOST_TRIANGLES) == len(there.faces) == 120
    with pytest.raises(InputError, match="4,960,000 triangles; at most 500,000"):
        read_mesh(_many_cornered_ply(20_000, 250))
    ring = "".join(f"v {i} {i * i % 7} {i % 3}\n" for i in range(1, 1001))
    face = "f " + " ".join(str(i) for i in range(1, 1001)) + "\n"
    with pytest.raises(InputError, match=r"1,497,000 triangles"):
        read_mesh((ring + face.replace(" 500 ", " 500 \\\n") * 1500).encode())


def test_a_header_past_what_is_read_of_it_is_refused() -> None:
    with pytest.raises(InputError, match="header should end within"):
        read_mesh(_many_cornered_ply(40, 5, "comment and so on\n" * 2000))


def test_a_second_list_hides_no_corners() -> None:
    """A short list ahead of the long one: the longest counts, whichever a parser takes."""
    head = (
        "ply\nformat binary_little_endian 1.0\nelement face 100\nproperty list uchar uchar few\n"
        "property float worth\nproperty list uchar int vertex_indices\nend_header\n"
    )
    face = b"\x00" + b"\0\0\0\0" + bytes([200]) + np.arange(200, dtype="<i4").tobytes()
    assert ply_triangles(head.encode() + face * 100, MOST_TRIANGLES) == 100 * 198
