"""DXF in: what is flat becomes shapes; words, blocks and stated sizes lie under them; everything else is told with its place.

The reading of the tags is the package ezdxf's. Coordinates stay in the file's unit.
"""

from __future__ import annotations

import logging
import math
from collections.abc import Iterator
from pathlib import Path as FilePath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.exchange.flat.dxf_text import DxfText, damaged
from contour.exchange.flat.shapes import (
    Arc,
    Ellipse,
    FlatDrawing,
    LeftOut,
    Line,
    Piece,
    Place,
    Shape,
    Spline,
    Spot,
    Stroke,
    Text,
)
from contour.recipe.problem import ContourError

__all__ = ["MOST_SHAPES", "read_dxf"]

Array = NDArray[np.float64]

# Of $INSUNITS, mm.
_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100.0}
MOST_SHAPES = 200_000  # with all that blocks repeat
_DEEPEST = 60  # blocks within each other, that are counted ahead
_FLAT = 1e-6  # of the largest coordinate: what is nearer to one height is flat
_CHORDS = 400  # of the size of what is looked at, in one chord's error
_SPATIAL = {"3DFACE", "3DSOLID", "BODY", "REGION", "SURFACE", "EXTRUDEDSURFACE", "LOFTEDSURFACE", "REVOLVEDSURFACE", "SWEPTSURFACE", "MESH", "POLYMESH", "POLYFACE", "HELIX"}  # fmt: skip
_BLOCKS = {"INSERT", "DIMENSION", "ARC_DIMENSION", "LARGE_RADIAL_DIMENSION", "LEADER", "MULTILEADER", "TOLERANCE"}
_CHAIN_LINES = ("CENTER", "CENTRE", "DASHDOT", "CHAIN", "PHANTOM", "DIVIDE")
_TEXTS = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF"}


def read_dxf(path: FilePath, *, blocks: bool = False) -> FlatDrawing:
    """blocks: what is drawn in blocks becomes shapes, too, instead of lying under them.

    Raises ContourError (file-not-understood), (too-many-facets) where its blocks repeat without end.
    """
    document, wrong = _document(path)
    reading = _Reading(blocks, wrong)
    space = document.modelspace()
    if _repeated(space, document, {}, frozenset()) > MOST_SHAPES:  # told before any of it is drawn
        raise _too_much()
    for entity in space:
        reading.take(entity)
    for layout in document.layouts:
        count = 0 if layout.is_modelspace else len([e for e in layout if e.dxftype() != "VIEWPORT"])
        if count:
            reading.leave("LAYOUT", "", f"on the sheet {layout.name}, not in the model", count=count)
    hidden = {layer.dxf.name for layer in document.layers if layer.is_off() or layer.is_frozen()}
    said = document.header.get("$INSUNITS", 0)
    return FlatDrawing(
        tuple(reading.pieces),
        tuple(reading.texts),
        tuple(reading.strokes),
        tuple(reading.left_out),
        tuple(reading.aside),
        _UNITS.get(int(said)),
        frozenset(hidden),
    )


def _document(path: FilePath) -> tuple[Any, list[LeftOut]]:
    from ezdxf import recover
    from ezdxf.filemanagement import readfile
    from ezdxf.lldxf.const import DXFError
    from ezdxf.lldxf.validator import is_binary_dxf_file

    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    if path.read_bytes()[:4] == b"AC10":
        raise damaged("this is a drawing in a closed format, not a DXF", "AC10 at its start", "save it as DXF")
    try:
        if is_binary_dxf_file(str(path)):
            return readfile(path), []
        text = DxfText.of(path.read_bytes())
        while True:
            try:
                document, audit = recover.read(text.stream())
                break
            except DXFError as error:
                text.without(error)
        wrong = [LeftOut(_type(e), _layer(e), _sentence(e.message)) for e in audit.errors]
        return document, [*text.left_out, *wrong]
    except ContourError:
        raise
    except Exception as error:
        # Whatever a damaged file makes of its reader is the file's fault.
        raise damaged("this DXF cannot be read", f"{type(error).__name__}: {error}"[:160]) from None


