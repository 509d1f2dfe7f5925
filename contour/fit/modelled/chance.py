"""Pieces of freeform faces that lie on a torus, a cone or a sphere by chance.

Between two arcs of a tessellated blend a torus fits always, and some torus fits any small piece of it well enough. A true face that is only two arcs
long is bordered along them by something else, and runs into a smooth neighbour along a line or an arc, which lies in a plane; pieces by chance
are bordered by more of the same, and raggedly.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.modelled.faces import Face, hanging_together, labels_of, sides_of
from contour.geometry.surfaces import distances
from contour.mesh.prepare import PreparedScan

__all__ = ["Borders", "share_off", "without_chance"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_SOFT = 0.82  # cosine between facets that may be of one face
_ALONG = 0.2  # of its border, that a band shares softly with others
_MOSTLY = 0.5  # of its border, that a piece shares raggedly with others
_AROUND = 0.5  # of its border, that a single flat facet or two share softly with what they belong to
_PROVEN = 80  # vertices inside a piece: so many lie on one surface by no chance; of tessellated blends up to 28 did
# So many of which so large a share (percent) lies on it to so much of the tolerance, which is to the file's rounding, lie there by no chance either.
_EXACTLY, _SHARE, _ROUNDED = 24, 60, 0.05
# A round piece of so few facets is by chance if it shares so much of its border softly with freeform ones, or less and so much of that raggedly.
_FEW = 16
_LESS, _RAGGED = 0.3, 0.2
_MANY = 5  # pieces side by side are a freeform face, also if all of it is such pieces


class Borders:
    """Sides between faces: x, y (k,): which · ends (k, 2): vertices · length (k,) mm · soft (k,) · around (count,): how long each face's border is."""

    def __init__(self, scan: PreparedScan, label: Ints, count: int) -> None:
        every = sides_of(scan)
        x, y = label[every.a], label[every.b]
        sides = every[(x != y) & (x >= 0) & (y >= 0)]
        self.x, self.y, self.ends = label[sides.a], label[sides.b], sides.ends
        self.length = np.linalg.norm(scan.vertices[self.ends[:, 0]] - scan.vertices[self.ends[:, 1]], axis=1)
        self.soft = np.einsum("ij,ij->i", scan.normals[sides.a], scan.normals[sides.b]) > _SOFT
        self.around = np.bincount(self.x, self.length, count) + np.bincount(self.y, self.length, count)
        self.count = count

    def shared(self, one: Flags, other: Flags) -> csr_matrix:
        """(count, count): how much border each of `one` shares softly with each of `other`, mm."""
        at = self.soft & one[self.x] & other[self.y]
        back = self.soft & one[self.y] & other[self.x]
        rows = np.concatenate([self.x[at], self.y[back]])
        columns = np.concatenate([self.y[at], self.x[back]])
        size = np.concatenate([self.length[at], self.length[back]])
        return coo_matrix((size, (rows, columns)), shape=(self.count, self.count)).tocsr()

    def inside(self, scan: PreparedScan, label: Ints) -> Ints:
        """(count,): vertices of each face that no other has."""
        many = len(scan.vertices)
        own = label >= 0
        every = np.unique(np.repeat(label[own], 3) * many + scan.facets[own].ravel()) // many
        rim = np.unique(np.concatenate([(f[:, None] * many + self.ends).ravel() for f in (self.x, self.y)])) // many
        return np.bincount(every, minlength=self.count) - np.bincount(rim, minlength=self.count)

    def runs(self, k: int, other: Flags) -> list[Ints]:
        """The sides of a face's soft border with others, by what hangs together."""
        sides = np.flatnonzero(self.soft & ((self.x == k) & other[self.y] | (self.y == k) & other[self.x]))
        run = hanging_together(self.ends[sides])
        return [sides[run == r] for r in np.unique(run)]

    def is_plane(self, run: Ints, vertices: Array, flat_mm: float) -> bool:
        """Whether the vertices along sides lie in a plane."""
        at = vertices[np.unique(self.ends[run])]
        off = np.linalg.svd(at - at.mean(axis=0), full_matrices=True)[2][2] @ (at - at.mean(axis=0)).T
        return bool(np.abs(off).max() <= flat_mm)

    def ragged(self, k: int, other: Flags, vertices: Array, flat_mm: float) -> float:
        """How much of a face's soft border with others runs along nothing plane, mm."""
        runs = self.runs(k, other)
        return float(sum(self.length[run].sum() for run in runs if not self.is_plane(run, vertices, flat_mm)))


