"""How bodies that are only being looked at would fit the scan: by the sample that steps are compared by."""

from __future__ import annotations

from contour.job.build.fit import Figures, measure_fit, zone_of
from contour.job.build.result import BuildResult
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.recipe import Recipe

__all__ = ["passing_fit"]


def passing_fit(recipe: Recipe, result: BuildResult, store: Store) -> Figures | None:
    """None where there is no scan of the part, or no closed body beside it. store: where the bodies of the result are found."""
    part = next((e for e in recipe.scans if e.role == "part" and e.id in result.scans), None)
    bodies = tuple(b.key for b in result.bodies if b.role != "reference" and not b.open)
    if part is None or not bodies:
        return None
    for key in bodies:
        _measurable(key, store)
    scan_id = result.scans[part.id]
    scan = load_product(store.folder(scan_id)).scan
    zone = zone_of(part, scan, store)
    return measure_fit(part.id, scan_id, scan, bodies, store, recipe.acceptance_mm, sampled=True, zone=zone).figures


def _measurable(key: str, store: Store) -> None:
    """What distances are measured by, beside a body that was made without it."""
    from contour.check.exact_arrays import exact_arrays
    from contour.check.exact_solid import save_exact
    from contour.solid.shape import read_shape

    place = store.folder(key)
    if not (place / "exact.npz").exists():
        save_exact(exact_arrays(read_shape(load_product(place).brep)), place / "exact.npz")