def _type(error: Any) -> str:
    return error.entity.dxftype() if error.entity is not None else "TAGS"


def _layer(error: Any) -> str:
    return error.entity.dxf.get("layer", "0") if error.entity is not None else ""


def _sentence(message: str) -> str:
    return message.strip().rstrip(".")[:160]


def _repeated(entities: Any, document: Any, known: dict[str, int], above: frozenset[str]) -> int:
    """How many entities there are at least, with all that blocks repeat. known: of blocks, added to · above: blocks that these are within."""
    total = 0
    for entity in entities:
        total += 1
        name = entity.dxf.get("name", "") if entity.dxftype() == "INSERT" and not entity.dxf.get("invisible", 0) else ""
        if name and len(above) < _DEEPEST and name not in above and name in document.blocks:
            if name not in known:
                known[name] = _repeated(document.blocks.get(name), document, known, above | {name})
            total += entity.mcount * known[name]
    return total


def _too_much() -> ContourError:
    return ContourError(
        "too-many-facets",
        "there is too much in this drawing",
        got=f"more than {MOST_SHAPES:,} shapes, with what its blocks repeat",
        need="a drawing of one part",
        remedy="save only the view that is needed",
    )


class _Reading:
    """What is met, put where it belongs."""

    def __init__(self, blocks: bool, wrong: list[LeftOut]) -> None:
        self.blocks = blocks
        self.pieces: list[Piece] = []
        self.texts: list[Text] = []
        self.strokes: list[Stroke] = []
        self.left_out: list[LeftOut] = list(wrong)
        self.aside: list[LeftOut] = []
        self.met = 0

    def leave(self, kind: str, layer: str, why: str, at: Place | None = None, count: int = 1) -> None:
        self.left_out.append(LeftOut(kind, layer, why, at, count))

    def take(self, entity: Any) -> None:
        """One entity, and what it stands for; what cannot be understood of it is told and no reason to stop."""
        kind, layer = entity.dxftype(), entity.dxf.get("layer", "0")
        try:
            self._take(entity, kind, layer)
        except ContourError:
            raise
        except Exception as error:
            self.leave(kind, layer, f"cannot be understood: {_sentence(str(error)) or type(error).__name__}")

    def _take(self, entity: Any, kind: str, layer: str) -> None:
        at = _place(entity)
        if entity.dxf.get("invisible", 0):
            return self.leave(kind, layer, "switched off in the file", at)
        if kind in _TEXTS:
            self.aside.append(LeftOut(kind, layer, "words: they lie under the drawing", at))
            return self._text(entity, layer)
        if kind in _BLOCKS:
            if not (self.blocks and kind == "INSERT"):
                what = "a block" if kind == "INSERT" else "a stated size or note"
                self.aside.append(LeftOut(kind, layer, f"{what}: it lies under the drawing", at))
            return self._block(entity, kind, layer)
        if kind == "POLYLINE" and not (entity.is_2d_polyline or entity.is_3d_polyline):
            return self.leave(kind, layer, "three-dimensional", at)
        if kind in _SPATIAL:
            return self.leave(kind, layer, "three-dimensional", at)
        for shape in self._shapes(entity, kind, layer):
            self.pieces.append(Piece(shape, layer, _chained(entity)))
        return None

    def _shapes(self, entity: Any, kind: str, layer: str) -> Iterator[Shape]:
        self._count()
        if kind in ("LWPOLYLINE", "POLYLINE"):
            for part in entity.virtual_entities():
                yield from self._shapes(part, part.dxftype(), layer)
            return
        maker = _MAKERS.get(kind)
        at = _place(entity)
        if maker is None:
            return self.leave(kind, layer, "not a kind that is drawn here", at)
        if not _lies_flat(entity, kind):
            return self.leave(kind, layer, "not flat: it rises out of the plane", at)
        shape = maker(entity)
        if shape is None:
            return self.leave(kind, layer, "without length", at)
        yield shape
        return None

    def _count(self) -> None:
        self.met += 1
        if self.met > MOST_SHAPES:
            raise _too_much()

    def _text(self, entity: Any, layer: str) -> None:
        plain = entity.plain_text() if entity.dxftype() == "MTEXT" else entity.dxf.text
        words = " ".join(str(plain).replace("^J", " ").split())
        at = entity.dxf.insert
        high = entity.dxf.get("char_height" if entity.dxftype() == "MTEXT" else "height", 2.5)
        turn = entity.get_rotation() if entity.dxftype() == "MTEXT" else entity.dxf.get("rotation", 0.0)
        numbers = (float(at.x), float(at.y), float(high), float(turn))
        if words and all(math.isfinite(n) for n in numbers):
            self.texts.append(Text(numbers[:2], words[:400], numbers[2], numbers[3], layer))

    def _block(self, entity: Any, kind: str, layer: str) -> None:
        """What a block shows lies under the drawing, or becomes a part of it; a stated size always lies under it."""
        if kind == "INSERT" and entity.mcount > 1:
            for one in entity.multi_insert():
                self._count()
                self._block(one, kind, layer)
            return
        if kind == "INSERT":
            for attribute in entity.attribs:
                self._text(attribute, layer)
        shown = 0
        for part in _parts(entity):
            self._count()
            shown += 1
            own = part.dxftype()
            inner = layer if part.dxf.get("layer", "0") == "0" else part.dxf.layer
            if self.blocks and kind == "INSERT":
                self._take(part, own, inner)
            elif own in _TEXTS:
                self._text(part, inner)
            elif own in _BLOCKS:
                self._block(part, own, inner)
            elif (path := _looked_at(part)) is not None:
                self.strokes.append(Stroke(path, inner))
        if not shown:
            self.leave(kind, layer, "nothing is drawn in it", _place(entity))


