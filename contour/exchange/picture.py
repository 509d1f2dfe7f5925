"""Photos and drawings in: PNG, JPEG, or a page of a PDF, turned upright, stripped of everything but their pixels."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from contour.recipe.problem import ContourError, Where

__all__ = ["MAX_PICTURE_BYTES", "MAX_PIXELS", "PictureFile", "colours", "grey", "read_picture"]

MAX_PICTURE_BYTES = 60 * 1024 * 1024
MAX_PIXELS = 60_000_000
_PDF_DPI = 200
_MOST_PAGES = 500


@dataclass(frozen=True, slots=True)
class PictureFile:
    """data: a PNG (drawings) or JPEG (photos) made anew from the pixels alone · pages: of the PDF it came from, else 1."""

    data: bytes
    format: str
    width: int
    height: int
    pages: int


def _refused(code: str, message: str, name: str, **more: str) -> ContourError:
    return ContourError(code, message, where=Where(file=name), **more)  # type: ignore[arg-type]


def _page(data: bytes, page: int, name: str) -> tuple[Image.Image, int]:
    """A page of a PDF as pixels; a huge sheet is drawn coarser, so that it stays within the limit."""
    import pypdfium2 as pdfium

    try:
        document = pdfium.PdfDocument(data)
    except pdfium.PdfiumError:
        raise _refused(
            "file-not-understood", "this PDF cannot be read", name, remedy="save it without a password, or as PNG"
        ) from None
    try:
        count = len(document)
        if count > _MOST_PAGES:
            raise _refused(
                "file-too-large",
                "this PDF has too many pages",
                name,
                got=f"{count:,}",
                need=f"at most {_MOST_PAGES}",
                remedy="save the page you need by itself",
            )
        if not 1 <= page <= count:
            raise _refused("not-found", "the PDF has no such page", name, got=str(page), need=f"1 to {count}")
        sheet = document[page - 1]
        wide, high = sheet.get_size()
        scale = min(_PDF_DPI / 72, 6000 / max(wide, high, 1.0))
        if wide * high * scale * scale < 100:
            raise _refused("file-empty", "the page has no size", name)
        return sheet.render(scale=scale).to_pil().convert("RGB"), count
    finally:
        document.close()


def read_picture(data: bytes, name: str, *, page: int = 1) -> PictureFile:
    """The picture in a file's bytes; its content decides the format.

    The camera's note of how it was held is followed; places, times and all else it wrote are not kept.

    Raises ContourError (file-empty, file-too-large, file-not-understood, not-found).
    """
    if not data:
        raise _refused("file-empty", "the file has no bytes", name, remedy="choose another file")
    if len(data) > MAX_PICTURE_BYTES:
        raise _refused(
            "file-too-large",
            "the picture's file is too large",
            name,
            got=f"{len(data) / 2**20:.0f} MB",
            need=f"at most {MAX_PICTURE_BYTES // 2**20} MB",
            remedy="save it smaller",
        )
    pages = 1
    if data[:1024].lstrip().startswith(b"%PDF"):
        image, pages = _page(data, page, name)
        drawn = True
    else:
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore", Image.DecompressionBombWarning)
                opened = Image.open(io.BytesIO(data), formats=("PNG", "JPEG"))
            wide, high = opened.size
            # Asked before a pixel is unpacked: a file of a few kB can claim gigapixels.
            if wide * high > MAX_PIXELS:
                raise _refused(
                    "file-too-large",
                    "the picture unpacks to too many pixels",
                    name,
                    got=f"{wide:,} x {high:,}",
                    need=f"at most {MAX_PIXELS // 1_000_000} million",
                    remedy="save it smaller",
                )
            drawn = opened.format == "PNG"
            image = ImageOps.exif_transpose(opened).convert("RGB")
        except Image.DecompressionBombError:
            raise _refused(
                "file-too-large",
                "the picture unpacks to too many pixels",
                name,
                need=f"at most {MAX_PIXELS // 1_000_000} million",
                remedy="save it smaller",
            ) from None
        except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
            raise _refused(
                "file-not-understood",
                "this is no PNG, JPEG or PDF that can be read",
                name,
                remedy="save the picture again as PNG or JPEG",
            ) from None
    out = io.BytesIO()
    if drawn:
        image.save(out, "PNG")
    else:
        image.save(out, "JPEG", quality=93, subsampling=0)
    return PictureFile(out.getvalue(), "png" if drawn else "jpeg", image.width, image.height, pages)


def grey(data: bytes) -> NDArray[np.uint8]:
    """(h, w) brightness 0 to 255 of a picture kept by :func:`read_picture`."""
    return np.asarray(Image.open(io.BytesIO(data)).convert("L"), np.uint8)


def colours(data: bytes) -> NDArray[np.uint8]:
    """(h, w, 3) of a picture kept by :func:`read_picture`."""
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), np.uint8)
