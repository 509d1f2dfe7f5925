"""Pictures in: upright, stripped, and refused when they are not what they say or unpack to too much."""

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image

from contour.exchange.picture import MAX_PIXELS, grey, read_picture
from contour.recipe.problem import ContourError


def jpeg(size=(40, 20), orientation: int | None = None) -> bytes:
    image = Image.new("RGB", size, (200, 200, 200))
    image.paste((10, 10, 10), (0, 0, size[0] // 4, size[1]))
    exif = Image.Exif()
    if orientation:
        exif[0x0112] = orientation
    exif[0x010E] = "the shed behind the slipway"
    out = io.BytesIO()
    image.save(out, "JPEG", quality=95, exif=exif)
    return out.getvalue()


def test_the_way_the_camera_was_held_is_followed_and_nothing_else_kept():
    made = read_picture(jpeg(orientation=6), "photo.jpg")
    assert (made.width, made.height) == (20, 40)
    # Turned clockwise: what was on the left is on top now.
    assert grey(made.data)[2].mean() < 50 < grey(made.data)[30].mean()
    assert b"slipway" not in made.data and not Image.open(io.BytesIO(made.data)).getexif()


def test_png_stays_exact():
    pixels = (np.arange(600).reshape(20, 30) % 251).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    made = read_picture(out.getvalue(), "drawing.png")
    assert made.format == "png"
    assert np.abs(grey(made.data).astype(float) - pixels).max() < 0.5


def pdf() -> bytes:
    out = io.BytesIO()
    pages = [Image.new("RGB", (200, 100), c) for c in ("white", "black")]
    pages[0].save(out, "PDF", save_all=True, append_images=pages[1:], resolution=72)
    return out.getvalue()


def test_a_page_of_a_pdf():
    first, second = read_picture(pdf(), "print.pdf"), read_picture(pdf(), "print.pdf", page=2)
    assert first.pages == 2 and first.width == pytest.approx(200 * 200 / 72, abs=2)
    assert grey(first.data).mean() > 230 and grey(second.data).mean() < 25
    with pytest.raises(ContourError) as error:
        read_picture(pdf(), "print.pdf", page=3)
    assert error.value.problem.code == "not-found"


def claimed(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says it is huge."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "file-empty"),
        (b"not a picture", "file-not-understood"),
        (jpeg()[:300], "file-not-understood"),
        (b"%PDF-1.4 nothing", "file-not-understood"),
        (claimed(100_000, 100_000), "file-too-large"),
        (claimed(MAX_PIXELS, 2), "file-too-large"),
        (b"GIF89a" + b"\0" * 50, "file-not-understood"),
    ],
)
def test_refused_clearly(data, code):
    with pytest.raises(ContourError) as error:
        read_picture(data, "x")
    assert error.value.problem.code == code and error.value.problem.where.file == "x"


def test_damaged_pictures_are_read_or_refused_and_never_crash():
    rng = np.random.default_rng(4)
    whole = jpeg((120, 90))
    for k in range(200):
        data = bytearray(whole)
        if k % 3 == 0:
            del data[int(rng.integers(2, len(data))) :]
        else:
            for at in rng.integers(0, len(data), 12):
                data[at] ^= 1 << int(rng.integers(8))
        code = ""
        try:
            read_picture(bytes(data), "x")
        except ContourError as error:
            code = error.problem.code
        assert code in ("", "file-not-understood", "file-too-large")