def _parts(entity: Any) -> Iterator[Any]:
    name = entity.dxf.get("name", "") if entity.dxftype() == "INSERT" else ""
    if entity.dxftype() == "INSERT" and entity.doc is not None and name not in entity.doc.blocks:
        raise ValueError(f"the block {name} is not in the file")
    yield from entity.virtual_entities()


def _looked_at(entity: Any) -> Array | None:
    """A path (n, 2) for looking; none of what has no line."""
    from ezdxf.path import make_path

    try:
        path = make_path(entity)
    except (TypeError, ValueError):
        return None
    vertices = np.array([(v.x, v.y) for v in path.control_vertices()])
    if len(vertices) < 2 or not np.isfinite(vertices).all():
        return None
    error = max(float(np.ptp(vertices, axis=0).max()), 1e-9) / _CHORDS
    return np.array([(v.x, v.y) for v in path.flattening(error, segments=4)])


def _chained(entity: Any) -> bool:
    """Drawn in dashes and dots, by itself or by its layer."""
    name = entity.dxf.get("linetype", "BYLAYER").upper()
    if name == "BYLAYER" and entity.doc is not None and entity.doc.layers.has_entry(entity.dxf.get("layer", "0")):
        name = entity.doc.layers.get(entity.dxf.get("layer", "0")).dxf.get("linetype", "").upper()
    return name.startswith(_CHAIN_LINES)


def _place(entity: Any) -> Place | None:
    """Where it is met first, for going there."""
    for name in ("start", "center", "insert", "location", "vtx0", "defpoint"):
        if entity.dxf.is_supported(name) and entity.dxf.hasattr(name):
            p = entity.dxf.get(name)
            return (float(p.x), float(p.y)) if math.isfinite(p.x) and math.isfinite(p.y) else None
    first = next(iter(getattr(entity, "control_points", ())), None)
    if first is None and entity.dxftype() == "LWPOLYLINE":
        first = next(iter(entity.vertices()), None)
    if first is None and entity.dxftype() == "POLYLINE":
        first = next((v.dxf.location for v in entity.vertices), None)
    return (float(first[0]), float(first[1])) if first is not None else None


