"""Uploaded pictures: what is taken, and in which form it is kept."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from typing import IO

from PIL import Image, ImageOps, UnidentifiedImageError

MOST_BYTES = 8 * 1024 * 1024
# Decoded, every point takes four bytes, and turning and shrinking take as much again: about 200 MB at the most. A
# photograph is decoded smaller than it is, and may have many more.
MOST_PIXELS = 16_000_000
# a picture is kept no larger than this; paper needs no more
LONGEST_SIDE = 1600
FORMATS = ("PNG", "JPEG", "GIF", "WEBP")


class NotTaken(ValueError):
    """Why a file is not taken, in words for whoever sent it."""


@dataclass(frozen=True, slots=True)
class Kept:
    """A picture as it is kept: decoded and written anew, so that nothing but the picture is in it."""

    content: bytes
    media_type: str
    width: int
    height: int


def taken(sent: IO[bytes], size: int) -> Kept:
    """The picture in a file that was sent. Raises ``NotTaken``."""
    if size > MOST_BYTES:
        raise NotTaken(f"This file has {size / 2**20:.1f} MB; a picture may have {MOST_BYTES // 2**20}.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(sent, formats=FORMATS)
            width, height = picture.size
            picture.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            if picture.width * picture.height > MOST_PIXELS:
                raise NotTaken(
                    f"This picture has {width} by {height} points; at most {MOST_PIXELS // 10**6} million are taken. "
                    "Save it smaller, such as 4000 by 3000."
                )
            picture.load()
    except NotTaken:
        raise
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Warning, Image.DecompressionBombError) as problem:
        raise NotTaken("This is no picture that can be read: PNG, JPEG, GIF and WebP can.") from problem
    photograph = picture.format == "JPEG"
    # a camera's turn is carried out, and what else it noted is left behind
    turned = picture
    ImageOps.exif_transpose(turned, in_place=True)
    turned.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    written = io.BytesIO()
    if photograph:
        turned.convert("RGB").save(written, "JPEG", quality=88)
    else:
        turned.convert("RGBA" if "A" in turned.getbands() or "transparency" in picture.info else "RGB").save(
            written, "PNG", optimize=True
        )
    return Kept(written.getvalue(), "image/jpeg" if photograph else "image/png", turned.width, turned.height)
