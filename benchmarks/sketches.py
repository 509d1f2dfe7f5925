"""Drawings: random ones shaken and solved again, planted contradictions, and a large one beside scipy's general least squares."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np
from scipy.optimize import least_squares

from contour.simulate.drawings import RandomDrawing, perturbed, random_drawing
from contour.sketch.drawn.orientation import Orientation
from contour.sketch.drawn.solution import Drag, solved
from contour.sketch.drawn.system import DrawnSystem
from contour.sketch.drawn.text import Drawing, Point
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["run"]


def run() -> Iterator[tuple[str, str]]:
    yield from _shaken()
    yield from _contradictions()
    yield from _large()


def _drawing(rng: np.random.Generator) -> RandomDrawing:
    return random_drawing(rng, 4 * int(rng.integers(1, 7)), int(rng.integers(0, 5)))


def _loops(drawing: Drawing, asked: Drawing) -> bool:
    """Whether the loops and arcs of a solution turn as those of another drawing do."""
    return Orientation(Unknowns(asked)).kept(np.array(Unknowns(drawing).start))


def _shaken() -> Iterator[tuple[str, str]]:
    for share, of_what, count in (
        (0.05, "of each piece's own length", 1000),
        (0.02, "of the whole size", 200),
        (0.05, "of the whole size", 100),
    ):
        good = turned = near = 0
        for seed in range(count):
            rng = np.random.default_rng(seed)
            truth = _drawing(rng)
            drawn = perturbed(rng, truth, share, each=of_what.startswith("of each"))
            found = solved(drawn)
            good += found.solved
            if found.solved:
                turned += not _loops(found.drawing, truth.drawing())
                away = max(np.hypot(*np.subtract(found.drawing.point(n), drawn.point(n))) for n in _points(drawn))
                near += away < 4 * share * 90
        yield f"shaken by {share:.0%} {of_what}: solved (wanted: all)", f"{good} of {count}"
        yield (
            "  loops or arcs that turn another way than in the truth; all points within 4 x the shake",
            f"{turned}; {near}",
        )


def _points(drawing: Drawing) -> list[str]:
    return [n for n, e in drawing.entities.items() if isinstance(e, Point)]


def _contradictions() -> Iterator[tuple[str, str]]:
    named = minimal = planted = 0
    for seed in range(30):
        rng = np.random.default_rng(seed)
        truth = _drawing(rng)
        line = next(n for n, e in truth.entities.items() if e["kind"] == "line")
        long = float(np.linalg.norm(truth.at(truth.entities[line]["from"]) - truth.at(truth.entities[line]["to"])))
        truth.size("length", long, line)
        truth.size("length", 1.3 * long, line)
        drawing = perturbed(rng, truth, 0.005)
        found = solved(drawing)
        planted += 1
        named += bool(found.conflicts) and not found.solved
        minimal += all(_is_minimal(drawing, c) for c in found.conflicts) and bool(found.conflicts)
    yield (
        "planted contradictions: named; minimal, by solving without each member (wanted: all)",
        f"{named}; {minimal} of {planted}",
    )


def _is_minimal(drawing: Drawing, conflict: tuple[str, ...]) -> bool:
    """Alone it cannot hold; without any one of its members it can."""

    def holds(names: tuple[str, ...]) -> bool:
        return solved(
            drawing.model_copy(
                update={
                    "constraints": tuple(c for k, c in enumerate(drawing.constraints) if f"c:{k}" in names),
                    "dimensions": tuple(d for k, d in enumerate(drawing.dimensions) if f"d:{k}" in names),
                }
            )
        ).solved

    return not holds(conflict) and all(holds(tuple(n for n in conflict if n != left)) for left in conflict)


def _large() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(11)
    truth = random_drawing(rng, 176, 44)
    drawing = perturbed(rng, truth, 0.0005)
    curves = sum(e.kind != "point" for e in drawing.entities.values())
    asked = len(drawing.constraints) + len(drawing.dimensions)
    ours = _best(lambda: solved(drawing))
    point = _points(drawing)[5]
    x, y = solved(drawing).drawing.point(point)
    held = Drag(solved(drawing).drawing, point)
    drag = _best(lambda: held.to((x + 0.2, y + 0.1)))
    system = DrawnSystem(drawing, None)
    equations = system.demands().system
    begun = time.perf_counter()
    general = least_squares(equations.residuals, system.x, xtol=1e-12, ftol=1e-12, gtol=1e-12)
    theirs = time.perf_counter() - begun
    yield (
        f"{curves} curves, {len(drawing.entities)} entities, {asked} constraints and sizes: solved whole (wanted 100 ms)",
        f"{ours * 1e3:.0f} ms",
    )
    yield "  one step of a drag (wanted 30 ms)", f"{drag * 1e3:.0f} ms"
    yield (
        "  scipy's least_squares on the same residuals (wanted: 5 x as long)",
        f"{theirs * 1e3:.0f} ms, {theirs / ours:.0f} x, error {np.abs(general.fun).max():.1e}",
    )


def _best(work) -> float:  # type: ignore[no-untyped-def]
    times = []
    for _ in range(5):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return min(times)