def _lies_flat(entity: Any, kind: str) -> bool:
    """All of it at one height, and round things round about the upright."""
    heights, reach = _heights(entity, kind)
    if len(heights) and float(np.ptp(heights)) > _FLAT * max(1.0, reach):
        return False
    x, y, z = entity.dxf.get("extrusion", (0, 0, 1)) if kind in ("CIRCLE", "ARC", "ELLIPSE") else (0, 0, 1)
    return math.hypot(x, y) <= 1e-9 * abs(z) if z else False


def _heights(entity: Any, kind: str) -> tuple[Array, float]:
    points = []
    if kind == "LINE":
        points = [entity.dxf.start, entity.dxf.end]
    elif kind == "ELLIPSE":
        major = entity.dxf.major_axis
        points = [entity.dxf.center, entity.dxf.center + major]
    elif kind == "SPLINE":
        points = [*entity.control_points, *entity.fit_points]
    rows = np.array([tuple(p) for p in points], float).reshape(-1, 3)
    return rows[:, 2], float(np.abs(rows).max(initial=0.0))


def _turned_over(entity: Any) -> bool:
    return bool(entity.dxf.get("extrusion", (0, 0, 1))[2] < 0)


def _finite(*numbers: float) -> tuple[float, ...]:
    if not all(math.isfinite(n) for n in numbers):
        raise ValueError("a coordinate that is no number")
    return numbers


def _pair(p: Any) -> Place:
    x, y = _finite(float(p[0]), float(p[1]))
    return x, y


def _spot(entity: Any) -> Shape:
    return Spot(_pair(entity.dxf.location))


def _line(entity: Any) -> Shape | None:
    a, b = _pair(entity.dxf.start), _pair(entity.dxf.end)
    return Line(a, b) if a != b else None


def _round(entity: Any) -> Shape | None:
    d = entity.dxf
    (radius,) = _finite(float(d.radius))
    if radius <= 0:
        return None
    over = _turned_over(entity)
    x, y = _pair(d.center)
    centre = (-x, y) if over else (x, y)
    if entity.dxftype() == "CIRCLE":
        return Arc(centre, radius)
    first, last = (math.radians(n) for n in _finite(float(d.start_angle), float(d.end_angle)))
    if over:
        first, last = math.pi - last, math.pi - first
    return Arc(centre, radius, first, first + (_ahead(last - first)))


def _ahead(angle: float) -> float:
    """Counter-clockwise radians, a whole turn for none."""
    turn = angle % math.tau
    return turn if 1e-12 < turn < math.tau - 1e-12 else math.tau


def _ellipse(entity: Any) -> Shape | None:
    d = entity.dxf
    major = _pair(d.major_axis)
    (ratio,) = _finite(float(d.ratio))
    if math.hypot(*major) <= 0 or not 0 < abs(ratio) <= 1:
        return None
    first, last = _finite(float(d.start_param), float(d.end_param))
    if _turned_over(entity) != (ratio < 0):
        first, last = -last, -first
    return Ellipse(_pair(d.center), major, abs(ratio), first, first + _ahead(last - first))


def _spline(entity: Any) -> Shape | None:
    tool = entity.construction_tool()
    control = np.array([_pair(p) for p in tool.control_points])
    weights = np.array(tool.weights(), float) if tool.is_rational else None
    if weights is not None and np.ptp(weights) < 1e-12:
        weights = None
    if np.ptp(control, axis=0).max() <= 0:
        return None
    return Spline(tool.degree, np.array(tool.knots(), float), control, weights)


_MAKERS = {"POINT": _spot, "LINE": _line, "CIRCLE": _round, "ARC": _round, "ELLIPSE": _ellipse, "SPLINE": _spline}
