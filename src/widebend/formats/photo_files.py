"""Pictures as phones make them, made small and plain: turned upright, nothing said about where they were taken."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from ..core.errors import InputError

MOST_BYTES = 15_000_000
MOST_PIXELS = 120_000_000  # the largest phone sensors; a picture that unfolds to more is refused
LONGEST_PX = 2400


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: JPEG bytes, their hash, and its size in pixels."""

    jpeg: bytes
    sha256: str
    width: int
    height: int


def read_photo(data: bytes) -> Picture:
    """A picture re-encoded, with no notes of camera or place. Raises InputError with the reason."""
    if len(data) > MOST_BYTES:
        raise InputError(f"the picture is {len(data) / 1e6:.1f} MB; at most {MOST_BYTES / 1e6:.0f} MB")
    if not data:
        raise InputError("the picture is empty: choose one first")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            opened = Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP"))
            if opened.width * opened.height > MOST_PIXELS:
                raise InputError(
                    f"the picture unfolds to {opened.width} x {opened.height} pixels: make it smaller first"
                )
            opened.draft("RGB", (LONGEST_PX, LONGEST_PX))
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except InputError:
        raise
    except UnidentifiedImageError as exc:
        raise InputError("this is not a picture: JPEG, PNG and WebP can be read, whatever the file is called") from exc
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as exc:
        raise InputError("the picture unfolds to far more than it says: make it smaller first") from exc
    except (OSError, ValueError, SyntaxError) as exc:
        raise InputError("the picture is damaged or cut off") from exc
    upright.thumbnail((LONGEST_PX, LONGEST_PX))
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)  # only the pixels come along
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=84, optimize=True)
    jpeg = out.getvalue()
    return Picture(jpeg, hashlib.sha256(jpeg).hexdigest(), *plain.size)


def is_kept_photo(data: bytes) -> bool:
    """Whether bytes are a JPEG of our own making: for a bundle, whose pictures are not encoded again."""
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
            return max(opened.size) <= LONGEST_PX and not opened.getexif() and len(data) <= MOST_BYTES
    except (OSError, ValueError, SyntaxError):
        return False
