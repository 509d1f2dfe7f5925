"""Freeform faces that run smoothly into each other, told apart where one rolling ball's blend follows another.

A blend ends where what it rolls along changes: at a corner of its border, straight across to the other side. The tessellation has an arc of the ball
there, exactly plane and exactly round, and what the ball touches is square to the arc's radii. Rows of facets within one blend begin at no corner.
Where two blends cross, a crease runs from border to border, which a few sides of gentler bend had them taken over.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.modelled.faces import Face, Sides, hanging_together, labels_of, sides_of
from contour.geometry.surfaces import Surface, gradients
from contour.mesh.prepare import PreparedScan

__all__ = ["parted_at_joints"]

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Links = dict[int, list[int]]  # vertices beside each vertex

# Radians between a radius at an end of an arc and the normal of what the ball touches there, by the vertices of the arc: any three lie on a circle, so
# that both ends have to tell; four hardly, and so many as _PROVEN on none by chance.
_TOUCHING = {3: 0.03, 4: 0.3}
_PROVEN = 5
_KINK = 0.35  # radians that a border turns by at a corner where no third face is
_MOST_TURN = 2.8  # radians of an arc
_LEAST_PART = 3  # facets
# Radians that facets bend by at every side of a crease, and how much more than four in five of the other sides do: meshes as coarse as that bend
# so between the rows of a blend.
_CREASE, _SHARPER = 0.51, 1.5


def _linked(ends: Ints) -> Links:
    out: Links = defaultdict(list)
    for a, b in ends.tolist():
        out[a].append(b)
        out[b].append(a)
    return out


def _centre(p: Array, q: Array, r: Array) -> tuple[Array, Array] | None:
    """(Centre, unit normal) of the circle through three points (3,) mm; none where they are on a line."""
    a, b = q - p, r - p
    n = np.cross(a, b)
    size = float(n @ n)
    if size < 1e-12 * float(a @ a) * float(b @ b):
        return None
    return p + (np.cross(n, a) * (b @ b) + np.cross(b, n) * (a @ a)) / (2 * size), n / np.sqrt(size)


class _Joints:
    """Arcs across one freeform face. within: sides inside it · rim: vertices beside each on its border · touching: the faces with a formula around
    each vertex of the border."""

    def __init__(self, vertices: Array, within: Links, rim: Links, touching: dict[int, list[Surface]], off: float):
        self.vertices, self.within, self.rim, self.touching, self.off = vertices, within, rim, touching, off

    def _touches(self, v: int, centre: Array, within: float) -> bool:
        """Whether a face that a ball about the centre would touch at a vertex is there, within so many radians."""
        to = self.vertices[v] - centre
        to /= max(float(np.linalg.norm(to)), 1e-30)
        at = self.vertices[v][None]
        return any(abs(float(gradients(s, at)[0] @ to)) > np.cos(within) for s in self.touching.get(v, []))

    def kinks(self) -> list[int]:
        """Vertices at which the border turns sharply."""
        out = []
        for v, near in self.rim.items():
            if len(near) == 2:
                x, y = (self.vertices[near[0]] - self.vertices[v], self.vertices[v] - self.vertices[near[1]])
                if x @ y < np.cos(_KINK) * np.linalg.norm(x) * np.linalg.norm(y):
                    out.append(v)
        return out

    def from_corner(self, v: int) -> list[list[int]]:
        """The arcs that run from a corner to the other side, as vertices."""
        out = []
        for second in self.within.get(v, []):
            for third in self.within.get(second, []) if second not in self.rim else []:
                if third != v and (arc := self._followed([v, second, third])):
                    out.append(arc)
        return out

    def _followed(self, way: list[int]) -> list[int] | None:
        p = self.vertices
        found = _centre(*(p[w] for w in way))
        if found is None:
            return None
        centre, normal = found
        radius = float(np.linalg.norm(p[way[0]] - centre))

        def turn(a: int, b: int) -> float:
            x, y = p[a] - centre, p[b] - centre
            return float(np.arctan2(normal @ np.cross(x, y), x @ y))

        turned = turn(way[0], way[1]) + turn(way[1], way[2])
        while way[-1] not in self.rim:
            near = [w for w in self.within[way[-1]] if w not in way and turn(way[-1], w) > 0]
            apart = [
                max(abs(float((p[w] - centre) @ normal)), abs(float(np.linalg.norm(p[w] - centre)) - radius))
                for w in near
            ]
            if not near or min(apart) > self.off:
                return None
            way = [*way, near[int(np.argmin(apart))]]
            turned += turn(way[-2], way[-1])
            if turned > _MOST_TURN:
                return None
        most = _TOUCHING.get(len(way), np.pi)
        proven = len(way) >= _PROVEN or all(self._touches(v, centre, most) for v in (way[0], way[-1]))
        return way if turned < _MOST_TURN and proven else None


def _creases(scan: PreparedScan, within: Sides, rim: Links) -> list[Sides]:
    """The sides at which facets bend sharply, by what hangs together and runs from border to border."""
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", scan.normals[within.a], scan.normals[within.b]), -1, 1))
    if not len(turn):
        return []
    sharp = within[turn > max(_CREASE, _SHARPER * float(np.percentile(turn, 80)))]
    piece = hanging_together(sharp.ends)
    creases = (sharp[piece == k] for k in np.unique(piece))
    return [crease for crease in creases if sum(v in rim for v in np.unique(crease.ends).tolist()) > 1]


def _apart(own: Ints, within: Sides, cuts: Sequence[Iterable[Sequence[int]]]) -> list[Ints]:
    """Facets (k,) in the parts that cuts along pairs of vertices leave; within: the sides between them. Cuts beside which a part would be too
    small are left away."""
    low, high = within.ends.min(axis=1), within.ends.max(axis=1)
    a, b = np.searchsorted(own, within.a), np.searchsorted(own, within.b)
    open_ = np.ones(len(a), np.bool_)
    parts = [own]
    for cut in cuts:
        less = open_.copy()
        for v, w in cut:
            less &= (low != min(v, w)) | (high != max(v, w))
        graph = coo_matrix((np.ones(int(less.sum())), (a[less], b[less])), shape=(len(own),) * 2)
        count, piece = connected_components(graph, directed=False)
        if count > len(parts) and np.bincount(piece).min() >= _LEAST_PART:
            open_, parts = less, [own[piece == k] for k in range(count)]
    return parts


def parted_at_joints(scan: PreparedScan, faces: list[Face], tolerance_mm: float) -> list[Face]:
    """Faces (surface or none, facets (k,)), the freeform ones parted along the arcs that run across them from a corner, and along creases."""
    label = labels_of(scan, faces)
    sides = sides_of(scan)
    x, y = label[sides.a], label[sides.b]
    around: dict[int, set[int]] = defaultdict(set)
    apart = x != y
    for ends, *two in zip(sides.ends[apart].tolist(), x[apart].tolist(), y[apart].tolist(), strict=True):
        for v in ends:
            around[v].update(two)
    out: list[Face] = []
    for k, (surface, own) in enumerate(faces):
        if surface is not None or len(own) < 2 * _LEAST_PART:
            out.append((surface, own))
            continue
        within = sides[(x == k) & (y == k)]
        rim = _linked(sides.ends[(x == k) != (y == k)])
        beside = ((v, (faces[f][0] for f in around[v] if f >= 0)) for v in rim)
        touching = {v: [s for s in near if s is not None] for v, near in beside}
        across = _Joints(scan.vertices, _linked(within.ends), rim, touching, 4 * tolerance_mm)
        corners = [v for v in rim if len(around[v]) > 2] + across.kinks()
        arcs = [list(pairwise(arc)) for v in dict.fromkeys(corners) for arc in across.from_corner(v)]
        creases = [crease.ends.tolist() for crease in _creases(scan, within, rim)]
        out += [(None, part) for part in _apart(np.sort(own), within, creases + arcs)]
    return out
