"""Scanner noise from the scan itself: how far vertices stray from smooth patches around them."""

from __future__ import annotations

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from contour.mesh.topology import facet_geometry, vertex_facets

__all__ = ["estimate_noise", "noise_among", "noise_at", "noise_map", "noise_near", "uneven_noise"]

_PATCH = 20
_SEEDS = 3000
_AMONG = 160  # places of a part of the scan
_FEWEST_READ = 5
_NEARBY = 1500  # facets that are read for one place: so many that an edge or a fillet is a small part of them
_UNEVEN = 0.1  # of the area: where less of it has a noise of its own, that is detail
_UNLIKE = 1.5  # how many times the noise of one place differs from that of the whole before it counts for it
_MAPPED, _TOGETHER = 8000, 24  # places of a map, and of these how many neighbours are read as one
_LEAST = 120  # vertices: fewer tell nothing
# Moran's I of what a quadric leaves of 20 vertices: -0.22 ± 0.1 for noise (the quadric follows it), -0.02 ± 0.05 at edges and on scans that were smoothed
# (six truth parts, facets of 0.8 and 1.1 mm). One patch below the first is noise; of a place, the middle one has to lie below the second.
_FORM, _MOSTLY = -0.05, -0.12
# Three in four patches may lie over an edge, a thread or a knurl: the lowest quarter is heard. Of patches of this size without any of these, a
# quarter read below so much of the truth (chi with 14 degrees of freedom).
_HEARD, _READS = 25, 0.88


@nb.njit(cache=True, nogil=True)
def _patch_residuals(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32],
    offsets: NDArray[np.int64],
    around: NDArray[np.int32],
    seeds: NDArray[np.int64],
    size: int,
) -> NDArray[np.float64]:
    """(k, 2): the rms, and how alike the rests of neighbours are (Moran 1950)."""
    out = np.full((len(seeds), 2), np.nan)
    mark = np.zeros(len(vertices), np.int32)
    place = np.empty(len(vertices), np.int64)
    queue = np.empty(size, np.int64)
    for s in range(len(seeds)):
        queue[0] = seeds[s]
        mark[seeds[s]] = s + 1
        n, head = 1, 0
        while head < n and n < size:
            v = queue[head]
            head += 1
            for k in range(offsets[v], offsets[v + 1]):
                for c in range(3):
                    w = facets[around[k], c]
                    if mark[w] != s + 1 and n < size:
                        mark[w] = s + 1
                        queue[n] = w
                        n += 1
        if n < size:
            continue
        centre = np.zeros(3)
        for i in range(n):
            centre += vertices[queue[i]]
        centre /= n
        spread = np.zeros((3, 3))
        for i in range(n):
            d = vertices[queue[i]] - centre
            for a in range(3):
                for b in range(3):
                    spread[a, b] += d[a] * d[b]
        values, axes = np.linalg.eigh(spread)
        scale = np.sqrt(values[2] / n) + 1e-300
        rows = np.empty((n, 6))
        height = np.empty(n)
        for i in range(n):
            d = vertices[queue[i]] - centre
            x = (d[0] * axes[0, 2] + d[1] * axes[1, 2] + d[2] * axes[2, 2]) / scale
            y = (d[0] * axes[0, 1] + d[1] * axes[1, 1] + d[2] * axes[2, 1]) / scale
            height[i] = d[0] * axes[0, 0] + d[1] * axes[1, 0] + d[2] * axes[2, 0]
            rows[i, 0], rows[i, 1], rows[i, 2] = 1.0, x, y
            rows[i, 3], rows[i, 4], rows[i, 5] = x * x, x * y, y * y
        normal = rows.T @ rows
        for d in range(6):
            normal[d, d] += 1e-9
        coefficients = np.linalg.solve(normal, rows.T @ height)
        rest = height - rows @ coefficients
        square = np.dot(rest, rest)
        out[s, 0] = np.sqrt(square / (n - 6))
        for i in range(n):
            place[queue[i]] = i
        alike, sides = 0.0, 0
        for i in range(n):
            for k in range(offsets[queue[i]], offsets[queue[i] + 1]):
                for c in range(3):
                    w = facets[around[k], c]
                    if w != queue[i] and mark[w] == s + 1:
                        alike += rest[i] * rest[place[w]]
                        sides += 1
        out[s, 1] = n * alike / (sides * square) if square > 0 and sides > 0 else 0.0
    return out


