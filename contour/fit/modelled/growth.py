"""Round surfaces through the vertices of chords: begun at a chord, grown as long as the vertices lie on one surface and chords face along it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numba as nb
import numpy as np
from numpy.typing import NDArray

from contour.fit.modelled.chords import Chords
from contour.fit.modelled.through import ANEW, FIRST, FROM_NEAR, LAST, bent_through, through
from contour.geometry.surface_rows import CONE, CYLINDER, SPHERE, TORUS, cross, gap
from contour.geometry.surfaces import Surface

__all__ = ["LEAST_MAJOR", "Grown", "grow_all", "off_of", "settled"]

Array = NDArray[np.float64]

_jit = nb.njit(cache=True, nogil=True)

_WIDER = 12.0  # chords of one surface are of one size, more or less
# Chords that a surface may begin with: how many, and which: those around the seed, those over the gentlest bends, or those most like it.
_AROUND, _GENTLE, _ALIKE = 0, 1, 2
_PATCHES = np.array([[5, _ALIKE], [4, _GENTLE], [9, _GENTLE], [20, _GENTLE], [45, _GENTLE], [9, _AROUND]])
# What a few chords of a torus begin lies on other surfaces as well, and so does a ring of it.
_TORUS_PATCHES = np.array([[45, _AROUND], [20, _AROUND], [9, _AROUND], [20, _GENTLE], [9, _GENTLE]])
# So many times as deep as a surface that explains this share as well: chords belong to that one.
_DEEPER, _MUCH = 4.0, 0.4
_LEAST_ANGLE = 0.004  # radians: a cone that opens less is a cylinder, one that opens as near to a right angle a plane
_CAP = 6  # corners: a polygon of more lies no deeper than other chords do, or is a flat face that ends on the surface
_BALL_CAP = 8  # corners: a polygon of more on a ball is a flat
_LEAN, _MOST_LEAN = 0.01, 1.05  # radians: what a chord may lean beyond the turn of its surface, and at all
LEAST_MAJOR = 0.02  # of the minor radius: a torus that has less is a sphere
# Vertices on more lines, circles or points than define a surface: those beyond it prove it.
_PROOF = (0, 0, 8, 8, 7, 12)
_LEAST_OF_TORUS = 6  # chords: the corners of four walls lie on one too
_FEW = 60  # vertices that are looked at one by one
_AT_ONCE = 64  # seeds between two reports
_PATIENCE = 300  # seeds in vain, before what lies around another one counts as tried too


@dataclass(slots=True)
class Grown:
    """A surface with the chords (k,) it was grown over."""

    surface: Surface
    members: NDArray[np.int64]


@_jit
def _gather(groups, n, vertices, vertex_at, stamp, mark, points):  # type: ignore[no-untyped-def]
    """Vertices of n groups, each once, to points; how many. Of very many every so many."""
    count = 0
    for i in range(n):
        for q in range(vertex_at[groups[i]], vertex_at[groups[i] + 1]):
            v = vertices[q]
            if stamp[v] != mark:
                stamp[v] = mark
                points[count] = v
                count += 1
    return count


@_jit
def off_of(code, p, k, xyz, vertices, vertex_at):  # type: ignore[no-untyped-def]
    """How far the farthest vertex of a chord lies off, mm."""
    g = np.empty(3)
    worst = 0.0
    for q in range(vertex_at[k], vertex_at[k + 1]):
        worst = max(worst, abs(gap(code, p, xyz[vertices[q]], g)))
    return worst


@_jit
def settled(code, p, k, xyz, vertices, vertex_at, middle, normal, tolerance, capped=True):  # type: ignore[no-untyped-def]
    """Whether a chord is one of a surface: its vertices lie on it, it leans no more than the surface turns between them, and its middle lies no
    deeper than that turn explains. A plane that only touches, or a cap across it, does not. capped: a polygon of many corners on a ball is a flat."""
    corners = vertex_at[k + 1] - vertex_at[k]
    if capped and code == SPHERE and corners > _BALL_CAP:
        return False  # a flat on a ball: its corners on one circle lie on the ball, and no mesher leaves its pole so
    middle_way = np.empty(3)
    deep = abs(gap(code, p, middle[k], middle_way))
    g = np.empty(3)
    turn, reach = 1.0, 0.0
    for q in range(vertex_at[k], vertex_at[k + 1]):
        x = xyz[vertices[q]]
        if abs(gap(code, p, x, g)) > tolerance:
            return False
        far = 0.0
        for d in range(3):
            far += (x[d] - middle[k, d]) ** 2
        reach = max(reach, far)
        along = g[0] * middle_way[0] + g[1] * middle_way[1] + g[2] * middle_way[2]
        # At the tip of a cone, or a pole, there is no normal.
        if not _at_tip(code, p, x, tolerance):
            turn = min(turn, along)
    turn = np.arccos(max(-1.0, min(1.0, turn)))
    if deep > tolerance + np.sqrt(reach) * np.tan(min(turn, 1.5) / 2):
        return False
    facing = (middle_way[0] * normal[k, 0] + middle_way[1] * normal[k, 1] + middle_way[2] * normal[k, 2]) * p[8]
    # A lone obtuse facet faces where the middle of its circumcircle is, far from its own.
    lean = (3.0 if corners <= 4 else 1.0) * turn + _LEAN
    if corners > _CAP:
        lean = min(0.35 * turn + _LEAN, 0.12)
    return facing >= np.cos(min(lean, _MOST_LEAN))


@_jit
def _at_tip(code, p, x, tolerance):  # type: ignore[no-untyped-def]
    if code != CONE:
        return False
    h, far = 0.0, 0.0
    for d in range(3):
        w = x[d] - p[d]
        h += w * p[3 + d]
        far += w * w
    return far - h * h < 10000 * tolerance * tolerance


@_jit
def _rows(code, p, xyz, points, count, tolerance):  # type: ignore[no-untyped-def]
    """On how many circles about the axis, up to four, vertices lie: three lie on a torus whatever they belong to."""
    heights = np.empty(4)
    reaches = np.empty(4)
    found = 0
    for i in range(count):
        h, far = 0.0, 0.0
        for d in range(3):
            w = xyz[points[i], d] - p[d]
            h += w * p[3 + d]
            far += w * w
        reach = np.sqrt(max(0.0, far - h * h))
        new = True
        for j in range(found):
            if abs(heights[j] - h) < 40 * tolerance and abs(reaches[j] - reach) < 40 * tolerance:
                new = False
                break
        if new:
            heights[found], reaches[found] = h, reach
            found += 1
            if found == 4:
                break
    return found


@_jit
def _off_one_plane(xyz, points, count, tolerance):  # type: ignore[no-untyped-def]
    """How many vertices, of few, lie off the plane that most of them lie in: a sphere goes through any circle and one point more."""
    a, b, n = np.empty(3), np.empty(3), np.empty(3)
    most = 0
    tries = 0
    for i in range(count):
        for step in (1, 2, 3):
            j, k = (i + step) % count, (i + 2 * step + 1) % count
            for d in range(3):
                a[d] = xyz[points[j], d] - xyz[points[i], d]
                b[d] = xyz[points[k], d] - xyz[points[i], d]
            cross(a, b, n)
            size = np.sqrt(np.dot(n, n))
            if size < 1e-12:
                continue
            inside = 0
            for q in range(count):
                off = 0.0
                for d in range(3):
                    off += (xyz[points[q], d] - xyz[points[i], d]) * n[d]
                if abs(off) < 20 * tolerance * size:
                    inside += 1
            most = max(most, inside)
            tries += 1
            if tries > 120:
                return count - most
    return count - most


@_jit
def _around(seed, free, most, area, near, near_at, soft_end, stamp, mark, patch):  # type: ignore[no-untyped-def]
    """The seed and free chords around it, ring by ring; how many."""
    patch[0] = seed
    stamp[seed] = mark
    count, begin = 1, 0
    while begin < count and count < most:
        end = count
        for i in range(begin, end):
            g = patch[i]
            for q in range(near_at[g], soft_end[g]):
                h = near[q]
                # A wide plane that a fillet runs into is no chord of it.
                if count < most and free[h] and stamp[h] != mark and area[h] < _WIDER * area[seed]:
                    stamp[h] = mark
                    patch[count] = h
                    count += 1
        begin = end
    return count


@_jit
def _gentle(seed, free, most, area, normal, near, near_at, soft_end, stamp, mark, patch):  # type: ignore[no-untyped-def]
    """The seed and free chords around it, always over the gentlest bend that is left; how many."""
    patch[0] = seed
    stamp[seed] = mark
    count = 1
    while count < most:
        best, flattest = -1, -2.0
        for j in range(count):
            g = patch[j]
            for q in range(near_at[g], soft_end[g]):
                h = near[q]
                if free[h] and stamp[h] != mark and area[h] < _WIDER * area[seed]:
                    along = normal[g, 0] * normal[h, 0] + normal[g, 1] * normal[h, 1] + normal[g, 2] * normal[h, 2]
                    if along > flattest:
                        best, flattest = h, along
                    break  # the gentlest comes first
        if best < 0:
            break
        stamp[best] = mark
        patch[count] = best
        count += 1
    return count


@_jit
def _alike(seed, free, most, area, near, near_at, soft_end, stamp, mark, patch):  # type: ignore[no-untyped-def]
    """The seed and the free chords most like it in area, one after the other, each beside one of those before; how many."""
    patch[0] = seed
    stamp[seed] = mark
    count = 1
    while count < most:
        best, least = -1, 1.5
        for i in range(count):
            g = patch[i]
            for q in range(near_at[g], soft_end[g]):
                h = near[q]
                if free[h] and stamp[h] != mark and area[h] > 0:
                    unlike = max(area[h], area[seed]) / min(area[h], area[seed])
                    if unlike < least * 0.999:
                        best, least = h, unlike
        if best < 0:
            break
        stamp[best] = mark
        patch[count] = best
        count += 1
    return count


@_jit
def _plausible(code, p, largest):  # type: ignore[no-untyped-def]
    """Whether the numbers are a surface of their kind, and not one of a simpler kind or larger than the mesh."""
    if code == CONE:
        return _LEAST_ANGLE < abs(p[7]) < np.pi / 2 - _LEAST_ANGLE
    if code == TORUS:
        return p[7] > 0 and p[6] > LEAST_MAJOR * p[7] and p[6] + p[7] < largest
    return p[6] < largest


@_jit
def _begun(code, p, patch, n, xyz, vertices, vertex_at, middle, normal, vstamp, mark, points, offs, tolerance):  # type: ignore[no-untyped-def]
    """A surface through the seed (first of the patch) and as much of the patch as lies on one; how many are left of it, -1 for none."""
    seed = patch[0]
    worst = -1.0
    for _round in range(5):
        if n < 3:
            return -1, mark
        mark += 1
        count = _gather(patch, n, vertices, vertex_at, vstamp, mark, points)
        if code == TORUS:
            # Most are short pieces; and of a torus all go through the vertices of a few chords.
            if count < _PROOF[TORUS] - 2:
                return -1, mark
            worst = bent_through(p, patch, n, xyz, middle, normal, points, count)
            if 0 <= worst <= tolerance:
                return n, mark
        worst = through(code, p, ANEW, patch, n, xyz, middle, normal, points, count, FIRST)
        if worst < 0:
            return -1, mark
        if tolerance < worst < 100 * tolerance and code != TORUS:
            worst = through(code, p, FROM_NEAR, patch, n, xyz, middle, normal, points, count, LAST)
        if worst <= tolerance:
            return n, mark
        for i in range(n):
            offs[i] = off_of(code, p, patch[i], xyz, vertices, vertex_at)
        half = max(np.median(offs[:n]), tolerance)
        # The worse half goes, never the seed.
        kept = 0
        for i in range(n):
            if offs[i] <= half or patch[i] == seed:
                patch[kept] = patch[i]
                kept += 1
        if kept == n:
            return -1, mark
        n = kept
    return -1, mark


@_jit
def _grow(code, seed, p, free, xyz, vertices, vertex_at, area, middle, normal, near, near_at, soft_end, tolerance, largest, gstamp, vstamp, mark, members, points, offs):  # type: ignore[no-untyped-def]  # fmt: skip
    """A surface of a kind that begins at a chord and takes all that follow it; members and their number, 0 where too few prove it."""
    g = np.empty(3)
    patches = _TORUS_PATCHES if code == TORUS else _PATCHES
    for most, which in patches:
        mark += 1
        if which == _AROUND:
            size = _around(seed, free, most, area, near, near_at, soft_end, gstamp, mark, members)
        elif which == _GENTLE:
            size = _gentle(seed, free, most, area, normal, near, near_at, soft_end, gstamp, mark, members)
        else:
            size = _alike(seed, free, most, area, near, near_at, soft_end, gstamp, mark, members)
        if size < 3:
            continue
        n, mark = _begun(
            code, p, members, size, xyz, vertices, vertex_at, middle, normal, vstamp, mark, points, offs, tolerance
        )
        if n < 0 or not _plausible(code, p, largest):
            continue
        good = True
        for i in range(n):
            if not settled(code, p, members[i], xyz, vertices, vertex_at, middle, normal, 2 * tolerance):
                good = False
                break
        if not good:
            continue
        mark += 1
        own = mark
        for i in range(n):
            gstamp[members[i]] = own
        begin, fitted = 0, n
        deepest = 0.0
        for i in range(n):
            deepest = max(deepest, abs(gap(code, p, middle[members[i]], g)))
        while True:
            end = n
            for i in range(begin, end):
                for q in range(near_at[members[i]], near_at[members[i] + 1]):
                    h = near[q]
                    if not free[h] or gstamp[h] == own:
                        continue
                    deep = abs(gap(code, p, middle[h], g))
                    if vertex_at[h + 1] - vertex_at[h] > _CAP and deep > 2 * deepest + tolerance:
                        continue
                    if settled(code, p, h, xyz, vertices, vertex_at, middle, normal, 2 * tolerance):
                        deepest = max(deepest, deep)
                        gstamp[h] = own
                        members[n] = h
                        n += 1
            begin = end
            if n > 1.3 * fitted or (n == end and n > fitted):
                # What a few chords define leans farther off: it is held by what came since.
                q = p.copy()
                mark += 1
                count = _gather(members, n, vertices, vertex_at, vstamp, mark, points)
                worst = through(code, q, FROM_NEAR, members, n, xyz, middle, normal, points, count, LAST)
                if worst >= 0 and worst <= 2 * tolerance:
                    p[:] = q
                    begin = 0  # what was refused may follow now
                fitted = n
                continue
            if n == end:
                break
        mark += 1
        count = _gather(members, n, vertices, vertex_at, vstamp, mark, points)
        if n < 3 or count < _PROOF[code]:
            continue
        if code == SPHERE and count <= _FEW and _off_one_plane(xyz, points, count, tolerance) < 4:
            continue
        if code == TORUS and (n < _LEAST_OF_TORUS or _rows(code, p, xyz, points, count, tolerance) < 4):
            continue
        return n, mark
    return 0, mark


@_jit
def _some(seeds, begin, end, free, tried, vain, xyz, vertices, vertex_at, area, middle, normal, near, near_at, soft_end, tolerance, largest, gstamp, vstamp, mark, members, best, points, offs, kinds, params, firsts, taken, found, used):  # type: ignore[no-untyped-def]  # fmt: skip
    """Grows from seeds[begin:end]; what is found is written behind what was found before."""
    p = np.empty(9)
    kept = np.empty(9)
    g = np.empty(3)
    for s in range(begin, end):
        seed = seeds[s]
        if not free[seed] or tried[seed] or near_at[seed] == soft_end[seed] or area[seed] <= 0:
            continue
        top, top_kind, top_count, top_deep = 0.0, 0, 0, 0.0
        for code in (CYLINDER, CONE, SPHERE, TORUS):
            p[:] = 0.0
            n, mark = _grow(
                code, seed, p, free, xyz, vertices, vertex_at, area, middle, normal, near, near_at, soft_end, tolerance,
                largest, gstamp, vstamp, mark, members, points, offs,
            )  # fmt: skip
            if n == 0:
                continue
            total, deep = 0.0, tolerance
            for i in range(n):
                total += area[members[i]]
                deep += area[members[i]] * abs(gap(code, p, middle[members[i]], g))
            deep /= total
            # A ring of a torus lies on a sphere and on a cone as well: what explains most is meant, of equals the simpler one. But not what
            # goes far above its chords, as a sphere does over a cylinder and both its caps.
            better = total > top * (1 + 1e-6) and not (top > _MUCH * total and deep > _DEEPER * top_deep)
            if better or (total > _MUCH * top and _DEEPER * deep < top_deep):
                top, top_kind, top_count, top_deep = total, code, n, deep
                kept[:] = p
                best[:n] = members[:n]
        if top_count == 0:
            vain += 1
            if vain > _PATIENCE:
                tried[seed] = True
                for q in range(near_at[seed], soft_end[seed]):
                    if area[near[q]] < 2 * area[seed]:
                        tried[near[q]] = True
            continue
        kinds[found] = top_kind
        params[found] = kept
        firsts[found] = used
        for i in range(top_count):
            free[best[i]] = False
            taken[used] = best[i]
            used += 1
        found += 1
        firsts[found] = used
    return mark, found, used, vain


def grow_all(
    chords: Chords,
    xyz: Array,
    free: NDArray[np.bool_],
    tolerance_mm: float,
    report: Callable[[float], None] = lambda _: None,
    seeds: NDArray[np.int64] | None = None,
) -> list[Grown]:
    """Round surfaces with their chords, grown from the narrowest chords on: a wide plane has soft neighbours too, where a fillet runs
    into it. xyz (m, 3) mm; free (g,): chords that may be taken, and are marked as taken; seeds (k,): where to begin, everywhere by default.
    report(share) may raise to stop."""
    g, m = chords.count, len(xyz)
    seeds = np.argsort(chords.area, kind="stable") if seeds is None else seeds
    total = len(seeds)
    tried = np.zeros(g, np.bool_)
    gstamp, vstamp = np.zeros(g, np.int64), np.zeros(m, np.int64)
    members, best, taken = np.empty(g, np.int64), np.empty(g, np.int64), np.empty(g, np.int64)
    points, offs = np.empty(m, np.int64), np.empty(64)
    kinds, params, firsts = np.zeros(g, np.int64), np.zeros((g, 9)), np.zeros(g + 1, np.int64)
    largest = 3 * float(np.linalg.norm(np.ptp(xyz, axis=0)))
    mark = found = used = vain = 0
    for begin in range(0, total, _AT_ONCE):
        if begin % (16 * _AT_ONCE) == 0:
            report(begin / total)
        mark, found, used, vain = _some(
            seeds, begin, min(begin + _AT_ONCE, total), free, tried, vain, xyz, chords.vertices, chords.vertex_at,
            chords.area, chords.middle, chords.normal, chords.near, chords.near_at, chords.soft_end, tolerance_mm, largest,
            gstamp, vstamp, mark, members, best, points, offs, kinds, params, firsts, taken, found, used,
        )  # fmt: skip
    return [
        Grown(Surface.unpacked(int(kinds[k]), params[k]), np.sort(taken[firsts[k] : firsts[k + 1]]))
        for k in range(found)
    ]
