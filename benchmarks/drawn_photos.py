"""Drawings fitted to photos of flat parts of known truth: sizes against their uncertainties, and photos laid onto drawings by their edges."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from contour.recipe.problem import ContourError
from contour.simulate.photographed_profiles import PhotographedProfile, photographed_profile
from contour.sketch.drawn.dimensions import measured
from contour.sketch.drawn.kept import KeptDrawing, kept_of
from contour.sketch.drawn.picture_fit import fitted_to_picture, picture_source
from contour.sketch.drawn.seen_edges import laid_onto
from contour.sketch.drawn.unknowns import Unknowns

__all__ = ["run"]

_PHOTOS = 60


def run() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(33)
    errors: list[float] = []
    ratios: list[float] = []
    apart: list[float] = []
    took: list[float] = []
    untold, failed, lost = 0, 0, 0
    for k in range(_PHOTOS):
        made = photographed_profile(rng, corners=int(rng.integers(4, 12)), holes=int(rng.integers(0, 3)), seed=k)
        begun = time.perf_counter()
        try:
            sizes = _sizes(made)
        except ContourError:
            failed += 1
        else:
            took.append(time.perf_counter() - begun)
            told = [(e, u) for e, u in sizes if u is not None]
            untold += len(sizes) - len(told)
            errors += [e / made.scale.mm_per_px for e, _ in told]
            ratios += [e / u for e, u in told]
        try:
            apart.append(_laid(made, rng) / made.scale.mm_per_px)
        except ContourError:
            lost += 1
    inside = np.array(ratios) <= 3
    yield (
        f"{_PHOTOS} photos, tilted up to 12 degrees, a lens that bends: lengths and radii within 3 u",
        f"{100 * inside.mean():.1f} % of {len(ratios)}; {untold} not told, {failed} photos failed",
    )
    yield (
        "  error, median and 95th",
        f"{np.median(errors):.2f}, {np.quantile(errors, 0.95):.2f} pixels; median {np.median(ratios):.2f} u",
    )
    yield "  one fit, median and longest", f"{np.median(took):.2f}, {max(took):.2f} s"
    yield (
        "the same laid by their edges from up to 2 mm and 2 degrees off: what is left at the part's corners",
        f"median {np.median(apart):.2f}, largest {max(apart):.2f} pixels; {lost} refused",
    )


def _sizes(made: PhotographedProfile) -> list[tuple[float, float | None]]:
    """(error, u) of each length, mm."""
    found, _ = fitted_to_picture(
        kept_of(made.rough, KeptDrawing()), made.pixels, made.laid, picture_source(made.scale, "photo")
    )
    u = Unknowns(made.truth)
    return [
        (abs(row.value - measured(u, d, f"d:{k}", np.array(u.start))), row.u)
        for k, (d, row) in enumerate(zip(made.truth.dimensions, found.rows, strict=True))
        if d.kind != "angle"
    ]


def _laid(made: PhotographedProfile, rng: np.random.Generator) -> float:
    """How far the part's own corners lie from where they are drawn, mm, once the photo was laid onto the true drawing."""
    off = made.laid.moved(rng.uniform(-2, 2, 2), rng.uniform(-2, 2), np.array(made.laid.at))
    found = laid_onto(made.truth, made.pixels, off).laid
    corners = np.array([e.at for e in made.truth.entities.values() if e.kind == "point"])
    return float(np.linalg.norm(found.to_plane(made.laid.to_picture(corners)) - corners, axis=1).max())
