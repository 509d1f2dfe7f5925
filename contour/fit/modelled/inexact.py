"""Blends that are no torus, and came out as many: a surface that follows something curved is one here and there, within the tolerance.

What was drawn as a torus, a cone or a sphere goes through its vertices to the file's own rounding. A piece that was grown over part of something else is
as far off as it was allowed to be. Such pieces side by side are one face, and freeform, unless one surface goes through all of them nearly.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from contour.fit.modelled.chance import Borders, share_off
from contour.fit.modelled.faces import Face, labels_of
from contour.fit.modelled.through import fit_through
from contour.mesh.prepare import PreparedScan

__all__ = ["without_inexact"]

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_SHARE = 40  # percent of the vertices: those of a border are another face's too
_EXACT = 0.1  # of the tolerance, which is four times the file's own rounding
_FLAT = 4.0  # times the tolerance, that an arc between two blends is off its plane
_NEARLY = 20.0  # times the tolerance, that one surface may be off all pieces: modellers make blends no nearer to what they mean


def _is_inexact(scan: PreparedScan, face: Face, tolerance_mm: float) -> bool:
    kind = "" if face[0] is None else face[0].kind
    return kind in ("torus", "cone", "sphere") and share_off(scan, face, _SHARE) > _EXACT * tolerance_mm


def _links(scan: PreparedScan, borders: Borders, inexact: Flags, loose: Flags, flat_mm: float) -> csr_matrix:
    """(faces, faces): which inexact ones run on into which loose ones. Two blends that follow each other meet along an arc from where what
    they roll along changes: those do not."""
    firm: dict[int, set[int]] = {}
    for ends, pair in zip(borders.ends.tolist(), zip(borders.x.tolist(), borders.y.tolist(), strict=True), strict=True):
        for v in ends:
            firm.setdefault(v, set()).update(f for f in pair if not loose[f])

    def is_joint(run: Ints) -> bool:
        met, count = np.unique(borders.ends[run], return_counts=True)
        corner = any(len(firm[int(v)]) > 1 for v in met[count == 1])
        return corner and borders.is_plane(run, scan.vertices, flat_mm)

    shared = borders.shared(inexact, loose).tocoo()
    rows = []
    for a, b in zip(shared.row.tolist(), shared.col.tolist(), strict=True):
        only = np.arange(borders.count) == b
        if not all(is_joint(run) for run in borders.runs(a, only)):
            rows.append((a, b))
    x, y = np.array(rows, np.int64).reshape(-1, 2).T
    return csr_matrix((np.ones(len(rows)), (x, y)), shape=(borders.count,) * 2)


def without_inexact(scan: PreparedScan, faces: list[Face], tolerance_mm: float) -> list[Face]:
    """Faces (surface or none, facets (k,)), with those that are off their surfaces made one with what is like them beside them."""
    inexact = np.array([_is_inexact(scan, face, tolerance_mm) for face in faces])
    if not inexact.any():
        return faces
    loose = inexact | np.array([s is None for s, _ in faces])
    links = _links(scan, Borders(scan, labels_of(scan, faces), len(faces)), inexact, loose, _FLAT * tolerance_mm)
    group = connected_components(links, directed=False)[1]
    out = [face for face, free in zip(faces, loose, strict=True) if not free]
    for g in np.unique(group[loose]):
        members = np.flatnonzero(loose & (group == g))
        if len(members) == 1:
            out.append(faces[members[0]])
            continue
        every = np.concatenate([faces[k][1] for k in members])
        largest = max((k for k in members if inexact[k]), key=lambda k: len(faces[k][1]))
        near = faces[largest][0]
        assert near is not None
        made = fit_through(near.code, near, scan, every)
        out.append((made[0] if made and made[1] <= _NEARLY * tolerance_mm else None, every))
    return out
