"""What children do for drawings: they are asked where the kernel is needed, and where a file from outside is read."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.limits import file_limit_s, hard_limit
from contour.geometry.frames import PlaneFrame
from contour.job.build.store import Store
from contour.present.links import pieces_of_body
from contour.products import load_product
from contour.products.body import BodyProduct
from contour.sketch.drawn.acts.filing import PutIn
from contour.sketch.drawn.file_reading import Choice, read_sheet
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.traces import traces_shown
from contour.solid.shape import NamedShape, read_shape

__all__ = ["DRAWING_TASKS"]

Report = Callable[[dict[str, Any]], None]


def _linkable(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: store, key (of a body), way, frame. What of it can be brought into a drawing on that plane."""
    body: BodyProduct = load_product(Store(Path(payload["store"])).folder(payload["key"]))
    frame = PlaneFrame(**{k: np.array(v) for k, v in payload["frame"].items()})
    named = NamedShape(read_shape(body.brep), body.names)
    return {"pieces": [p.model_dump(mode="json") for p in pieces_of_body(named, payload["way"], frame)]}


def _read_flat(payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """payload: path, name (of the file), choice (see `Choice`). What can be put into a drawing, and how it would lie."""
    asked = payload["choice"]
    layers = None if asked["layers"] is None else frozenset(asked["layers"])
    path = Path(payload["path"])
    with hard_limit(file_limit_s(path)):
        read = read_sheet(path, Choice(**{**asked, "layers": layers}), payload["name"])
    act = PutIn(act="put-in", entities=read.entities, under=read.under) if read.entities or read.under else None
    traces = traces_shown(Drawing.model_construct(entities=read.entities))
    return {
        "unit_mm": read.unit_mm,
        "said": read.said,
        "likely": read.likely,
        "size": read.size,
        "layers": [asdict(n) for n in read.layers],
        "pieces": read.pieces,
        "words": len(read.under.texts) if read.under else 0,
        "strokes": len(read.under.lines) if read.under else 0,
        "act": act.model_dump(mode="json", by_alias=True) if act else None,
        "paths": [np.round(t.place(t.shown), 4).tolist() for t in traces],
        "left_out": [asdict(o) for o in read.left_out],
        "refused": read.refused.model_dump(mode="json") if read.refused else None,
    }


DRAWING_TASKS: dict[str, Callable[[dict[str, Any], Report], dict[str, Any]]] = {
    "linkable": _linkable,
    "read-flat": _read_flat,
}
