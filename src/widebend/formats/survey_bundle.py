"""A whole survey to carry away: JSON alone, or a zip of the JSON with its meshes and pictures."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field

from ..core.errors import DesignError, InputError
from ..core.geometry import MOST_TRIANGLES, as_kept, corners_of, name_of
from ..core.records import MeshShape, Survey
from .design_json import json_object, survey_from
from .photo_files import is_kept_photo

FORMAT, VERSION = "widebend-survey", 1
MOST_JSON_BYTES = 2_000_000
MOST_UNPACKED_BYTES = 400_000_000
MOST_FILES = 900
END_BYTES = 65_557  # a zip's last record and the longest comment behind it
BYTES_A_TRIANGLE = 36


@dataclass(frozen=True)
class Bundle:
    """A survey and the files it names, by hash."""

    survey: Survey
    meshes: dict[str, bytes] = field(default_factory=dict)
    photos: dict[str, bytes] = field(default_factory=dict)

    @property
    def lacking(self) -> list[str]:
        """Hashes of what the survey names and the bundle does not hold."""
        return [h for h in mesh_names(self.survey) if h not in self.meshes] + [
            p.sha256 for p in self.survey.photos if p.sha256 not in self.photos
        ]


def mesh_names(survey: Survey) -> list[str]:
    """The meshes a survey's things are made of."""
    return sorted({t.shape.sha256 for t in survey.things if isinstance(t.shape, MeshShape)})


def write_survey(survey: Survey) -> bytes:
    """A survey as JSON: stable order, two spaces."""
    document = {"format": FORMAT, "version": VERSION, **survey.model_dump(mode="json", exclude_none=True)}
    return (json.dumps(document, indent=2, ensure_ascii=False) + "\n").encode()


def write_bundle(survey: Survey, meshes: Mapping[str, bytes], photos: Mapping[str, bytes]) -> bytes:
    """A zip of the survey with the meshes and pictures that it names and are at hand."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("survey.json", write_survey(survey))
        for name, data in meshes.items():
            packed.writestr(f"meshes/{name}.triangles", data)
        for name, data in photos.items():
            packed.writestr(zipfile.ZipInfo(f"photos/{name}.jpg"), data)
    return out.getvalue()


def read_survey(data: bytes) -> Bundle:
    """A survey from JSON or a bundle. Raises DesignError with the place and the reason."""
    if data[:2] == b"PK":
        return _unpacked(data)
    return Bundle(_survey(data))


def _survey(data: bytes) -> Survey:
    document = json_object(data, MOST_JSON_BYTES, "survey")
    if document.pop("format", None) != FORMAT:
        raise DesignError("format", f"this is not a survey of Wide Bend: its format should be “{FORMAT}”")
    if document.pop("version", None) != VERSION:
        raise DesignError("version", f"this program reads surveys of version {VERSION}")
    return survey_from(document)


@contextmanager
def opened_zip(data: bytes) -> Iterator[zipfile.ZipFile]:
    """A zip from outside, looked over before anything of it is unpacked. Raises DesignError."""
    if (count := _said_entries(data)) > MOST_FILES:  # before their names are read, which takes a while
        raise DesignError("", f"the zip holds {count} files; a survey has at most {MOST_FILES}")
    try:
        packed = zipfile.ZipFile(io.BytesIO(data))
        entries = packed.infolist()
    except (zipfile.BadZipFile, ValueError) as exc:
        raise DesignError("", "the zip is damaged or cut off") from exc
    with packed:
        if len(entries) > MOST_FILES:
            raise DesignError("", f"the zip holds {len(entries)} files; a survey has at most {MOST_FILES}")
        total = sum(e.file_size for e in entries)
        if total > MOST_UNPACKED_BYTES:
            raise DesignError(
                "", f"the zip unpacks to {total / 1e6:.0f} MB; at most {MOST_UNPACKED_BYTES / 1e6:.0f} MB"
            )
        yield packed


def _said_entries(data: bytes) -> int:
    """How many files a zip's own end says that it holds; 0 where it has none. More than it can say is its most."""
    at = data.rfind(b"PK\x05\x06", -END_BYTES)
    return int.from_bytes(data[at + 10 : at + 12], "little") if at >= 0 else 0


def _unpacked(data: bytes) -> Bundle:
    with opened_zip(data) as packed:
        survey = _survey(entry(packed, "survey.json", MOST_JSON_BYTES))
        names = set(packed.namelist())
        meshes, photos = {}, {}
        for name in mesh_names(survey):
            if f"meshes/{name}.triangles" in names:
                meshes[name] = _mesh(entry(packed, f"meshes/{name}.triangles", MOST_TRIANGLES * BYTES_A_TRIANGLE), name)
        for photo in survey.photos:
            place = f"photos/{photo.sha256}.jpg"
            if place in names:
                photos[photo.sha256] = _photo(entry(packed, place, 15_000_000), photo.sha256)
    return Bundle(survey, meshes, photos)


def entry(packed: zipfile.ZipFile, name: str, most: int) -> bytes:
    """One file of a zip, never more than `most` bytes of it, whatever its header claims."""
    try:
        with packed.open(name) as entry:
            data = entry.read(most + 1)
    except KeyError as exc:
        raise DesignError(name, "the zip has no such file: it is not such a bundle") from exc
    except (zipfile.BadZipFile, OSError, RuntimeError, NotImplementedError, EOFError, ValueError) as exc:
        raise DesignError(name, "this part of the zip is damaged or locked") from exc
    if len(data) > most:
        raise DesignError(name, f"this unpacks to more than {most / 1e6:.0f} MB")
    return data


def _mesh(data: bytes, name: str) -> bytes:
    if name_of(data) != name or len(data) % BYTES_A_TRIANGLE:
        raise DesignError(f"meshes/{name[:12]}…", "these are not the triangles that the survey names")
    try:
        as_kept(corners_of(data))  # the same door as a scan that is brought in
    except InputError as exc:
        raise DesignError(f"meshes/{name[:12]}…", str(exc)) from exc
    return data


def _photo(data: bytes, name: str) -> bytes:
    if name_of(data) != name or not is_kept_photo(data):
        raise DesignError(f"photos/{name[:12]}…", "this is not the picture that the survey names")
    return data
