"""3MF in and out: meshes of a package with their unit, components and placements. Reference: 3MF Core Specification 1.3."""

from __future__ import annotations

import re
import zipfile
from array import array
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from xml.parsers import expat
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

from contour.exchange.polygons import triangles_of
from contour.exchange.raw import NoteLog, RawScan, check_facet_count
from contour.exchange.unpack import MAX_BYTES, member, members
from contour.recipe.problem import ContourError, Where

__all__ = ["model_parts", "read_3mf", "write_3mf"]

# Units of the format -> ours and a factor: the two we do not have are written in the nearest one.
_UNITS = {
    "micron": ("mm", 0.001),
    "millimeter": ("mm", 1.0),
    "centimeter": ("cm", 1.0),
    "inch": ("inch", 1.0),
    "foot": ("inch", 12.0),
    "meter": ("m", 1.0),
}
_DEPTH = 16


@dataclass(slots=True)
class _Object:
    name: str = ""
    points: Any = field(default_factory=lambda: array("d"))
    facets: Any = field(default_factory=lambda: array("q"))
    parts: list[tuple[str | None, str, NDArray[np.float64]]] = field(default_factory=list)


@dataclass(slots=True)
class _Model:
    unit: str = "millimeter"
    objects: dict[str, _Object] = field(default_factory=dict)
    items: list[tuple[str | None, str, NDArray[np.float64]]] = field(default_factory=list)


def model_parts(archive: zipfile.ZipFile) -> list[str]:
    """Names of the model parts in a package, the usual root first."""
    found = [n for n in members(archive) if n.lower().endswith(".model")]
    return sorted(found, key=lambda n: (n.lower() != "3d/3dmodel.model", n))


def _matrix(text: str | None) -> NDArray[np.float64]:
    """4x3 row matrix of a placement: points multiply from the left."""
    if not text:
        return np.vstack([np.eye(3), np.zeros(3)])
    values = np.array([float(t) for t in text.split()])
    if values.shape != (12,) or not np.isfinite(values).all():
        raise ValueError(text[:60])
    return values.reshape(4, 3)


