"""Bolt circles (equal angles) and rows (equal steps) of alike parallel bores or bosses; one missing member is named."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from contour.construct.bolt_circle import circle_through
from contour.construct.place import Array
from contour.geometry.vectors import square_to
from contour.intent.features import FAR, LEAST_MM, Feature, Proposal
from contour.intent.relation import Relation
from contour.intent.sizes import radii

__all__ = ["patterns"]


def _way(first: Feature, axis: Array) -> float:
    """Slots are counted the way the first member's own axis turns."""
    return 1.0 if float(np.array(first.surface.axis) @ axis) >= 0 else -1.0


def _slots(around: Array, step: float, way: float, count: int) -> tuple[int, ...]:
    turns = np.round(way * (around - around[0]) / step).astype(int) % count
    return tuple(int(k) for k in turns)


def patterns(features: Sequence[Feature]) -> list[Proposal]:
    """Bolt circles (equal angles) and rows (equal steps) of alike parallel bores or bosses; one missing member is named."""
    out: list[Proposal] = []
    for members, mean, _, _ in radii(features, blends=False):
        rows = [f for f in members if f.surface.kind == "cylinder"]
        if len(rows) < 3:
            continue
        axis = np.array(max(rows, key=lambda f: f.area).surface.axis)
        rows = [f for f in rows if abs(float(np.array(f.surface.axis) @ axis)) > math.cos(math.radians(1.0))]
        e1, e2 = square_to(axis)
        origin = np.array([f.surface.origin for f in rows])
        flat = np.column_stack([origin @ e1, origin @ e2])
        distinct: list[int] = []
        for k in range(len(rows)):
            if all(np.linalg.norm(flat[k] - flat[d]) > mean for d in distinct):
                distinct.append(k)
        flat, rows = flat[distinct], [rows[k] for k in distinct]
        if len(rows) < 3:
            continue
        u = max(float(np.median([f.u.position for f in rows])), LEAST_MM)
        level = float(np.mean(origin[distinct] @ axis))
        ids = tuple(f.id for f in rows)

        def at(
            p: Array, e1: Array = e1, e2: Array = e2, axis: Array = axis, level: float = level
        ) -> tuple[float, float, float]:
            q = p[0] * e1 + p[1] * e2 + level * axis
            return float(q[0]), float(q[1]), float(q[2])

        circle = circle_through(flat)
        if circle is not None:
            centre, radius = circle
            off = np.abs(np.linalg.norm(flat - centre, axis=1) - radius)
            around = np.degrees(np.arctan2(*(flat - centre).T[::-1])) % 360
            angle = np.sort(around)
            gaps = np.diff(np.append(angle, angle[0] + 360))
            slack = math.degrees(FAR * 1.5 * u / radius)
            for count in range(len(rows), len(rows) + 2):
                step = 360 / count
                turns = np.round(gaps / step)
                if (
                    (turns >= 1).all()
                    and np.abs(gaps - turns * step).max() <= slack
                    and off.max() <= FAR * u
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
                            Relation(
                                "bolt-circle", ids, slots=_slots(around, step, _way(rows[0], axis), count), count=count
                            ),
                            "Ø",
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
        turns = np.round(gaps / max(step, 1e-9))  # two at one place are no row
        if (
            off_line.max() <= FAR * u
            and np.abs(gaps - turns * step).max() <= FAR * 1.5 * u
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
                    Relation("row", ids, slots=tuple(int(k) for k in np.round((t - order[0]) / pitch))),
                    measured=pitch,
                    u=u,
                    missing=places,
                )
            )
    return out
