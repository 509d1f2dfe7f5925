"""Booleans of seven hundred hard pairs of solids, all three ways: ours, the kernel's own and a general mesh library's, judged by the solids' equations.

A result is right when its volume agrees with places counted by the equations and every one of many places lies on the right side of it. A
pair whose exact answer is no one solid (it touches along a line, has nothing in common, or changes nothing) has to be refused.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator
from typing import Any

import manifold3d
import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from scipy.stats import qmc

from contour.recipe.problem import ContourError
from contour.simulate.body_pairs import KINDS, Pair, Plain, random_pair
from contour.solid.agreement import sides
from contour.solid.boolean import combine
from contour.solid.extent import bounds
from contour.solid.gate import check_solid
from contour.solid.tessellate import tessellate

__all__ = ["run"]

EACH = 100
OPERATIONS = ("add", "subtract", "intersect")
PLACES, CLEAR_MM = 1 << 14, 2e-3  # places counted, and how far from both surfaces those lie that are asked about
ASKED = 60
KERNEL = {"add": BRepAlgoAPI_Fuse, "subtract": BRepAlgoAPI_Cut, "intersect": BRepAlgoAPI_Common}


def run() -> Iterator[tuple[str, str]]:
    told: dict[str, Counter[str]] = {who: Counter() for who in ("ours", "kernel", "mesh")}
    took: dict[str, list[float]] = {who: [] for who in told}
    unplaced, worst, where = 0, Counter(), []
    for kind in KINDS:
        for seed in range(EACH):
            pair = random_pair(kind, seed)
            for operation in OPERATIONS:
                truth = Truth(pair, operation)
                for who, judge in (("ours", _ours), ("kernel", _kernel), ("mesh", _mesh)):
                    begun = time.perf_counter()
                    said, volume, shape, problem = judge(pair, operation)
                    took[who].append(time.perf_counter() - begun)
                    word = truth.judged(said, volume, shape)
                    told[who][word] += 1
                    if who == "ours":
                        unplaced += said == "refused" and problem.where.point is None
                        if word in ("wrong", "unsolved"):
                            worst[f"{word}: {kind}, {operation}"] += 1
                            where.append((kind, seed, operation, word))
    count = len(KINDS) * EACH * len(OPERATIONS)
    yield "results asked for", f"{count} of {len(KINDS) * EACH} pairs"
    for who, name in (("ours", "here"), ("kernel", "the kernel's own"), ("mesh", "a general mesh library")):
        c = told[who]
        answerable = c["right"] + c["wrong"] + c["unsolved"]
        yield (
            f"{name}: wrong results passed on (wanted here: 0)",
            f"{c['wrong'] + c['wrong instead of a refusal']} ({c['wrong instead of a refusal']} where there is no one solid)",
        )
        yield (
            f"{name}: solved of those that have an answer (wanted here: >= 98 %)",
            f"{100 * c['right'] / max(answerable, 1):.1f} % of {answerable}; median {1000 * np.median(took[who]):.0f} ms",
        )
    yield "refusals without a place (wanted: 0)", str(unplaced)
    if worst:
        yield "what is left", ", ".join(f"{k} ({n})" for k, n in worst.most_common(8))
        yield "seeds", str(where[:12])


class Truth:
    """What the equations say of a pair and an operation."""

    def __init__(self, pair: Pair, operation: str) -> None:
        self.pair, self.operation = pair, operation
        one, other = (bounds(p.shape.shape) for p in (pair.a, pair.b))
        low, high = np.minimum(one[0], other[0]), np.maximum(one[1], other[1])
        meet = np.maximum(one[0], other[0]), np.minimum(one[1], other[1])
        self.common = 0.0
        if pair.meets in ("volume", "within") and (meet[1] > meet[0]).all():
            p = meet[0] + qmc.Sobol(3, seed=1).random(PLACES) * (meet[1] - meet[0])
            self.common = float(np.prod(meet[1] - meet[0])) * float(
                ((pair.a.depth(p) > 0) & (pair.b.depth(p) > 0)).mean()
            )
            self.unsure = 4 * float(np.prod(meet[1] - meet[0])) / PLACES**0.75 + 1e-3 * self.common
        else:
            self.unsure = 1e-3
        p = low + qmc.Sobol(3, seed=2).random(1 << 9) * (high - low)
        a, b = pair.a.depth(p), pair.b.depth(p)
        clear = (np.abs(a) > CLEAR_MM) & (np.abs(b) > CLEAR_MM)
        self.places = p[clear][:ASKED]
        a, b = a[clear][:ASKED] > 0, b[clear][:ASKED] > 0
        self.within = {"add": a | b, "subtract": a & ~b, "intersect": a & b}[operation]
        va, vb = pair.a.volume, pair.b.volume
        self.volume = {"add": va + vb - self.common, "subtract": va - self.common, "intersect": self.common}[operation]
        #: An answer that is one good solid and not what was there before.
        self.answer = self._has_answer(va)
        self.dubious = pair.kind == "grazing"  # shared by a hair: both a result and a refusal are honest

    def _has_answer(self, va: float) -> bool:
        meets = self.pair.meets
        if self.operation == "add":
            return meets in ("face", "volume")
        return meets in ("within", "volume") and (self.operation == "subtract" or self.common < va * (1 - 1e-3))

    def judged(self, said: str, volume: float, shape: Any) -> str:
        if said == "refused":
            return "unsolved" if self.answer and not self.dubious else "rightly refused"
        if not self._agrees(volume, shape):
            return "wrong" if self.answer else "wrong instead of a refusal"
        return "right"

    def _agrees(self, volume: float, shape: Any) -> bool:
        if abs(volume - self.volume) > self.unsure + 1e-3 * (self.volume if self.operation != "intersect" else 0):
            return False
        return shape is None or bool(((sides(shape, self.places, skin_mm=1e-6) > 0) == self.within).all())


def _ours(pair: Pair, operation: str):  # type: ignore[no-untyped-def]
    try:
        made = combine(pair.a.shape, pair.b.shape, operation)  # type: ignore[arg-type]
    except ContourError as error:
        return "refused", 0.0, None, error.problem
    return "made", check_solid(made.shape).volume, made.shape, None


def _kernel(pair: Pair, operation: str):  # type: ignore[no-untyped-def]
    """As it comes: done and called valid."""
    try:
        op = KERNEL[operation](pair.a.shape.shape, pair.b.shape.shape)
        found = check_solid(op.Shape())
    except Exception:  # its own errors have no common base in the binding
        return "refused", 0.0, None, None
    if not op.IsDone() or not found.valid or found.solids == 0:
        return "refused", 0.0, None, None
    return "made", found.volume, op.Shape(), None


def _mesh(pair: Pair, operation: str):  # type: ignore[no-untyped-def]
    """On fine facets: right within what those leave out."""
    a, b = (_facets(p) for p in (pair.a, pair.b))
    made = {"add": a + b, "subtract": a - b, "intersect": a ^ b}[operation]
    return ("refused" if made.is_empty() else "made"), made.volume(), None, None


def _facets(of: Plain) -> Any:
    mesh = tessellate(of.shape.shape, chord_mm=0.002, angle_rad=0.05)
    solid = manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.triangles.astype(np.uint32))
    solid.merge()
    return manifold3d.Manifold(solid)