@nb.njit(cache=True, nogil=True)
def _flat_share(vertices, facets, offsets, around):  # type: ignore[no-untyped-def]
    """Share of a thousand vertices around which some two facets lie within 0.01 degrees of one plane."""
    n = len(vertices)
    step = max(1, n // 1000)
    flat, seen = 0, 0
    normal, first = np.empty(3), np.empty(3)
    for v in range(0, n, step):
        pairs, level, known = 0, 0, False
        for k in range(offsets[v], offsets[v + 1]):
            a, b, c = facets[around[k], 0], facets[around[k], 1], facets[around[k], 2]
            u, w = vertices[b] - vertices[a], vertices[c] - vertices[a]
            normal[0] = u[1] * w[2] - u[2] * w[1]
            normal[1] = u[2] * w[0] - u[0] * w[2]
            normal[2] = u[0] * w[1] - u[1] * w[0]
            size = np.sqrt((normal * normal).sum())
            if size == 0:
                continue
            normal /= size
            if not known:
                first[:] = normal
                known = True
                continue
            pairs += 1
            # sine of the angle between the two, which the cosine cannot resolve this small
            x = first[1] * normal[2] - first[2] * normal[1]
            y = first[2] * normal[0] - first[0] * normal[2]
            z = first[0] * normal[1] - first[1] * normal[0]
            if x * x + y * y + z * z < 4e-8:
                level += 1
        if pairs > 0:
            seen += 1
            flat += level > 0
    return flat / max(seen, 1)


def noise_at(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32],
    offsets: NDArray[np.int64],
    around: NDArray[np.int32],
    seeds: NDArray[np.int64],
) -> NDArray[np.float64]:
    """What is left of the 20 vertices around each seed (k,) of vertices when a quadric is taken from them: its rms, mm, by degrees of freedom.

    NaN where there are not so many. offsets, around: as :func:`contour.mesh.topology.vertex_facets` gives them.
    """
    return _rests(vertices, facets, offsets, around, seeds)[:, 0]


def _rests(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32],
    offsets: NDArray[np.int64],
    around: NDArray[np.int32],
    seeds: NDArray[np.int64],
) -> NDArray[np.float64]:
    """(k, 2): what is left of the patch around each seed: its rms, mm, and Moran's I."""
    return np.asarray(_patch_residuals(vertices, facets, offsets, around, seeds, _PATCH))


def estimate_noise(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], offsets: NDArray[np.int64], around: NDArray[np.int32]
) -> float:
    """Standard deviation of the scan's noise along the surface normal, mm.

    What quadrics leave of the 20 nearest vertices at places strewn evenly over the area, not over the vertices: a scanner that thins its mesh
    where it is flat leaves most vertices where nothing is. 0 for meshes too small or too coarse to tell. vertices (n, 3), facets (m, 3);
    offsets (n + 1,) into around: the neighbours of each vertex.
    """
    count = len(vertices)
    if count < _LEAST or _flat_share(vertices, facets, offsets, around) > 0.15:
        return 0.0  # too coarse to tell, or made by a modeller: no scanner leaves exactly flat pairs of facets
    return _read(noise_at(vertices, facets, offsets, around, _strewn(vertices, facets, _SEEDS))) or 0.0


def _strewn(vertices: NDArray[np.float64], facets: NDArray[np.int32], count: int) -> NDArray[np.int64]:
    """(count,) vertices strewn evenly over the area."""
    areas = facet_geometry(vertices, facets)[2]
    own = np.cumsum(np.bincount(facets.ravel(), np.repeat(areas, 3), len(vertices)))
    places = (np.random.default_rng(7).permutation(count) + 0.5) / count * own[-1]
    return np.searchsorted(own, places).astype(np.int64)


def noise_map(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], offsets: NDArray[np.int64], around: NDArray[np.int32]
) -> NDArray[np.float64]:
    """(m,) mm: the noise around each facet, by patches at places strewn over the area: what a quarter of the nearest of them leave.

    0 everywhere for meshes too small to tell. vertices (n, 3), facets (m, 3); offsets (n + 1,) into around.
    """
    mapped = _mapped(vertices, facets, offsets, around)
    if mapped is None:
        return np.zeros(len(facets))
    nearby, owner = mapped
    return np.asarray((np.percentile(nearby[..., 0], _HEARD, axis=1) / _READS)[owner])


def _mapped(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], offsets: NDArray[np.int64], around: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.int64]] | None:
    """What patches strewn over the area leave, each with those around it, (k, 24, 2), and for each facet which of them (m,). None: too small a mesh."""
    if len(vertices) < _LEAST:
        return None
    seeds = np.unique(_strewn(vertices, facets, _MAPPED))
    rests = _rests(vertices, facets, offsets, around, seeds)
    told = np.isfinite(rests[:, 0])
    seeds, rests = seeds[told], rests[told]
    if len(seeds) < _FEWEST_READ:
        return None
    places = cKDTree(vertices[seeds])
    nearby = places.query(vertices[seeds], k=min(_TOGETHER, len(seeds)))[1]
    return rests[nearby], np.asarray(places.query(vertices[facets].mean(axis=1))[1])


