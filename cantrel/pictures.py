"""Pictures people put in: looked at before they are unpacked, made small, turned upright, freed of what a camera or a
program wrote into them.
"""

from __future__ import annotations

import struct
from io import BytesIO
from typing import TYPE_CHECKING

from django.core.files.base import ContentFile
from PIL import Image, ImageOps, UnidentifiedImageError

from cantrel.gate import one_at_a_time
from treecore.errors import CoreError, NotSolvable

if TYPE_CHECKING:
    from django.core.files.uploadedfile import UploadedFile

PICTURE_BYTES = 25 * 1024 * 1024
PICTURE_SIDE = 3000  # pixels a picture is brought down to
MOST_PIXELS = {"JPEG": 110_000_000, "PNG": 30_000_000, "WEBP": 30_000_000}  # that are unpacked; a JPEG comes in smaller
BROKEN = (
    UnidentifiedImageError,
    OSError,
    Image.DecompressionBombError,
    SyntaxError,
    ValueError,
    TypeError,
    KeyError,
    IndexError,
    struct.error,
    ZeroDivisionError,
    OverflowError,
    EOFError,
)  # what the library raises on files that are cut off or made up


def read_picture(upload: UploadedFile) -> tuple[ContentFile, int, int]:
    """An uploaded picture, made small and upright, without anything written into it; refuses what is none."""
    if upload.size > PICTURE_BYTES:
        raise NotSolvable(
            what="image", why="the picture is {size:.0f} MB; at most 25 MB are taken", size=upload.size / 1000000.0
        )
    with one_at_a_time("picture"):  # each takes memory
        try:
            small = _unpacked(upload)
        except CoreError:
            raise
        except BROKEN:
            raise NotSolvable(
                what="image", why="this file is no picture that can be read: take a JPEG or PNG"
            ) from None
        out = BytesIO()
        small.save(out, "JPEG", quality=82)
    return ContentFile(out.getvalue(), name="ground.jpg"), small.width, small.height


def _unpacked(upload: UploadedFile) -> Image.Image:
    """The picture's dots, at most so many as are kept."""
    with Image.open(upload) as picture:
        most = MOST_PIXELS.get(picture.format or "")
        if most is None:
            why = "{format} pictures are not taken; save it as JPEG or PNG"
            raise NotSolvable(what="image", why=why, format=picture.format)
        if picture.width * picture.height > most:
            why = "it is {width} by {height} dots, more than can be unpacked here: save it smaller"
            raise NotSolvable(what="image", why=why, width=picture.width, height=picture.height)
        picture.draft("RGB", (PICTURE_SIDE, PICTURE_SIDE))
        picture.thumbnail((PICTURE_SIDE, PICTURE_SIDE))
        upright = ImageOps.exif_transpose(picture.convert("RGB"))
    upright.info = {}
    return upright


def is_jpeg(content: bytes) -> bool:
    """Whether it is a JPEG as far as its head tells; nothing is unpacked."""
    try:
        with Image.open(BytesIO(content)) as picture:
            return picture.format == "JPEG"
    except BROKEN:
        return False
