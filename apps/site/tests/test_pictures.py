"""Pictures on their way in: looked at before they are unpacked, upright, and with nothing written into them."""

import struct
import zlib
from io import BytesIO

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from PIL import Image

from cantrel.pictures import PICTURE_SIDE, read_picture
from treecore.errors import NotSolvable


def written(kind="JPEG", size=(64, 48), **more):
    """A picture, red on its left half and blue on its right."""
    picture = Image.new("RGB", size, (200, 0, 0))
    picture.paste((0, 0, 200), (size[0] // 2, 0, *size))
    out = BytesIO()
    picture.save(out, kind, **more)
    return out.getvalue()


def chunk(kind, data):
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png_saying(width, height):
    """A PNG of a few bytes that says it is that large."""
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0")) + chunk(b"IEND", b"")


class Pictures(SimpleTestCase):
    def read(self, content):
        kept, width, height = read_picture(SimpleUploadedFile("p.jpg", content))
        with Image.open(kept) as picture:
            picture.load()
            self.assertEqual((picture.format, picture.size), ("JPEG", (width, height)))
        return picture, kept

    def test_what_a_camera_or_a_program_wrote_in_is_gone(self):
        exif = Image.Exif()
        exif[0x010E] = "Kestrel Lane, plot seven"
        exif[0x0131] = "some program"
        sent = written(comment=b"<script>alert(1)</script>", exif=exif) + b"PK\x03\x04 a zip behind it"
        self.assertIn(b"plot seven", sent)
        _, kept = self.read(sent)
        for word in (b"plot seven", b"some program", b"<script", b"PK\x03\x04", b"Exif"):
            self.assertNotIn(word, kept.read())
            kept.seek(0)

    def test_a_picture_is_turned_as_its_camera_was_held(self):
        for turned, corner in ((1, "left"), (3, "right"), (6, "top"), (8, "bottom")):
            with self.subTest(turned=turned):
                exif = Image.Exif()
                exif[0x0112] = turned
                picture, _ = self.read(written(exif=exif))
                self.assertEqual(picture.size, (48, 64) if turned in (6, 8) else (64, 48))
                wide, tall = picture.size
                at = {"left": (4, tall // 2), "right": (wide - 4, tall // 2), "top": (wide // 2, 4)}
                red, _, blue = picture.getpixel(at.get(corner, (wide // 2, tall - 4)))
                self.assertGreater(red, blue)  # where the red half goes

    def test_what_would_not_fit_the_memory_is_refused_by_what_it_says(self):
        for wide, tall in ((20_000, 20_000), (50_000, 50_000), (2**31 - 1, 1), (6000, 5001)):
            with self.subTest(wide=wide), self.assertRaises(NotSolvable) as caught:
                read_picture(SimpleUploadedFile("p.png", png_saying(wide, tall)))
            self.assertRegex(caught.exception.why, "more than can be unpacked|no picture")
        lied = bytearray(written())
        at = lied.find(b"\xff\xc0")
        lied[at + 5 : at + 9] = struct.pack(">HH", 12_000, 14_000)
        with self.assertRaisesMessage(NotSolvable, "14000 by 12000 dots"):
            read_picture(SimpleUploadedFile("p.jpg", bytes(lied)))

    def test_a_large_photo_is_made_small_and_what_is_cut_off_is_refused(self):
        picture, _ = self.read(written("PNG", (4000, 2000)))
        self.assertEqual(picture.size, (PICTURE_SIDE, PICTURE_SIDE // 2))
        for content in (written()[:200], b"%!PS-Adobe-3.0\n", b"", written("GIF"), written("BMP")):
            with self.subTest(content=content[:8]), self.assertRaises(NotSolvable):
                read_picture(SimpleUploadedFile("p.jpg", content))
