"""How faces, edges, chains and corners of a kept body are found by their lasting names, offered for repair, and labelled.

Bodies that an earlier version has kept tell their faces elsewhere, and nothing of their edges.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from contour.recipe.reference import Candidate, ChainRef, EdgeRef, FaceRef, PartResolver, VertexRef
from contour.solid.topology.labels import corner_label, edge_label, face_label
from contour.solid.topology.resolve import (
    candidates,
    chain_of,
    edge_faces_named,
    is_exact,
    resolve_edges,
    resolve_face,
    resolve_vertex,
    roots,
    split_name,
)

__all__ = ["BODY_PARTS", "TOPOLOGY_FILE", "faces_with_neighbours", "read_topology", "write_topology"]

TOPOLOGY_FILE = "topology.json"
Row = dict[str, Any]


def read_topology(folder: Path) -> dict[str, list[Row]]:
    """Rows of a kept body: see :func:`contour.solid.topology.rows.topology_rows`."""
    file = folder / TOPOLOGY_FILE
    if file.exists():
        found: dict[str, list[Row]] = json.loads(file.read_text())
        return found
    kept = json.loads((folder / "outcome.json").read_text())
    about = kept["about"] if "about" in kept else kept["body"]
    if "face_list" not in about:
        # Made in passing, for a preview: the kernel is at hand there.
        from contour.solid.topology.rows import rows_of

        rows = rows_of(folder)
        write_topology(rows, folder)
        return rows
    return {"faces": about["face_list"], "edges": [], "vertices": []}


def _face_names(folder: Path) -> list[str]:
    return list(json.loads((folder / "names.json").read_text()))


def _edge_names(folder: Path) -> list[str]:
    """Of a body made in passing, whose rows nobody has asked for yet: names alone take a third of the time."""
    if (folder / TOPOLOGY_FILE).exists() or not (folder / "shape.bin").exists():
        return [str(e["name"]) for e in read_topology(folder)["edges"]]
    file = folder / "edge_names.json"
    if not file.exists():
        from contour.solid.topology.rows import edge_names_of

        file.write_text(json.dumps(edge_names_of(folder)))
    return list(json.loads(file.read_text()))


def write_topology(rows: Mapping[str, list[Row]], folder: Path) -> None:
    """Keep rows beside a body."""
    (folder / TOPOLOGY_FILE).write_text(json.dumps(rows, separators=(",", ":")))


def faces_with_neighbours(rows: Sequence[Row]) -> list[Row]:
    """Face rows with the names of what lies beside each, instead of places."""
    return [{**f, "beside": [rows[k]["name"] for k in f["beside"]]} for f in rows]


class _Faces:
    def present(self, ref: FaceRef, folder: Path) -> tuple[str, ...]:
        if is_exact(ref.name, _face_names(folder)):
            return (ref.name,)
        faces = faces_with_neighbours(read_topology(folder)["faces"])
        return (str(faces[resolve_face(ref, faces)]["name"]),)

    def candidates(self, ref: FaceRef, folder: Path, most: int = 6) -> list[Candidate]:
        faces = faces_with_neighbours(read_topology(folder)["faces"])
        own, each = roots(ref.name), [roots(f["name"]) for f in faces]
        found = candidates(own, ref.kind, ref.place, faces, each, most)
        return [Candidate(faces[i]["name"], bool(own & each[i]), faces[i]) for i in found]

    def label(self, name: str, steps: Mapping[str, str] | None = None) -> str:
        return face_label(name, steps)


class _Edges:
    def __init__(self, *, chains: bool) -> None:
        self._chains = chains

    def present(self, ref: EdgeRef | ChainRef, folder: Path) -> tuple[str, ...]:
        if not self._chains and is_exact(ref.called, _edge_names(folder)):
            return (ref.called,)
        body = read_topology(folder)
        found = resolve_edges(ref, body["edges"], body["faces"])
        if self._chains:
            found = chain_of(found, body["edges"])
        return tuple(str(body["edges"][i]["name"]) for i in found)

    def candidates(self, ref: EdgeRef | ChainRef, folder: Path, most: int = 6) -> list[Candidate]:
        body = read_topology(folder)
        pair = split_name(split_name(ref.called, "@")[0], "|")
        own = frozenset(r for part in pair for r in roots(part))
        sharp = [e for e in body["edges"] if not e["smooth"]]
        each = [frozenset(r for f in e["faces"] for r in roots(body["faces"][f]["name"])) for e in sharp]
        found = candidates(own, ref.kind, ref.place, sharp, each, most)
        told = [{**sharp[i], "ends": edge_faces_named(sharp[i], body["faces"])} for i in found]
        return [Candidate(t["name"], bool(own & each[i]), t) for i, t in zip(found, told, strict=True)]

    def label(self, name: str, steps: Mapping[str, str] | None = None) -> str:
        return ("all along the " if self._chains else "") + edge_label(name, steps)


class _Vertices:
    def present(self, ref: VertexRef, folder: Path) -> tuple[str, ...]:
        body = read_topology(folder)
        return (str(body["vertices"][resolve_vertex(ref, body["vertices"], body["faces"])]["name"]),)

    def candidates(self, ref: VertexRef, folder: Path, most: int = 6) -> list[Candidate]:
        body = read_topology(folder)
        own = frozenset(r for part in split_name(ref.vertex, "|") for r in roots(part))
        named = [v for v in body["vertices"] if v["name"]]
        each = [frozenset(r for f in v["faces"] for r in roots(body["faces"][f]["name"])) for v in named]
        found = candidates(own, "", ref.place, named, each, most)
        return [Candidate(named[i]["name"], bool(own & each[i]), named[i]) for i in found]

    def label(self, name: str, steps: Mapping[str, str] | None = None) -> str:
        return corner_label(name, steps)


BODY_PARTS: dict[str, PartResolver] = {
    "face": _Faces(),
    "edge": _Edges(chains=False),
    "chain": _Edges(chains=True),
    "vertex": _Vertices(),
}
