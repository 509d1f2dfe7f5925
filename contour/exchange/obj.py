"""OBJ in: vertices and faces (polygons, negative indices, continued lines); the rest is passed over."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.exchange.polygons import fan_or_ears
from contour.exchange.raw import NoteLog, RawScan, check_facet_count

__all__ = ["looks_like_obj", "read_obj"]

_KEYWORDS = {"v", "vn", "vt", "vp", "f", "g", "o", "s", "l", "p", "usemtl", "mtllib"}


def looks_like_obj(text: str, suffix: str) -> bool:
    """Decided by the first line that says something; a comment leaves it to the file's ending."""
    for line in text[:100_000].splitlines():
        words = line.split()
        if not words or words[0].startswith("#"):
            continue
        if words[0] in _KEYWORDS:
            return True
        if words[0].lower() in ("solid", "facet", "vertex"):
            return False
    return suffix == ".obj"


def read_obj(text: str, name: str) -> RawScan:
    """Triangles of an OBJ file; polygons are triangulated, faces with bad indices dropped with their line."""
    log = NoteLog("line")
    vertices: list[tuple[float, float, float]] = []
    faces: list[tuple[int, list[int]]] = []
    solids: list[str] = []
    others = 0
    pending = ""
    for number, raw in enumerate(text.splitlines(), 1):
        line = pending + raw
        if line.endswith("\\"):
            pending = line[:-1] + " "
            continue
        pending = ""
        words = line.split()
        if not words:
            continue
        head = words[0]
        if head == "v":
            try:
                x, y, z = float(words[1]), float(words[2]), float(words[3])
            except (ValueError, IndexError):
                x = y = z = float("nan")
                log.add("bad-vertex", "vertices that cannot be read (faces on them are dropped)", number)
            vertices.append((x, y, z))
        elif head == "f":
            ids = []
            for word in words[1:]:
                if word.startswith("#"):
                    break
                try:
                    k = int(word.split("/", 1)[0])
                except ValueError:
                    k = 0
                # Negative counts back from the vertices read so far; 0 never exists, so it marks what is bad.
                ids.append(k - 1 if k > 0 else len(vertices) + k if k < 0 else -1)
            faces.append((number, ids))
        elif head in ("o", "g"):
            solids.append(" ".join(words[1:]))
        elif head in ("l", "p", "curv", "surf"):
            others += 1
        elif not head.startswith("#") and head not in _KEYWORDS and head not in ("mg", "cstype", "end"):
            log.add("unknown-line", "lines that are not OBJ were passed over", number)
    if others:
        log.add_file("not-facets", f"{others} points, lines or curves were passed over")
    if vertices and not faces:
        log.add_file("points-only", f"{len(vertices):,} points and no face")
    points = np.array(vertices, dtype=np.float64).reshape(-1, 3)
    usable = np.isfinite(points).all(axis=1) & (np.abs(points).max(axis=1, initial=0) < 1e12)
    triangles, numbers, read = _triangles(faces, points, usable, log)
    check_facet_count(read, name)
    corners = points[triangles] if len(triangles) else np.empty((0, 3, 3))
    return RawScan(corners, numbers, read, "obj", tuple(s for s in solids if s), log.notes())


def _triangles(
    faces: list[tuple[int, list[int]]], points: NDArray[np.float64], usable: NDArray[np.bool_], log: NoteLog
) -> tuple[NDArray[np.int64], NDArray[np.int64], int]:
    triangles: list[tuple[int, int, int]] = []
    numbers: list[int] = []
    read = 0
    count = len(points)
    for line, ids in faces:
        if len(ids) < 3:
            log.add("few-vertices", "faces with fewer than 3 vertices were dropped", line)
            read += 1
            continue
        pieces = len(ids) - 2
        if any(k < 0 or k >= count for k in ids):
            log.add("bad-index", "faces that name a vertex which does not exist were dropped", line)
        elif not all(usable[k] for k in ids):
            log.add("not-finite", "faces with NaN, infinite or unreadable vertices were dropped", line)
        else:
            cut = [(0, 1, 2)] if pieces == 1 else fan_or_ears(points[ids])
            triangles.extend((ids[a], ids[b], ids[c]) for a, b, c in cut)
            numbers.extend(range(read, read + pieces))
        read += pieces
    return np.array(triangles, dtype=np.int64).reshape(-1, 3), np.array(numbers, dtype=np.int64), read