def share_off(scan: PreparedScan, face: Face, percent: float) -> float:
    """How far off its surface so large a share of a face's vertices lies at most, mm; those of its border are another face's too."""
    surface, own = face
    assert surface is not None
    return float(np.percentile(np.abs(distances(surface, scan.vertices[np.unique(scan.facets[own])])), percent))


def _exact(scan: PreparedScan, face: Face, tolerance_mm: float) -> bool:
    surface, own = face
    # A torus bends as freely as what it is taken for: where that bends least it is as near as this.
    if surface is None or surface.kind == "torus" or len(np.unique(scan.facets[own])) < _EXACTLY:
        return False
    return share_off(scan, face, _SHARE) <= _ROUNDED * tolerance_mm


def without_chance(scan: PreparedScan, faces: list[Face], tolerance_mm: float) -> list[Face]:
    """Faces (surface or none, facets), with pieces by chance and the freeform ones that they hang together with made one freeform face each."""
    count = len(faces)
    label = labels_of(scan, faces)
    borders = Borders(scan, label, count)
    kinds = np.array(["" if s is None else s.kind for s, _ in faces])
    rest, round_ = kinds == "", np.isin(kinds, ["torus", "cone", "sphere"])
    inside = borders.inside(scan, label)
    bands = round_ & (inside == 0)
    crumb = (kinds == "plane") & np.array([len(own) <= 2 for _, own in faces])
    exact = np.array([_exact(scan, face, tolerance_mm) for face in faces], bool)
    piece = round_ & (inside < _PROVEN) & ~exact
    while True:
        beside = piece | rest | crumb
        along = np.asarray(borders.shared(piece, beside).sum(axis=1)).ravel()
        out = piece & ~(bands & (along > _ALONG * borders.around))
        for k in map(int, np.flatnonzero(out & (along > _MOSTLY * borders.around))):
            ragged = borders.ragged(k, beside, scan.vertices, 4 * tolerance_mm)
            out[k] = ragged <= _MOSTLY * borders.around[k]
        if not out.any():
            break
        piece &= ~out
    group = connected_components(borders.shared(piece, piece | rest), directed=False)[1]
    pieces, rests = (np.bincount(group[f], minlength=count)[group] for f in (piece, rest))
    free = (piece | rest) & (pieces + rests > 1) & ((rests > 0) | (pieces >= _MANY))
    few = (round_ | (kinds == "cylinder")) & (np.array([len(own) for _, own in faces]) <= _FEW)
    while True:
        held = borders.shared(crumb & ~free, free) + borders.shared(few & ~free, free | rest)
        share = np.asarray(held.sum(axis=1)).ravel() / np.maximum(borders.around, 1e-30)
        most = share > _AROUND
        for k in map(int, np.flatnonzero(few & ~most & (share > _LESS))):
            ragged = borders.ragged(k, free | rest, scan.vertices, 4 * tolerance_mm)
            most[k] = ragged > _RAGGED * borders.around[k]
        if not most.any():
            break
        free |= rest & (np.asarray(held[most].sum(axis=0)).ravel() > 0)
        for k in map(int, np.flatnonzero(most)):
            row = held[k]
            group[k] = group[row.indices[np.argmax(row.data)]]
        free |= most
    merged = [
        (None, np.concatenate([faces[k][1] for k in np.flatnonzero(free & (group == g))]))
        for g in np.unique(group[free])
    ]
    return [face for k, face in enumerate(faces) if not free[k]] + merged