def uneven_noise(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], areas: NDArray[np.float64], usual_mm: float
) -> NDArray[np.float64] | None:
    """(m,) mm: the noise to go by at each facet: the usual one but where it is clearly another; none where it is the usual one nearly everywhere, as on a scan
    that was taken in one go.

    vertices (n, 3), facets (m, 3), areas (m,).
    """
    if usual_mm <= 0:
        return None
    mapped = _mapped(vertices, facets, *vertex_facets(facets, len(vertices)))
    if mapped is None:
        return None
    nearby, owner = mapped
    here = _proven(nearby)[owner]
    other = (here > _UNLIKE * usual_mm) | (here < usual_mm / _UNLIKE)
    if float(areas[other].sum()) < _UNEVEN * float(areas.sum()):
        return None
    return np.where(other, here, usual_mm)


def _proven(rests: NDArray[np.float64]) -> NDArray[np.float64]:
    """(k,) mm: the noise by each set of patches (k, count, 2), heard only where it is noise that they leave; NaN elsewhere.

    What an edge, a fillet or a thread leaves of a quadric is alike from one vertex to the next, and so is all that is left of a smoothed scan.
    """
    noise = rests[..., 1] < _FORM
    told = (np.median(rests[..., 1], axis=-1) < _MOSTLY) & (noise.sum(axis=-1) >= _FEWEST_READ)
    out = np.full(rests.shape[:-2], np.nan)
    if told.any():
        out[told] = np.nanpercentile(np.where(noise, rests[..., 0], np.nan)[told], _HEARD, axis=-1) / _READS
    return out


def _read(rms: NDArray[np.float64]) -> float | None:
    rms = rms[np.isfinite(rms)]
    return float(np.percentile(rms, _HEARD)) / _READS if len(rms) >= _FEWEST_READ else None


def noise_among(
    vertices: NDArray[np.float64],
    facets: NDArray[np.int32],
    offsets: NDArray[np.int64],
    around: NDArray[np.int32],
    own: NDArray[np.int64],
) -> float | None:
    """The same as :func:`estimate_noise` among some vertices (their ids, (k,)) only, mm; none where they are too few to tell.

    vertices (n, 3), facets (m, 3); offsets (n + 1,) into around.
    """
    some = own if len(own) <= _AMONG else np.random.default_rng(7).choice(own, _AMONG, replace=False)
    return _read(noise_at(vertices, facets, offsets, around, np.asarray(some, np.int64)))


@nb.njit(cache=True, nogil=True)
def _ring_by_ring(across: NDArray[np.int32], facet: int, count: int) -> NDArray[np.int64]:
    """At most so many facets (k,) around one, nearest first."""
    found = np.empty(count, np.int64)
    found[0] = facet
    seen = {np.int64(facet)}
    size, head = 1, 0
    while head < size and size < count:
        f = found[head]
        head += 1
        for k in range(3):
            g = np.int64(across[f, k] // 3) if across[f, k] >= 0 else np.int64(-1)
            if g >= 0 and g not in seen and size < count:
                seen.add(g)
                found[size] = g
                size += 1
    return found[:size]


def noise_near(
    vertices: NDArray[np.float64], facets: NDArray[np.int32], across: NDArray[np.int32], facet: int, usual_mm: float
) -> float:
    """The noise to go by at a facet, mm: that of what lies around it, where it is clearly another than that of the whole scan.

    Two scans that were merged, or a face seen at a grazing angle, have noise of their own. vertices (n, 3), facets (m, 3), across (m, 3) as
    :func:`contour.mesh.topology.neighbours` gives it. usual_mm: of the whole; 0, a mesh that was never scanned, stays 0.
    """
    if usual_mm <= 0:
        return usual_mm
    own = _ring_by_ring(across, facet, _NEARBY)
    ids, flat = np.unique(facets[own], return_inverse=True)
    part = flat.reshape(-1, 3).astype(np.int32)
    some = np.arange(len(ids))
    if len(ids) > _AMONG:
        some = np.random.default_rng(7).choice(len(ids), _AMONG, replace=False)
    offsets, around = vertex_facets(part, len(ids))
    rests = _rests(vertices[ids], part, offsets, around, some)
    rests = rests[np.isfinite(rests[:, 0])]
    here = float(_proven(rests[None])[0]) if len(rests) else usual_mm
    return here if here > _UNLIKE * usual_mm or here < usual_mm / _UNLIKE else usual_mm
