"""Proposals from the surfaces of a scan: round sizes, common directions, axes, planes and radii, bolt circles and rows, draft.

A proposal says what would change and what it costs: how far it lies from what was measured, in units of the standard
uncertainty. A coincidence is not proposed: a round value counts only where round values are much rarer than the uncertainty.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from contour.fit.covariance import Covariance
from contour.fit.surface import Surface

__all__ = ["Feature", "Proposal", "Rounding", "proposals", "rounding_of"]

Array = NDArray[np.float64]
_FAR = 3.0  # standard uncertainties: farther off, it was meant otherwise
_RARE = 8.0  # a step between round values must be so many uncertainties wide
_LEAST_ANGLE = math.radians(0.03)  # what flatness and facets leave of a direction, whatever its fit says
_LEAST_MM = 0.01


@dataclass(frozen=True, slots=True)
class Feature:
    """A fitted region: its number, surface, uncertainties, area (mm²), middle (a point on it) and whether it is a blend."""

    id: int
    surface: Surface
    u: Covariance
    area: float
    middle: tuple[float, float, float]
    blend: bool = False


@dataclass(frozen=True, slots=True)
class Proposal:
    """kind: round, parallel, perpendicular, coplanar, coaxial, equal-radius, bolt-circle, row, draft · regions by number ·
    measured, proposed: mm or degrees, where there is one value · u: standard uncertainty of what was measured · away: what
    accepting costs, in units of it · text in words · missing: places (mm) where a member of a circle or row is absent."""

    kind: str
    regions: tuple[int, ...]
    text: str
    away: float
    measured: float | None = None
    proposed: float | None = None
    u: float | None = None
    unit: str = "mm"
    missing: tuple[tuple[float, float, float], ...] = field(default=())


def _direction_u(f: Feature) -> float:
    return math.hypot(f.u.direction or 0.0, _LEAST_ANGLE)


def _radius_u(f: Feature) -> float:
    return math.hypot(f.u.radius or 0.0, _LEAST_MM / 2)


@dataclass(frozen=True, slots=True)
class Rounding:
    """How the sizes of a part are made: system "mm" or "inch", and the step that its sizes are multiples of more often than chance
    explains, mm; 0 where none is."""

    system: str
    step: float

    def near(self, value: float, u: float) -> float | None:
        """The roundest value within 3 u, or none. Without a common step a value must be round beyond chance by itself.

        >>> Rounding("mm", 0.5).near(12.03, 0.02), Rounding("mm", 0.5).near(12.03, 0.2), Rounding("mm", 0.0).near(12.03, 0.02)
        (12.0, None, None)
        """
        for step in _STEPS[self.system]:
            near = round(value / step) * step
            if near <= 0 or abs(near - value) > _FAR * u:
                continue
            by_itself = 2 * _FAR * u / step <= _BY_CHANCE
            # A coarse step that holds is a multiple of the common one as well: 12 is 12 whether steps are of 1 or of 0.5.
            common = self.step > 0 and step >= self.step * 0.999 and self.step >= _RARE * u
            if by_itself or common:
                return float(round(near, 6))
        return None


_STEPS = {
    "mm": (100.0, 50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.25, 0.1),
    "inch": (25.4, 12.7, 6.35, 3.175, 1.5875, 0.79375),
}
_BY_CHANCE = 0.05


def rounding_of(sizes: Sequence[tuple[float, float]]) -> Rounding:
    """The system and step that (value, standard uncertainty) of sizes, mm, fall on beyond chance.

    For each step the hits are held against what values without any order would score (binomial); the least likely wins, and
    only when it is less likely than one in a hundred.
    """
    best = (0.01, "mm", 0.0)
    for system in ("mm", "inch"):
        for step in (s for s in _STEPS[system] if 0.2 < s <= 2.0):
            told = [(v, u) for v, u in sizes if step >= _RARE * u and v > step]
            if len(told) < 3:
                continue
            chance = float(np.mean([min(2 * _FAR * max(u, 1e-3) / step, 1.0) for _, u in told]))
            hits = sum(abs(round(v / step) * step - v) <= _FAR * max(u, 1e-3) for v, u in told)
            if hits < 0.6 * len(told):
                continue
            tail = sum(
                math.comb(len(told), k) * chance**k * (1 - chance) ** (len(told) - k)
                for k in range(hits, len(told) + 1)
            )
            if tail < best[0]:
                best = (tail, system, step)
    return Rounding(best[1], best[2])


def _clusters(rows: Sequence[Feature], alike: Array) -> list[list[int]]:
    """Groups of rows that are all alike, largest area first; `alike` (n, n)."""
    left = sorted(range(len(rows)), key=lambda k: -rows[k].area)
    groups = []
    while left:
        first, *rest = left
        group = [first, *(k for k in rest if alike[first, k])]
        groups.append(group)
        left = [k for k in rest if k not in group]
    return groups


def _names(group: Sequence[Feature]) -> str:
    kinds = [f.surface.kind for f in group]
    many = {"torus": "tori"}
    counted = {k: kinds.count(k) for k in dict.fromkeys(kinds)}
    return ", ".join(f"{n} {k if n == 1 else many.get(k, k + 's')}" for k, n in counted.items())


def _directions(features: Sequence[Feature]) -> list[Proposal]:
    """Directions that agree, and groups of them that stand square on each other."""
    rows = [f for f in features if f.surface.kind != "sphere" and not f.blend and _direction_u(f) < math.radians(0.5)]
    if len(rows) < 2:
        return []
    axes = np.array([f.surface.axis for f in rows])
    u = np.array([_direction_u(f) for f in rows])
    joint = np.hypot(u[:, None], u[None, :])
    cross = np.clip(np.abs(axes @ axes.T), 0, 1)
    angle = np.arccos(cross)
    groups = _clusters(rows, angle <= _FAR * joint)
    out, means = [], []
    for group in groups:
        first = group[0]
        signs = np.sign(axes[group] @ axes[first])
        w = 1 / u[group] ** 2
        mean = (axes[group] * (signs * w)[:, None]).sum(axis=0)
        mean /= np.linalg.norm(mean)
        means.append((group, mean, float(1 / math.sqrt(w.sum()))))
        if len(group) > 1:
            off = np.arccos(np.clip(np.abs(axes[group] @ mean), 0, 1)) / u[group]
            members = [rows[k] for k in group]
            out.append(
                Proposal(
                    "parallel",
                    tuple(f.id for f in members),
                    f"one direction: {_names(members)}",
                    float(off.max()),
                    unit="deg",
                )
            )
    for (g1, m1, u1), (g2, m2, u2) in itertools.combinations(means, 2):
        off = abs(math.pi / 2 - math.acos(min(abs(float(m1 @ m2)), 1.0)))
        joint_u = math.hypot(u1, u2)
        # Square by accident is as rare as the uncertainty is small; single odd directions must be told well.
        if off <= _FAR * joint_u and joint_u < math.radians(0.15):
            ids = (rows[g1[0]].id, rows[g2[0]].id)
            out.append(
                Proposal("perpendicular", ids, f"{_names([rows[k] for k in g1])} square on {_names([rows[k] for k in g2])}", off / joint_u,
                         measured=math.degrees(math.acos(min(abs(float(m1 @ m2)), 1.0))), proposed=90.0, u=math.degrees(joint_u), unit="deg")
            )  # fmt: skip
    return out


def _coplanar(features: Sequence[Feature]) -> list[Proposal]:
    rows = [f for f in features if f.surface.kind == "plane" and not f.blend]
    n = len(rows)
    alike = np.eye(n, dtype=bool)
    cost = np.zeros((n, n))
    for i, j in itertools.combinations(range(n), 2):
        a, b = rows[i], rows[j]
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        turn = math.acos(min(abs(float(na @ nb)), 1.0)) / math.hypot(_direction_u(a), _direction_u(b))
        gap = np.array(b.middle) - np.array(a.middle)
        reach = float(np.linalg.norm(gap))
        normal = na / a.u.position**2 + np.sign(na @ nb) * nb / b.u.position**2 if a.u.position and b.u.position else na
        normal /= np.linalg.norm(normal)
        u = math.sqrt(
            a.u.position**2
            + b.u.position**2
            + (reach * min(_direction_u(a), _direction_u(b))) ** 2
            + (_LEAST_MM / 2) ** 2
        )
        off = abs(float(gap @ normal)) / u
        cost[i, j] = cost[j, i] = max(turn, off)
        alike[i, j] = alike[j, i] = float(na @ nb) > 0.9 and turn <= _FAR and off <= _FAR and u < 0.1
    out = []
    for group in _clusters(rows, alike):
        if len(group) > 1:
            away = float(max(cost[group[0], k] for k in group[1:]))
            out.append(Proposal("coplanar", tuple(rows[k].id for k in group), f"{len(group)} faces in one plane", away))
    return out


def _coaxial(features: Sequence[Feature]) -> list[Proposal]:
    rows = [f for f in features if f.surface.round and not f.blend and _direction_u(f) < math.radians(0.6)]
    n = len(rows)
    alike = np.eye(n, dtype=bool)
    cost = np.zeros((n, n))
    for i, j in itertools.combinations(range(n), 2):
        a, b = rows[i], rows[j]
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        turn = math.acos(min(abs(float(na @ nb)), 1.0)) / math.hypot(_direction_u(a), _direction_u(b))
        axis, better = (na, a) if _direction_u(a) < _direction_u(b) else (nb, b)
        gap = np.array(b.surface.origin) - np.array(a.surface.origin)
        along = float(gap @ axis)
        off = float(np.linalg.norm(gap - along * axis))
        u = math.sqrt(a.u.position**2 + b.u.position**2 + (along * _direction_u(better)) ** 2 + _LEAST_MM**2)
        cost[i, j] = cost[j, i] = max(turn, off / u)
        alike[i, j] = alike[j, i] = turn <= _FAR and off <= _FAR * u and u < 0.25
    out = []
    for group in _clusters(rows, alike):
        if len(group) > 1:
            away = float(max(cost[group[0], k] for k in group[1:]))
            members = [rows[k] for k in group]
            out.append(Proposal("coaxial", tuple(f.id for f in members), f"one axis: {_names(members)}", away))
    return out


def _radii(features: Sequence[Feature], *, blends: bool) -> list[tuple[list[Feature], float, float, float]]:
    """(features, mean radius, its u, worst away) of groups of equal radius, single ones too."""
    rows = [f for f in features if f.blend == blends and f.surface.kind in ("cylinder", "sphere", "torus")]
    r = np.array([f.surface.minor if f.surface.kind == "torus" else f.surface.radius for f in rows])
    u = np.array([math.hypot(f.u.minor or 0.0, _LEAST_MM) if f.surface.kind == "torus" else _radius_u(f) for f in rows])
    if len(rows) == 0:
        return []
    side = np.array([f.surface.outward for f in rows])
    alike = (np.abs(r[:, None] - r[None, :]) <= _FAR * np.hypot(u[:, None], u[None, :])) & (
        side[:, None] == side[None, :]
    )
    alike &= np.maximum(u[:, None], u[None, :]) < 0.05 * np.minimum(r[:, None], r[None, :])
    np.fill_diagonal(alike, True)
    out = []
    for group in _clusters(rows, alike):
        w = 1 / u[group] ** 2
        mean, own = float((r[group] * w).sum() / w.sum()), float(1 / math.sqrt(w.sum()))
        # What scanners do to a round is common to all of a kind: the mean is not better than that.
        own = max(own, float(np.min(u[group])))
        away = float((np.abs(r[group] - mean) / u[group]).max())
        out.append(([rows[k] for k in group], mean, own, away))
    return out


def _sizes(groups: Sequence[tuple[list[Feature], float, float, float]], rounding: Rounding) -> list[Proposal]:
    out = []
    for members, mean, u, away in groups:
        blend = members[0].blend
        ids = tuple(f.id for f in members)
        if len(members) > 1:
            what = "rounds" if blend else "bores" if members[0].surface.outward < 0 else "shafts"
            out.append(Proposal("equal-radius", ids, f"{len(members)} {what} of one radius", away, measured=mean, u=u))
        value, u_value = _size_of(members[0], mean, u)
        near = rounding.near(value, u_value)
        if near is not None:
            sign = "R" if value == mean else "Ø"
            text = (
                f"{sign} {value:.3f} is {sign} {near:g}"
                if rounding.system == "mm"
                else f"{sign} {value:.3f} mm is {sign} {near / 25.4:g} inch"
            )
            out.append(
                Proposal("round", ids, text, abs(near - value) / u_value, measured=value, proposed=near, u=u_value)
            )
    return out


def _size_of(f: Feature, mean: float, u: float) -> tuple[float, float]:
    """What people state of it: a diameter of bores and shafts, a radius of the rest."""
    return (mean, u) if f.blend or f.surface.kind != "cylinder" else (2 * mean, 2 * u)


def _distances(features: Sequence[Feature]) -> list[tuple[Feature, Feature, float, float]]:
    """(one, other, distance, its u) of parallel faces."""
    rows = [f for f in features if f.surface.kind == "plane" and not f.blend and f.area > 20]
    out = []
    for a, b in itertools.combinations(rows, 2):
        na, nb = np.array(a.surface.axis), np.array(b.surface.axis)
        joint = math.hypot(_direction_u(a), _direction_u(b))
        if math.acos(min(abs(float(na @ nb)), 1.0)) > _FAR * joint:
            continue
        gap = np.array(b.middle) - np.array(a.middle)
        normal = na * a.area + np.sign(na @ nb) * nb * b.area
        normal /= np.linalg.norm(normal)
        value = abs(float(gap @ normal))
        across = float(np.linalg.norm(gap - (gap @ normal) * normal))
        u = math.sqrt(a.u.position**2 + b.u.position**2 + (across * joint / 2) ** 2 + (_LEAST_MM / 2) ** 2)
        if value > 1 and u < 0.06:
            out.append((a, b, value, u))
    return out


def _round_distances(pairs: Sequence[tuple[Feature, Feature, float, float]], rounding: Rounding) -> list[Proposal]:
    out = []
    for a, b, value, u in pairs:
        near = rounding.near(value, u)
        if near is not None:
            said = f"{near:g}" if rounding.system == "mm" else f"{near / 25.4:g} inch"
            out.append(
                Proposal("round", (a.id, b.id), f"{value:.3f} between two faces is {said}", abs(near - value) / u, measured=value, proposed=near, u=u)
            )  # fmt: skip
    return sorted(out, key=lambda p: p.away)


def _circle_through(points: Array) -> tuple[Array, float] | None:
    rows = np.column_stack([2 * points, np.ones(len(points))])
    if np.linalg.matrix_rank(rows, tol=1e-6 * np.abs(rows).max()) < 3:
        return None
    x, *_ = np.linalg.lstsq(rows, (points**2).sum(axis=1), rcond=None)
    squared = float(x[2] + x[:2] @ x[:2])
    return (x[:2], math.sqrt(squared)) if squared > 0 else None


def _patterns(features: Sequence[Feature]) -> list[Proposal]:
    """Bolt circles (equal angles) and rows (equal steps) of alike parallel bores or bosses; one missing member is named."""
    out: list[Proposal] = []
    for members, mean, _, _ in _radii(features, blends=False):
        rows = [f for f in members if f.surface.kind == "cylinder"]
        if len(rows) < 3:
            continue
        axis = np.array(max(rows, key=lambda f: f.area).surface.axis)
        rows = [f for f in rows if abs(float(np.array(f.surface.axis) @ axis)) > math.cos(math.radians(1.0))]
        helper = np.eye(3)[int(np.argmin(np.abs(axis)))]
        e1 = np.cross(axis, helper)
        e1 /= np.linalg.norm(e1)
        e2 = np.cross(axis, e1)
        origin = np.array([f.surface.origin for f in rows])
        flat = np.column_stack([origin @ e1, origin @ e2])
        distinct: list[int] = []
        for k in range(len(rows)):
            if all(np.linalg.norm(flat[k] - flat[d]) > mean for d in distinct):
                distinct.append(k)
        flat, rows = flat[distinct], [rows[k] for k in distinct]
        if len(rows) < 3:
            continue
        u = max(float(np.median([f.u.position for f in rows])), _LEAST_MM)
        level = float(np.mean(origin[distinct] @ axis))
        ids = tuple(f.id for f in rows)

        def at(
            p: Array, e1: Array = e1, e2: Array = e2, axis: Array = axis, level: float = level
        ) -> tuple[float, float, float]:
            q = p[0] * e1 + p[1] * e2 + level * axis
            return float(q[0]), float(q[1]), float(q[2])

        circle = _circle_through(flat)
        if circle is not None:
            centre, radius = circle
            off = np.abs(np.linalg.norm(flat - centre, axis=1) - radius)
            angle = np.sort(np.degrees(np.arctan2(*(flat - centre).T[::-1])) % 360)
            gaps = np.diff(np.append(angle, angle[0] + 360))
            slack = math.degrees(_FAR * 1.5 * u / radius)
            for count in range(len(rows), len(rows) + 2):
                step = 360 / count
                turns = np.round(gaps / step)
                if (
                    (turns >= 1).all()
                    and np.abs(gaps - turns * step).max() <= slack
                    and off.max() <= _FAR * u
                    and count >= 3
                ):
                    absent = [angle[k] + step * n for k in range(len(gaps)) for n in range(1, int(turns[k]))]
                    places = tuple(
                        at(centre + radius * np.array([math.cos(math.radians(a)), math.sin(math.radians(a))]))
                        for a in absent
                    )
                    words = f"{len(rows)} on a circle of Ø {2 * radius:.3f}, every {step:g}°" + (
                        ", one is missing" if absent else ""
                    )
                    out.append(
                        Proposal(
                            "bolt-circle",
                            ids,
                            words,
                            float(off.max() / u),
                            measured=2 * radius,
                            u=2 * u,
                            missing=places,
                        )
                    )
                    break
        middle = flat.mean(axis=0)
        _, _, ways = np.linalg.svd(flat - middle)
        t = (flat - middle) @ ways[0]
        off_line = np.abs((flat - middle) @ ways[1])
        order = np.sort(t)
        gaps = np.diff(order)
        step = float(gaps.min())
        turns = np.round(gaps / step)
        if (
            off_line.max() <= _FAR * u
            and np.abs(gaps - turns * step).max() <= _FAR * 1.5 * u
            and turns.sum() <= len(gaps) + 1
        ):
            pitch = float((order[-1] - order[0]) / turns.sum())
            absent_t = [order[k] + pitch * n for k in range(len(gaps)) for n in range(1, int(turns[k]))]
            places = tuple(at(middle + s * ways[0]) for s in absent_t)
            words = f"{len(rows)} in a row, every {pitch:.3f} mm" + (", one is missing" if places else "")
            out.append(
                Proposal(
                    "row",
                    ids,
                    words,
                    float(off_line.max() / u),
                    measured=pitch,
                    u=u,
                    missing=places,
                )
            )
    return out


def _draft(features: Sequence[Feature]) -> list[Proposal]:
    """Walls that all lean by one small angle from the direction most other faces have."""
    planes = [f for f in features if f.surface.kind == "plane" and not f.blend and _direction_u(f) < math.radians(0.3)]
    if len(planes) < 3:
        return []
    out: list[Proposal] = []
    best: tuple[int, Proposal] | None = None
    for pull in planes:
        axis = np.array(pull.surface.axis)
        lean = np.array(
            [math.degrees(math.asin(float(np.clip(np.array(f.surface.axis) @ axis, -1, 1)))) for f in planes]
        )
        u = np.degrees([math.hypot(_direction_u(f), _direction_u(pull)) for f in planes])
        walls = [k for k in range(len(planes)) if 0.4 < abs(lean[k]) < 12]
        for k in walls:
            same = [
                j for j in walls if abs(abs(lean[j]) - abs(lean[k])) <= _FAR * math.hypot(u[j], u[k]) and u[j] < 0.2
            ]
            if len(same) < 3:
                continue
            w = 1 / u[same] ** 2
            mean = float((np.abs(lean[same]) * w).sum() / w.sum())
            own = max(float(1 / math.sqrt(w.sum())), 0.02)
            away = float((np.abs(np.abs(lean[same]) - mean) / u[same]).max())
            near = round(mean * 2) / 2
            fits = near if abs(near - mean) <= _FAR * own else None
            ids = (pull.id, *(planes[j].id for j in same))
            made = Proposal(
                "draft",
                ids,
                f"{len(same)} walls with a draft of {mean:.2f}°",
                away,
                measured=mean,
                proposed=fits,
                u=own,
                unit="deg",
            )
            if best is None or len(same) > best[0]:
                best = (len(same), made)
    return [best[1]] if best else out


def proposals(features: Sequence[Feature]) -> tuple[list[Proposal], str]:
    """(proposals, "mm" or "inch": the system that the sizes look made in). Features that their points do not settle are left out."""
    features = [f for f in features if f.u.settled]
    groups = [*_radii(features, blends=False), *_radii(features, blends=True)]
    pairs = _distances(features)
    sizes = [_size_of(members[0], mean, u) for members, mean, u, _ in groups]
    patterns = _patterns(features)
    steps = [(p.measured, p.u) for p in patterns if p.measured is not None and p.u is not None]
    rounding = rounding_of([*sizes, *((value, u) for _, _, value, u in pairs), *steps])
    return [
        *_directions(features), *_coplanar(features), *_coaxial(features), *_sizes(groups, rounding), *(replace(p, proposed=rounding.near(p.measured or 0.0, p.u or 1.0)) for p in patterns),
        *_draft(features), *_round_distances(pairs, rounding),
    ], rounding.system  # fmt: skip
