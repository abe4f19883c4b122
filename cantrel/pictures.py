"""Pictures people put in: looked at, made small, freed of what a camera wrote into them."""

from __future__ import annotations

from io import BytesIO
from typing import TYPE_CHECKING

from django.core.files.base import ContentFile
from PIL import Image, UnidentifiedImageError

from treecore.errors import CoreError, NotSolvable

if TYPE_CHECKING:
    from django.core.files.uploadedfile import UploadedFile

PICTURE_BYTES = 25 * 1024 * 1024
PICTURE_SIDE = 3000  # pixels a picture is brought down to


def read_picture(upload: UploadedFile) -> tuple[ContentFile, int, int]:
    """An uploaded picture, made small, without what its camera wrote into it; refuses what is none."""
    if upload.size > PICTURE_BYTES:
        raise NotSolvable(
            what="image", why="the picture is {size:.0f} MB; at most 25 MB are taken", size=upload.size / 1000000.0
        )
    try:
        with Image.open(upload) as picture:
            if picture.format not in ("JPEG", "PNG", "WEBP"):
                raise NotSolvable(
                    what="image", why="{format} pictures are not taken; save it as JPEG or PNG", format=picture.format
                )
            picture.draft("RGB", (PICTURE_SIDE, PICTURE_SIDE))
            small = picture.convert("RGB")
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError, SyntaxError, ValueError) as error:
        if isinstance(error, CoreError):
            raise
        raise NotSolvable(what="image", why="this file is no picture that can be read: take a JPEG or PNG") from None
    small.thumbnail((PICTURE_SIDE, PICTURE_SIDE))
    out = BytesIO()
    small.save(out, "JPEG", quality=82)
    return ContentFile(out.getvalue(), name="ground.jpg"), small.width, small.height
