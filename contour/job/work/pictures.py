"""What children do with pictures: unpacking millions of pixels is no work for a process that others wait for."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from contour.exchange.picture import read_picture
from contour.job.build.store import Store
from contour.job.questions.photo import write_flat, write_grey
from contour.job.views.drawing import scan_drawing
from contour.mesh.prepare import load_prepared
from contour.recipe.evidence.picture import Picture

__all__ = ["PICTURE_TASKS"]

Report = Callable[[dict[str, Any]], None]


def _read(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: path, name, page, out. The picture in a file, written anew to `out`; its size and format."""
    made = read_picture(Path(payload["path"]).read_bytes(), payload["name"], page=payload["page"])
    Path(payload["out"]).write_bytes(made.data)
    return {"format": made.format, "width": made.width, "height": made.height, "pages": made.pages}


def _grey(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, key, picture. Its brightness as a product."""
    store, picture = Store(Path(payload["store"])), Picture.model_validate(payload["picture"])
    data = store.read_blob(picture.blob, name=picture.name)
    store.put(payload["key"], {}, lambda folder: write_grey(data, folder / "grey.npy"))
    return {}


def _flat(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, key, picture, longest. How it looks flat, as a product."""
    store, picture = Store(Path(payload["store"])), Picture.model_validate(payload["picture"])
    data = store.read_blob(picture.blob, name=picture.name)
    store.put(payload["key"], {}, lambda folder: write_flat(data, picture, folder / "flat.jpg", payload["longest"]))
    return {}


def _drawing(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, scan (key), along, out. A line drawing of the scan as PNG."""
    scan = load_prepared(Store(Path(payload["store"])).folder(payload["scan"]))
    data, wide, high, mm_per_px = scan_drawing(scan.vertices, scan.facets, payload["along"])
    Path(payload["out"]).write_bytes(data)
    return {"width": wide, "height": high, "mm_per_px": mm_per_px}


PICTURE_TASKS: dict[str, Callable[[dict[str, Any], Report], dict[str, Any]]] = {
    "read-picture": _read,
    "picture-grey": _grey,
    "picture-flat": _flat,
    "scan-drawing": _drawing,
}
