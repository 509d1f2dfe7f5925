"""VRML 2 (VRML97, ISO/IEC 14772) in: indexed faces of all shapes, moved by the transforms above them; the rest is passed over."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.exchange.polygons import triangles_of
from contour.exchange.raw import NoteLog, RawScan, check_facet_count
from contour.recipe.problem import ContourError, Where

__all__ = ["looks_like_vrml", "read_vrml"]

_TOKEN = re.compile(r'#[^\n\r]*|"(?:[^"\\]|\\.)*"|[\[\]{}]|[^\s,\[\]{}"#]+')
_NUMBERS = re.compile(r"[-+0-9.eE\s,xXa-fA-F]*\Z")
_DEPTH = 200
_MOST_NODES = 200_000
_GROUPS = ("children", "choice", "level", "proxy")

Array = NDArray[np.float64]


@dataclass(slots=True)
class _Node:
    kind: str
    fields: dict[str, Any] = field(default_factory=dict)


def looks_like_vrml(text: str) -> bool:
    """Whether the first line says so, of whatever version."""
    return text.lstrip("\ufeff \t\r\n")[:6].upper() == "#VRML "


class _Reader:
    """Nodes with their fields, read by the grammar alone: what a kind of node means is for others to say."""

    def __init__(self, text: str, name: str) -> None:
        self.text, self.name, self.at = text, name, 0
        self.known: dict[str, _Node] = {}
        self.nodes = 0

    def fault(self, got: str) -> ContourError:
        line = self.text.count("\n", 0, self.at) + 1
        return ContourError(
            "file-not-understood",
            "the VRML file breaks off, or is not written as VRML 2 is",
            where=Where(file=self.name, line=line),
            got=got[:60],
            need="nodes with fields in braces",
            remedy="export it again as VRML 2 (VRML97), or as STL",
        )

    def peek(self) -> str | None:
        while True:
            found = _TOKEN.search(self.text, self.at)
            if found is None:
                return None
            if found.group()[0] != "#":
                return found.group()
            self.at = found.end()

    def take(self) -> str:
        token = self.peek()
        if token is None:
            raise self.fault("the end of the file")
        self.at = _TOKEN.search(self.text, self.at).end()  # type: ignore[union-attr]
        return token

    def expect(self, wanted: str) -> None:
        token = self.take()
        if token != wanted:
            raise self.fault(token)

    def skip_braces(self, opening: str, closing: str) -> None:
        self.expect(opening)
        depth = 1
        while depth:
            token = self.take()
            depth += (token == opening) - (token == closing)

    def node(self, depth: int) -> _Node | None:
        """A node, or none for NULL. Raises ContourError (file-not-understood)."""
        self.nodes += 1
        if depth > _DEPTH or self.nodes > _MOST_NODES:
            raise self.fault("nodes inside nodes without an end")
        word = self.take()
        if word == "NULL":
            return None
        if word == "USE":
            return self.known.get(self.take())
        called = self.take() if word == "DEF" else None
        node = _Node(self.take() if called else word)
        if called:
            self.known[called] = node
        self.expect("{")
        while (name := self.take()) != "}":
            if name == "ROUTE":
                for _ in range(3):
                    self.take()
            elif name in ("PROTO", "EXTERNPROTO"):
                self._proto(name)
            elif not re.match(r"[A-Za-z_]", name):
                raise self.fault(name)
            else:
                node.fields[name] = self.value(depth)
        return node

    def _proto(self, word: str) -> None:
        self.take()
        self.skip_braces("[", "]")
        if word == "PROTO":
            self.skip_braces("{", "}")
        else:
            self.value(0)

    def value(self, depth: int) -> Any:
        """Numbers as an array, nodes as a list, a word or a text as it stands."""
        token = self.peek()
        if token == "[":
            self.take()
            end = self.text.find("]", self.at)
            inside = self.text[self.at : end] if end >= 0 else ""
            if end >= 0 and _NUMBERS.match(inside):
                self.at = end + 1
                return self._numbers(inside)
            listed: list[Any] = []
            loose: list[str] = []
            while self.peek() != "]":
                if self._is_number(self.peek()):
                    loose.append(self.take())
                elif (self.peek() or "")[:1] == '"':
                    self.take()
                else:
                    listed.append(self.node(depth + 1))
            self.take()
            return listed if listed else self._numbers(" ".join(loose))
        if self._is_number(token):
            words = []
            while self._is_number(self.peek()):
                words.append(self.take())
            return self._numbers(" ".join(words))
        if token in ("TRUE", "FALSE") or (token or "")[:1] == '"':
            return self.take()
        if token == "IS":
            self.take()
            return self.take()
        return [n for n in [self.node(depth + 1)] if n is not None]

    @staticmethod
    def _is_number(token: str | None) -> bool:
        return token is not None and re.match(r"[-+.]?[0-9]|[-+]?(inf|nan)\b", token, re.IGNORECASE) is not None

    def _numbers(self, text: str) -> Array:
        try:
            return np.array([float(w) for w in text.replace(",", " ").split()])
        except ValueError:
            words = (w for w in text.replace(",", " ").split())
            return np.array([_figure(w) for w in words])

    def scene(self) -> Iterator[_Node]:
        while (token := self.peek()) is not None:
            if token == "ROUTE":
                for _ in range(4):
                    self.take()
            elif token in ("PROTO", "EXTERNPROTO"):
                self._proto(self.take())
            else:
                node = self.node(0)
                if node is not None:
                    yield node


def _figure(word: str) -> float:
    try:
        return float(int(word, 16)) if word.lower().startswith("0x") else float(word)
    except ValueError:
        return float("nan")


def _vector(node: _Node, name: str, default: tuple[float, ...]) -> Array:
    value = node.fields.get(name)
    if isinstance(value, np.ndarray) and len(value) == len(default) and np.isfinite(value).all():
        return value
    return np.array(default)


def _turned(axis: Array, angle: float) -> Array:
    length = float(np.linalg.norm(axis))
    if length < 1e-12:
        return np.eye(4)
    x, y, z = axis / length
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    out = np.eye(4)
    out[:3, :3] += np.sin(angle) * k + (1 - np.cos(angle)) * (k @ k)
    return out


def _moved(by: Array) -> Array:
    out = np.eye(4)
    out[:3, 3] = by
    return out


def _matrix(node: _Node) -> Array:
    """T · C · R · SR · S · -SR · -C, as the standard has it (6.52)."""
    centre, turn = _vector(node, "center", (0, 0, 0)), _vector(node, "rotation", (0, 0, 1, 0))
    slant = _vector(node, "scaleOrientation", (0, 0, 1, 0))
    scale = np.diag([*_vector(node, "scale", (1, 1, 1)), 1.0])
    there, back = _turned(slant[:3], slant[3]), _turned(slant[:3], -slant[3])
    shift = _moved(_vector(node, "translation", (0, 0, 0)) + centre)
    return shift @ _turned(turn[:3], turn[3]) @ there @ scale @ back @ _moved(-centre)


def _shapes(node: _Node, matrix: Array, log: NoteLog, depth: int = 0) -> Iterator[tuple[_Node, Array]]:
    """Geometry nodes with where they stand. What is used several times stands several times."""
    if depth > _DEPTH:
        return
    if node.kind == "Transform":
        matrix = matrix @ _matrix(node)
    if node.kind == "Shape":
        for geometry in node.fields.get("geometry", []):
            yield geometry, matrix
        return
    if node.kind == "Inline":
        log.add_file("elsewhere", "what stands in another file (Inline) was passed over")
    for name in _GROUPS:
        own = node.fields.get(name)
        if isinstance(own, list):
            # Of a level of detail the finest is meant, of a choice the first one.
            for child in own[:1] if name in ("choice", "level") else own:
                if isinstance(child, _Node):
                    yield from _shapes(child, matrix, log, depth + 1)


def _faces(geometry: _Node) -> tuple[Array, list[NDArray[np.int64]]]:
    """(Points (n, 3), corners of each polygon), inside out where the file says that corners run clockwise."""
    coordinates = geometry.fields.get("coord", [])
    held = coordinates[0].fields.get("point") if isinstance(coordinates, list) and coordinates else None
    flat = held if isinstance(held, np.ndarray) else np.empty(0)
    points = flat[: len(flat) // 3 * 3].reshape(-1, 3)
    index = geometry.fields.get("coordIndex")
    numbers = (
        index.astype(np.int64) if isinstance(index, np.ndarray) and np.isfinite(index).all() else np.empty(0, np.int64)
    )
    ends = np.flatnonzero(numbers == -1)
    faces = [f[f != -1] for f in np.split(numbers, ends + 1)]
    clockwise = geometry.fields.get("ccw") == "FALSE"
    return points, [f[::-1] if clockwise else f for f in faces if len(f)]


def read_vrml(text: str, name: str) -> RawScan:
    """Triangles of a VRML 2 file. Raises ContourError (file-not-understood) for VRML 1 and what is not written as VRML is."""
    if "V1" in text[:40].upper():
        raise ContourError(
            "file-not-understood",
            "this is VRML 1",
            where=Where(file=name),
            got=text[:20].strip(),
            need="VRML 2 (VRML97)",
            remedy="export it again as VRML 2, or as STL",
        )
    log = NoteLog("facet")
    reader = _Reader(text, name)
    corners: list[Array] = []
    ids: list[NDArray[np.int64]] = []
    read = others = 0
    for top in reader.scene():
        for geometry, matrix in _shapes(top, np.eye(4), log):
            if geometry.kind != "IndexedFaceSet":
                others += 1
                continue
            points, faces = _faces(geometry)
            placed = points @ matrix[:3, :3].T + matrix[:3, 3]
            if np.linalg.det(matrix[:3, :3]) < 0:
                faces = [f[::-1] for f in faces]
            own, numbers, count = triangles_of(placed, faces, log)
            corners.append(own)
            ids.append(numbers + read)
            read += count
            check_facet_count(read, name)
    if others:
        log.add_file(
            "not-facets", f"{others} shapes that are no indexed faces (boxes, lines, points …) were passed over"
        )
    names = tuple(n for n in reader.known if n)[:20]
    joined = np.concatenate(corners) if corners else np.empty((0, 3, 3))
    return RawScan(joined, np.concatenate(ids) if ids else np.empty(0, np.int64), read, "wrl", names, log.notes())
