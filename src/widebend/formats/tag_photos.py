"""Photos of tags as phones make them: their pixels as they are, what the lens is, and nothing of who, where and
when.
"""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, UnidentifiedImageError
from PIL.ExifTags import IFD, Base

from ..core.errors import InputError

MOST_BYTES, MOST_PIXELS, LEAST_PX = 40_000_000, 64_000_000, 900
FULL_FRAME_MM = 36.0  # the longer side that "35 mm equivalent" speaks of
HEIC = (b"heic", b"heix", b"mif1", b"msf1", b"heim", b"avif")


@dataclass(frozen=True)
class TagPhoto:
    """A photo as it is kept: JPEG bytes without notes, their hash, its size [pixels] as the sensor has it, its focal
    length [pixels] where the phone says it, and a name for the lens that says nothing of its make.
    """

    jpeg: bytes
    sha256: str
    width: int
    height: int
    focal_px: float | None
    lens: str


def read_tag_photo(data: bytes) -> TagPhoto:
    """A photo made plain: a JPEG's pixels are not touched. Raises InputError with the reason and what would do."""
    _refuse(data)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP"))
            width, height = opened.size
            if width * height > MOST_PIXELS:
                raise InputError(
                    f"the photo has {width * height / 1e6:.0f} million pixels; at most "
                    f"{MOST_PIXELS / 1e6:.0f}: set the camera to its usual size"
                )
            if max(width, height) < LEAST_PX:
                raise InputError(f"the photo is {width} x {height} pixels: too small to measure in, send the original")
            focal, lens = _lens(opened)
            jpeg = _stripped(data) if opened.format == "JPEG" else _encoded(opened)
            opened.load()
    except InputError:
        raise
    except UnidentifiedImageError as exc:
        raise InputError("this is no photo: JPEG, PNG and WebP can be read") from exc
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as exc:
        raise InputError("the photo unfolds to far more than a camera makes: send the original") from exc
    except (OSError, ValueError, SyntaxError) as exc:
        raise InputError("the photo is damaged or cut off") from exc
    return TagPhoto(jpeg, hashlib.sha256(jpeg).hexdigest(), width, height, focal, lens)


def _refuse(data: bytes) -> None:
    if not data:
        raise InputError("the photo is empty: choose one first")
    if data[4:8] == b"ftyp":
        if data[8:12] in HEIC:
            raise InputError("this is a HEIC picture: set the phone's camera to “most compatible”, which makes JPEG")
        raise InputError("this is a video: take single photos, standing still for each")
    if data[:4] in (b"\x1aE\xdf\xa3", b"RIFF") and data[8:12] != b"WEBP":
        raise InputError("this is a video: take single photos, standing still for each")
    if len(data) > MOST_BYTES:
        raise InputError(f"the photo is {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f}")


def _lens(opened: Image.Image) -> tuple[float | None, str]:
    """The focal length in pixels, by the 35 mm equivalent that phones write, and a name for phone, lens and size."""
    notes = opened.getexif()
    camera = notes.get_ifd(IFD.Exif)
    equivalent = camera.get(Base.FocalLengthIn35mmFilm)
    told = [str(notes.get(Base.Make)), str(notes.get(Base.Model)), str(camera.get(Base.FocalLength)), str(equivalent)]
    longer, shorter = max(opened.size), min(opened.size)
    name = hashlib.sha256("|".join([*told, f"{longer}x{shorter}"]).encode()).hexdigest()[:12]
    try:
        focal = float(equivalent) if equivalent else 0.0
    except (TypeError, ValueError):
        focal = 0.0
    return (focal / FULL_FRAME_MM * longer if 8.0 < focal < 400.0 else None), name


def _stripped(data: bytes) -> bytes:
    """A JPEG without its application and comment segments: the picture itself is copied byte by byte."""
    out, at = bytearray(data[:2]), 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker, size = data[at + 1], int.from_bytes(data[at + 2 : at + 4], "big")
        if marker == 0xDA:  # the scan: the picture follows, up to its end
            end = data.rfind(b"\xff\xd9")
            return bytes(out + data[at : end + 2 if end > at else len(data)])
        if not (0xE1 <= marker <= 0xEF or marker == 0xFE):
            out += data[at : at + 2 + size]
        at += 2 + size
    raise InputError("the photo is damaged or cut off")


def _encoded(opened: Image.Image) -> bytes:
    out = io.BytesIO()
    opened.convert("RGB").save(out, "JPEG", quality=95)
    return out.getvalue()
