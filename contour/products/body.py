"""A body: a solid with the names of its faces, what the view and the distances need of it, and what is known of its faces.

The kernel is loaded only by whoever makes one: the web process reads bodies without it.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from contour.check.exact_solid import EXACT_VERSION, save_exact
from contour.products.buffers import write_view
from contour.products.kind import Extras, ProductKind
from contour.recipe.facts import Facts
from contour.solid.topology.parts import BODY_PARTS, write_topology

if TYPE_CHECKING:
    from contour.solid.tessellate import Tessellation

__all__ = ["KIND", "BodyFacts", "BodyFigures", "BodyProduct", "save_coarse_view"]


class BodyFigures(Facts):
    """The body that a step made or changed last: known once it is kept. volume: mm³ · area: mm² · open: borders that one face has
    for itself."""

    volume: float | None = None
    area: float | None = None
    faces: int | None = None
    solids: int | None = None
    open: int | None = None


_FINE_MM, _COARSE_MM = (
    0.05,
    0.3,
)  # chord errors of the view: to work with, and enough to see while a value is being typed


class BodyFacts(BodyFigures):
    """The same, where a step tells no more."""

    of: Literal["body"] = "body"


@dataclass(frozen=True, slots=True)
class BodyProduct:
    """A solid as kernel bytes with the names of its faces; read it with ``contour.solid.shape.read_shape``. title, colour, role:
    what a body is called, coloured and meant as from here on; said once, by what brings it in."""

    brep: bytes
    names: tuple[str, ...]
    title: str = ""
    colour: str | None = None
    role: str = ""
    kind: str = "body"


def _save_view(mesh: Tessellation, folder: Path) -> None:
    origin = np.round((mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2, 3)
    drawn = [(k, np.repeat(line, 2, axis=0)[1:-1]) for k, line in enumerate(mesh.edge_polylines) if len(line) > 1]
    lines = [line for _, line in drawn]
    arrays = {
        "positions": (mesh.vertices - origin).astype("<f4").ravel(),
        "indices": mesh.triangles.astype("<u4").ravel(),
        "faces": mesh.face.astype("<u4"),
        "edges": (np.vstack([np.empty((0, 3)), *lines]) - origin).astype("<f4").ravel(),
        "edge_of": np.concatenate([np.empty(0, int), *(np.full(len(s) // 2, k) for k, s in drawn)]).astype("<u4"),
    }
    write_view(folder / "view.bin", arrays, origin)


def _save(product: BodyProduct, folder: Path) -> None:
    (folder / "shape.bin").write_bytes(product.brep)
    (folder / "names.json").write_text(json.dumps(product.names))


def _load(folder: Path) -> BodyProduct:
    return BodyProduct((folder / "shape.bin").read_bytes(), tuple(json.loads((folder / "names.json").read_text())))


def _beside(product: BodyProduct, folder: Path, extras: Extras) -> dict[str, Any]:
    """view.bin (triangles with face numbers, edge lines), exact.npz (for :mod:`contour.check.exact_distance`), topology.json (faces in the
    order of the view's face numbers, edges, corners); known are volume and area (if measured), faces and pieces."""
    from contour.check.exact_arrays import exact_arrays
    from contour.solid.mass import area, volume
    from contour.solid.shape import NamedShape, free_edges, read_shape, solids
    from contour.solid.tessellate import tessellate
    from contour.solid.topology.rows import topology_rows

    shape = read_shape(product.brep)
    if extras.parts:  # before there are triangles: faces that the step left as they were are known by their bytes
        write_topology(topology_rows(NamedShape(shape, product.names)), folder)
    if extras.view:
        mesh = tessellate(shape, chord_mm=_FINE_MM)
        _save_view(mesh, folder)
        save_exact(exact_arrays(shape, mesh), folder / "exact.npz")
    facts: dict[str, Any] = {"faces": len(product.names), "solids": len(solids(shape)), "open": len(free_edges(shape))}
    facts |= {k: v for k in ("title", "colour", "role") if (v := getattr(product, k))}
    if extras.measure:
        facts |= {"volume": volume(shape), "area": area(shape)}
    return facts


def save_coarse_view(product: BodyProduct, folder: Path) -> None:
    """Only a coarse view.bin: enough to see while a value is being typed."""
    from contour.solid.shape import read_shape
    from contour.solid.tessellate import tessellate

    _save_view(tessellate(read_shape(product.brep), chord_mm=_COARSE_MM, sides=False), folder)


_MADE_VERSION = 1  # booleans: which results pass, and how those that do not are made again
_BESIDE_VERSION = 6  # topology.json, edges of the view by number

KIND = ProductKind(
    "body",
    BodyProduct,
    "names.json",
    _save,
    _load,
    _beside,
    state_of="body",
    parts=BODY_PARTS,
    version=10_000 * _MADE_VERSION + 100 * _BESIDE_VERSION + EXACT_VERSION,
)
