"""Pictures of jobs as the web process has them: mapped from files that children make. It unpacks none itself, because a file of
some hundred kB can hold sixty million pixels."""

from __future__ import annotations

import tempfile
import threading
from functools import lru_cache
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from bench.store import store
from contour.job.build.keys import picture_key
from contour.job.work.runner import run_in_child
from contour.recipe.evidence.picture import Picture

__all__ = ["drawing_of", "flat_file", "grey_photo", "unpacked_picture"]

MAX_SHOWN = 2600
_turn = threading.BoundedSemaphore(2)  # each may take a GB for some seconds: more at once would not be faster
_LIMIT_S = 120.0


def _made(task: str, payload: dict[str, Any]) -> dict[str, Any]:
    with _turn:
        result: dict[str, Any] = run_in_child(
            task, {"store": str(settings.STORE), **payload}, time_limit_s=_LIMIT_S, memory_bytes=3 * 2**30
        )
        return result


def unpacked_picture(file: BinaryIO, name: str, page: int) -> tuple[dict[str, Any], bytes]:
    """(format, width, height, pages; the bytes to keep) of a picture that somebody brings. Raises ContourError."""
    with tempfile.TemporaryDirectory(dir=settings.FILE_UPLOAD_TEMP_DIR) as folder:
        path, out = Path(folder) / "in", Path(folder) / "out"
        path.write_bytes(file.read())
        facts = _made("read-picture", {"path": str(path), "name": name, "page": page, "out": str(out)})
        return facts, out.read_bytes()


def _product(task: str, key: str, picture: Picture, **more: Any) -> Path:
    if not store().has(key):
        plain = picture.model_copy(update={"marks": (), "scale": None, "check": None})
        _made(task, {"key": key, "picture": plain.model_dump(mode="json"), **more})
    return store().folder(key)


@lru_cache(maxsize=16)
def _mapped(path: Path) -> NDArray[np.uint8]:
    return np.load(path, mmap_mode="r")  # type: ignore[no-any-return]


def grey_photo(picture: Picture) -> NDArray[np.uint8]:
    """Brightness (h, w) of the photo as it came, mapped."""
    return _mapped(_product("picture-grey", picture_key("grey", picture.blob), picture) / "grey.npy")


def flat_file(picture: Picture) -> Path:
    """The picture straightened, as a JPEG to be shown."""
    lies = (picture.corners, picture.aspect, picture.bend, picture.turn_deg)
    return (
        _product("picture-flat", picture_key("flat", picture.blob, *lies, MAX_SHOWN), picture, longest=MAX_SHOWN)
        / "flat.jpg"
    )


def drawing_of(scan: str, along: str) -> tuple[dict[str, Any], bytes]:
    """(width, height, mm_per_px; PNG) of a scan (key) seen along an axis."""
    with tempfile.NamedTemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR) as out:
        facts = _made("scan-drawing", {"scan": scan, "along": along, "out": out.name})
        return facts, Path(out.name).read_bytes()