def _parse(data: bytes, part: str, name: str, log: NoteLog) -> _Model:
    """One model part; raises ContourError (file-not-understood, file-too-large) with the line."""
    model = _Model()
    now: list[_Object] = []
    bad = float("nan")

    def number(text: str | None) -> float:
        try:
            return float(text) if text is not None else bad
        except ValueError:
            return bad

    def index(text: str | None) -> int:
        return int(text) if text is not None and text.isdigit() and len(text) < 12 else -1

    def path_of(attributes: dict[str, str]) -> str | None:
        found = next((v for k, v in attributes.items() if k.rpartition(":")[2] == "path"), None)
        return found.lstrip("/") if found else None

    def start(tag: str, attributes: dict[str, str]) -> None:
        tag = tag.rpartition(":")[2]
        get = attributes.get
        if tag == "vertex" and now:
            now[-1].points.extend((number(get("x")), number(get("y")), number(get("z"))))
        elif tag == "triangle" and now:
            now[-1].facets.extend((index(get("v1")), index(get("v2")), index(get("v3"))))
        elif tag == "model":
            model.unit = get("unit", "millimeter")
        elif tag == "object":
            now.append(_Object(name=get("name", "")))
            model.objects[get("id", "")] = now[-1]
        elif tag in ("component", "item"):
            try:
                placed = (path_of(attributes), get("objectid", ""), _matrix(get("transform")))
            except ValueError:
                log.add_file("bad-placement", f"a {tag} with a placement that cannot be read was dropped")
                return
            if tag == "item":
                model.items.append(placed)
            elif now:
                now[-1].parts.append(placed)

    def refuse(*_: Any) -> None:
        raise ContourError(
            "file-not-understood",
            "the 3MF model declares a document type, which the format forbids",
            where=Where(file=f"{name}: {part}"),
            got="a document type",
            need="a model without one",
            remedy="export the file again",
        )

    def end(tag: str) -> None:
        if tag.rpartition(":")[2] == "object" and now:
            check_facet_count(len(now.pop().facets) // 3, name)

    parser = expat.ParserCreate()
    parser.StartElementHandler, parser.EndElementHandler = start, end
    parser.StartDoctypeDeclHandler = refuse
    try:
        parser.Parse(data, True)
    except (expat.ExpatError, UnicodeDecodeError, ValueError, LookupError) as error:
        line = getattr(error, "lineno", None)
        raise ContourError(
            "file-not-understood",
            "the 3MF model is not readable XML",
            where=Where(file=f"{name}: {part}", line=line),
            got=str(error)[:80],
            need="well-formed XML",
            remedy="export the file again",
        ) from None
    return model


def _collect(
    models: dict[str, _Model],
    part: str,
    id: str,
    placed: NDArray[np.float64],
    depth: int,
    log: NoteLog,
    out: list,
    room: list[int],
) -> None:
    found = models.get(part)
    thing = found.objects.get(id) if found else None
    if thing is None or depth > _DEPTH:
        log.add_file("lost-object", "an object that is placed but not there was passed over")
        return
    points = np.frombuffer(thing.points, np.float64).reshape(-1, 3)
    facets = np.frombuffer(thing.facets, np.int64).reshape(-1, 3)
    if len(facets):
        room[0] -= len(facets)
        if room[0] < 0:
            check_facet_count(10**9, "the package")
        out.append((thing.name, points @ placed[:3] + placed[3], facets, bool(np.linalg.det(placed[:3]) < 0)))
    for other, inner, matrix in thing.parts:
        room[1] -= 1
        if room[1] < 0:
            raise ContourError(
                "file-too-large",
                "the 3MF package places too many components",
                need="at most 100,000",
                got="more than 100,000",
                where=Where(file=part),
                remedy="export the part by itself",
            )
        joined = np.vstack([matrix[:3] @ placed[:3], matrix[3] @ placed[:3] + placed[3]])
        _collect(models, other or part, inner, joined, depth + 1, log, out, room)


def read_3mf(archive: zipfile.ZipFile, name: str) -> RawScan:
    """All meshes that the package's build places; without a build, every mesh as it stands.

    Raises ContourError (file-not-understood, file-too-large).
    """
    log = NoteLog("facet")
    limit = MAX_BYTES
    models: dict[str, _Model] = {}
    parts = model_parts(archive)
    for part in parts:
        data = member(archive, part, name, limit=limit)
        limit -= len(data)
        models[part] = _parse(data, part, name, log)
    root = models[parts[0]]
    still = np.vstack([np.eye(3), np.zeros(3)])
    items = root.items or [(p, id, still) for p, m in models.items() for id, o in m.objects.items() if len(o.facets)]
    found: list[tuple[str, NDArray[np.float64], NDArray[np.int64], bool]] = []
    room = [10_000_000, 100_000]
    for other, id, matrix in items:
        _collect(models, other or parts[0], id, matrix, 0, log, found, room)
    if root.unit not in _UNITS:
        log.add_file("unknown-unit", f"the unit {root.unit[:20]!r} is not one of the format's; millimetres are taken")
    unit, factor = _UNITS.get(root.unit, ("mm", 1.0))
    points, facets, base = [np.empty((0, 3))], [np.empty((0, 3), np.int64)], 0
    for _, p, f, mirrored in found:
        points.append(p * factor)
        # An index that is out of its own mesh must not reach into the next one.
        inside = ((f >= 0) & (f < len(p))).all(axis=1, keepdims=True)
        facets.append(np.where(inside, (f[:, ::-1] if mirrored else f) + base, -1))
        base += len(p)
    corners, ids, read = triangles_of(np.vstack(points), np.vstack(facets), log)
    check_facet_count(read, name)
    names = tuple(n for n, *_ in found if n)
    return RawScan(corners, ids, read, "3mf", names, log.notes(), unit)  # type: ignore[arg-type]


_TYPES = """<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>"""
_RELATIONS = """<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"""


def write_3mf(
    path: Path,
    bodies: Sequence[tuple[str, NDArray[np.float64], NDArray[np.int32]]],
    *,
    factor: float = 1.0,
    unit: str = "mm",
) -> int:
    """Write (name, vertices (n, 3), triangles (m, 3)) per body, coordinates multiplied by `factor`, in `unit`.

    Returns the number of triangles.
    """
    said = next(k for k, (u, f) in _UNITS.items() if u == unit and f == 1.0)
    count = 0
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", _TYPES)
        archive.writestr("_rels/.rels", _RELATIONS)
        with archive.open("3D/3dmodel.model", "w", force_zip64=True) as out:

            def put(text: str) -> None:
                out.write(text.encode())

            put('<?xml version="1.0" encoding="UTF-8"?>\n')
            put(f'<model unit="{said}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>')
            for k, (name, vertices, triangles) in enumerate(bodies, 1):
                label = quoteattr(re.sub(r"[\x00-\x1f]", " ", name))
                put(f'<object id="{k}" type="model" name={label}><mesh><vertices>')
                for x, y, z in (vertices * factor).tolist():
                    put(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>')
                put("</vertices><triangles>")
                for a, b, c in triangles.tolist():
                    put(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>')
                put("</triangles></mesh></object>")
                count += len(triangles)
            put("</resources><build>" + "".join(f'<item objectid="{k}"/>' for k in range(1, len(bodies) + 1)))
            put("</build></model>")
    return count
