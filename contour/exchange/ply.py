"""PLY in: ASCII and binary of either byte order, any scalar types, polygons; what is not vertices or faces is passed over."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.exchange.polygons import triangles_of
from contour.exchange.raw import NoteLog, RawScan, check_facet_count
from contour.recipe.problem import ContourError, Where

__all__ = ["looks_like_ply", "read_ply"]

_TYPES = {
    "char": "i1",
    "int8": "i1",
    "uchar": "u1",
    "uint8": "u1",
    "short": "i2",
    "int16": "i2",
    "ushort": "u2",
    "uint16": "u2",
    "int": "i4",
    "int32": "i4",
    "uint": "u4",
    "uint32": "u4",
    "float": "f4",
    "float32": "f4",
    "double": "f8",
    "float64": "f8",
}
_INDEX_NAMES = ("vertex_indices", "vertex_index")


@dataclass(frozen=True, slots=True)
class _Property:
    """A scalar (`count` empty) or a list with the type of its length."""

    name: str
    dtype: str
    count: str = ""


@dataclass(slots=True)
class _Element:
    name: str
    told: int
    properties: list[_Property]


def looks_like_ply(data: bytes) -> bool:
    """Whether the bytes begin as a PLY file does."""
    return data[:4] in (b"ply\n", b"ply\r", b"ply ") or (data[:3] == b"ply" and data[3:4].isspace())


def _bad(name: str, line: int, message: str, got: str) -> ContourError:
    return ContourError(
        "file-not-understood",
        message,
        where=Where(file=name, line=line),
        got=got[:80],
        need="a PLY mesh as the open format writes it",
        remedy="export the scan again",
    )


def _header(data: bytes, name: str) -> tuple[str, list[_Element], int]:
    """Format, elements and where the data begins; raises ContourError (file-not-understood) with the line."""
    head = data[:65536]
    end = head.find(b"end_header")
    if end < 0:
        raise _bad(name, 1, "the PLY header does not end", f"{len(head)} bytes without end_header")
    stop = end + len(b"end_header")
    # One line break ends the header; a carriage return before it belongs to it.
    if data[stop : stop + 2] == b"\r\n":
        stop += 2
    elif data[stop : stop + 1] in (b"\n", b"\r"):
        stop += 1
    form = ""
    elements: list[_Element] = []
    for number, line in enumerate(head[:end].decode("latin-1").splitlines(), 1):
        words = line.split()
        if not words or words[0] in ("ply", "comment", "obj_info"):
            continue
        if words[0] == "format" and len(words) >= 2:
            form = words[1]
        elif words[0] == "element" and len(words) >= 3 and words[2].isdigit():
            elements.append(_Element(words[1], int(words[2]), []))
        elif words[0] == "property" and elements:
            try:
                if words[1] == "list":
                    elements[-1].properties.append(_Property(words[4], _TYPES[words[3]], _TYPES[words[2]]))
                else:
                    elements[-1].properties.append(_Property(words[2], _TYPES[words[1]]))
            except (KeyError, IndexError):
                raise _bad(name, number, "a PLY property that cannot be read", line.strip()) from None
        else:
            raise _bad(name, number, "a PLY header line that cannot be read", line.strip())
    if form not in ("ascii", "binary_little_endian", "binary_big_endian"):
        raise _bad(name, 2, "the PLY header names no known format", form or "nothing")
    return form, elements, stop


def _points(columns: dict[str, NDArray], rows: int) -> NDArray[np.float64]:
    missing = [a for a in "xyz" if a not in columns]
    if missing:
        return np.empty((0, 3))
    return np.column_stack([columns[a][:rows].astype(np.float64) for a in "xyz"])


class _Binary:
    """Reads elements off binary data in order."""

    def __init__(self, data: bytes, at: int, order: str, log: NoteLog) -> None:
        self.data, self.at, self.order, self.log = data, at, order, log

    def _short(self, element: _Element, rows: int) -> None:
        if rows < element.told:
            told = f"the header tells {element.told:,} {element.name} entries, the file holds {rows:,}"
            self.log.add_file("wrong-count", told)

    def scalars(self, element: _Element) -> dict[str, NDArray]:
        dtype = np.dtype([(f"{i} {p.name}", self.order + p.dtype) for i, p in enumerate(element.properties)])
        rows = element.told if dtype.itemsize == 0 else min(element.told, (len(self.data) - self.at) // dtype.itemsize)
        self._short(element, rows)
        if dtype.itemsize == 0:
            return {}
        table = np.frombuffer(self.data, dtype, rows, self.at)
        self.at += rows * dtype.itemsize
        return {p.name: table[f"{i} {p.name}"] for i, p in enumerate(element.properties)}

    def lists(self, element: _Element, wanted: str) -> list[NDArray[np.int64]] | NDArray[np.int64]:
        """One list per row of the wanted property; a plain (n, 3) array when every list is a triangle."""
        whole = self._triangles(element, wanted)
        if whole is not None:
            return whole
        out: list[NDArray[np.int64]] = []
        for row in range(element.told):
            kept = np.empty(0, np.int64)
            for p in element.properties:
                if not p.count:
                    self.at += np.dtype(p.dtype).itemsize
                    continue
                size = np.dtype(p.count).itemsize
                if self.at + size > len(self.data):
                    self._short(element, row)
                    return out
                n = int(np.frombuffer(self.data, self.order + p.count, 1, self.at)[0])
                self.at += size
                bytes_ = n * np.dtype(p.dtype).itemsize
                if n < 0 or self.at + bytes_ > len(self.data):
                    self._short(element, row)
                    return out
                if p.name == wanted:
                    kept = np.frombuffer(self.data, self.order + p.dtype, n, self.at).astype(np.int64)
                self.at += bytes_
            if self.at > len(self.data):
                self._short(element, row)
                return out
            out.append(kept)
        return out

    def _triangles(self, element: _Element, wanted: str) -> NDArray[np.int64] | None:
        """All rows at once, if every list has three entries."""
        fields: list[tuple] = []
        for i, p in enumerate(element.properties):
            if p.count:
                fields.append((f"{i} count", self.order + p.count))
                fields.append((f"{i} list", self.order + p.dtype, 3))
            else:
                fields.append((f"{i} one", self.order + p.dtype))
        dtype = np.dtype(fields)
        rows = min(element.told, (len(self.data) - self.at) // dtype.itemsize)
        table = np.frombuffer(self.data, dtype, rows, self.at)
        lists = [i for i, p in enumerate(element.properties) if p.count]
        if any((table[f"{i} count"] != 3).any() for i in lists):
            return None
        if rows < element.told:  # the last whole lists may be of another length: let the slow way find out
            if rows == 0:
                return None
            self._short(element, rows)
        self.at += rows * dtype.itemsize
        k = next(i for i in lists if element.properties[i].name == wanted)
        return table[f"{k} list"].astype(np.int64).reshape(-1, 3)


def _ascii(text: str, elements: list[_Element], log: NoteLog) -> tuple[NDArray[np.float64], list[NDArray[np.int64]]]:
    points: list[list[float]] = []
    faces: list[NDArray[np.int64]] = []
    lines = iter(enumerate((t for t in text.splitlines() if t.strip()), 1))
    for element in elements:
        order = {p.name: i for i, p in enumerate(element.properties) if not p.count}
        for row in range(element.told):
            try:
                number, line = next(lines)
            except StopIteration:
                told = f"the header tells {element.told:,} {element.name} entries, the file holds {row:,}"
                log.add_file("wrong-count", told)
                return np.array(points).reshape(-1, 3), faces
            words = line.split()
            if element.name == "vertex":
                try:
                    points.append([float(words[order[a]]) for a in "xyz"])
                except (ValueError, IndexError, KeyError):
                    points.append([float("nan")] * 3)
                    log.add("bad-vertex", "vertices that cannot be read (faces on them are dropped)", number)
            elif element.name == "face":
                faces.append(_ascii_face(words, element, number, log))
    return np.array(points).reshape(-1, 3), faces


def _ascii_face(words: list[str], element: _Element, number: int, log: NoteLog) -> NDArray[np.int64]:
    at = 0
    try:
        for p in element.properties:
            if not p.count:
                at += 1
                continue
            n = int(words[at])
            if p.name in _INDEX_NAMES:
                if n < 0 or at + 1 + n > len(words):
                    raise ValueError
                return np.array([int(w) for w in words[at + 1 : at + 1 + n]], dtype=np.int64)
            at += 1 + n
    except (ValueError, IndexError, OverflowError):
        log.add("bad-face", "faces that cannot be read were dropped", number)
    return np.empty(0, np.int64)


def read_ply(data: bytes, name: str) -> RawScan:
    """Triangles of a PLY file; raises ContourError (file-not-understood, file-too-large)."""
    form, elements, at = _header(data, name)
    log = NoteLog("facet")
    told = next((e.told for e in elements if e.name == "face"), 0)
    points = np.empty((0, 3))
    faces: list[NDArray[np.int64]] | NDArray[np.int64] = []
    if form == "ascii":
        # A count beyond what the bytes can hold is a false header, not a large scan.
        check_facet_count(min(told, len(data) - at), name)
        points, faces = _ascii(data[at:].decode("latin-1"), elements, log)
    else:
        check_facet_count(min(told, (len(data) - at) // 4), name)
        reader = _Binary(data, at, "<" if form == "binary_little_endian" else ">", log)
        for element in elements:
            listed = [p for p in element.properties if p.count]
            indices = next((p.name for p in listed if p.name in _INDEX_NAMES), None)
            if not listed:
                columns = reader.scalars(element)
                if element.name == "vertex":
                    points = _points(columns, len(next(iter(columns.values()), ())))
            elif element.name == "face" and indices is not None:
                faces = reader.lists(element, indices)
            else:
                reader.lists(element, listed[0].name)
    if len(points) and not len(faces):
        log.add_file("points-only", f"{len(points):,} points and no face")
    corners, ids, read = triangles_of(points, faces, log)
    check_facet_count(read, name)
    return RawScan(corners, ids, read, "ply", (), log.notes())
