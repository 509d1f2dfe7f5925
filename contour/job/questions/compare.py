"""Two states of a job side by side: what was changed in the recipe, and what moved on the bodies."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.check.deviation import deviations
from contour.check.exact_solid import load_exact
from contour.geometry.rigid import inverse
from contour.job.build.inputs import checked_params
from contour.job.build.result import BuildResult
from contour.job.build.store import Store
from contour.mesh.nearest import build_tree, nearest_on_triangles
from contour.mesh.prepare import PreparedScan, placed
from contour.mesh.topology import vertex_normals
from contour.products.buffers import read_view, surface_arrays, write_view
from contour.recipe.problem import ContourError
from contour.recipe.recipe import Recipe, Step

__all__ = ["Change", "moved_map", "recipe_changes", "scan_moved"]


@dataclass(frozen=True, slots=True)
class Change:
    """One difference: `what` it is about ("Base plate", "clearance"), the field, and its text before and after
    (none: was not there)."""

    what: str
    field: str
    before: str | None
    after: str | None
    step: str | None = None


def _plain(value: Any) -> Any:
    if isinstance(value, dict) and isinstance(value.get("text"), str):
        return value["text"]
    return value


def _said(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None:
        return "none"
    if isinstance(value, list):
        return f"{len(value)} entries"
    if isinstance(value, dict):
        return str(value.get("name") or value.get("id") or value.get("blob") or "changed")[:60]
    return str(value)


def _params(step: str, name: str, a: dict[str, Any], b: dict[str, Any]) -> list[Change]:
    out = []
    for field in sorted({*a, *b}):
        before, after = _plain(a.get(field)), _plain(b.get(field))
        if before != after:
            old, new = _said(before), _said(after)
            out.append(Change(name, field, old, new if new != old else f"{new}, others", step))
    return out


def _whole(step: Step) -> dict[str, Any]:
    """Parameters with what was left to the kind's defaults filled in."""
    try:
        params: dict[str, Any] = checked_params(step)[1].model_dump(mode="json")
    except ContourError:
        return step.params
    return params


def _rows(what: str, a: Sequence[Any], b: Sequence[Any], text: Any) -> list[Change]:
    """Named values, readings, probes: gone, new or changed."""
    old, new = {r.id: r for r in a}, {r.id: r for r in b}
    out = []
    for id in [*old, *(i for i in new if i not in old)]:
        x, y = old.get(id), new.get(id)
        if x != y:
            out.append(Change(getattr(y or x, "name", what), what, text(x) if x else None, text(y) if y else None))
    return out


def recipe_changes(a: Recipe, b: Recipe) -> list[Change]:
    """What differs from recipe a to recipe b, in the order of b."""
    out: list[Change] = []
    for field in ("name", "unit", "acceptance_mm"):
        x, y = getattr(a, field), getattr(b, field)
        if x != y:
            out.append(Change("the job", field.removesuffix("_mm"), str(x), str(y)))
    out += _rows("value", a.values, b.values, lambda v: v.value.text)
    out += _rows(
        "reading",
        a.readings,
        b.readings,
        lambda r: ", ".join(f"{t.value:g} {t.unit}" + (" (struck)" if t.struck else "") for t in r.takes) or "no takes",
    )
    out += _rows(
        "instrument", a.instruments, b.instruments, lambda i: f"{i.resolution_mm:g} mm steps, ±{i.limit_mm:g} mm"
    )
    out += _rows("session", a.sessions, b.sessions, lambda s: f"zero at {s.zero_mm:g} mm")
    out += _rows("scan", a.scans, b.scans, lambda s: s.name)
    out += _rows("picture", a.pictures, b.pictures, lambda p: f"{p.role}, {len(p.marks)} marks")
    out += _rows("probe", a.probes, b.probes, lambda p: p.name)
    out += _rows(
        "variant",
        a.variants,
        b.variants,
        lambda v: ", ".join(s.value.text for s in v.settings) or "no values of its own",
    )
    old = {s.id: s for s in a.steps}
    for step in b.steps:
        was = old.pop(step.id, None)
        if was is None:
            out.append(Change(step.name, "step", None, step.kind, step.id))
            continue
        if was.name != step.name:
            out.append(Change(step.name, "name", was.name, step.name, step.id))
        if was.enabled != step.enabled:
            out.append(
                Change(step.name, "switched", "on" if was.enabled else "off", "on" if step.enabled else "off", step.id)
            )
        if was.note != step.note:
            out.append(Change(step.name, "note", was.note or "none", step.note or "none", step.id))
        out += _params(step.id, step.name, _whole(was), _whole(step))
    out += [Change(s.name, "step", s.kind, None, s.id) for s in old.values()]
    common = [s.id for s in b.steps if any(t.id == s.id for t in a.steps)]
    if common != [s.id for s in a.steps if s.id in common]:
        out.append(Change("the steps", "order", "as it was", "another order"))
    return out


def _finer(
    points: NDArray[np.float64], triangles: NDArray[np.int64], size: float
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Triangles split at their sides' middles until none is longer than `size` (at most five rounds): colours between
    corners a whole face apart would say nothing of what lies between."""
    for _ in range(5):
        sides = np.linalg.norm(points[triangles] - points[np.roll(triangles, -1, axis=1)], axis=2)
        large = sides.max(axis=1) > size
        if not large.any() or len(triangles) > 150_000:
            break
        t = triangles[large]
        middles = (points[t] + points[np.roll(t, -1, axis=1)]) / 2
        first = len(points) + 3 * np.arange(len(t))[:, None] + np.arange(3)
        points = np.vstack([points, middles.reshape(-1, 3)])
        a, b, c = t.T
        ab, bc, ca = first.T
        split = [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
        triangles = np.vstack([triangles[~large], *(np.column_stack(s) for s in split)])
    return points, triangles


def moved_map(before: BuildResult, after: BuildResult, store: Store, out: Path) -> dict[str, Any] | None:
    """How far the surface of `after` lies from the bodies of `before`, mm, + where material was added; written as a view
    buffer (positions, indices, deviation). None when either has no body."""
    if not (before.bodies and after.bodies):
        return None
    solids = [load_exact(store.folder(b.key) / "exact.npz") for b in before.bodies]
    points_list, triangle_list, base = [], [], 0
    for body in after.bodies:
        arrays, origin = read_view(store.folder(body.key) / "view.bin")
        p = arrays["positions"].reshape(-1, 3).astype(np.float64) + origin
        t = arrays["indices"].reshape(-1, 3).astype(np.int64)
        p, t = _finer(p, t, float(np.ptp(p, axis=0).max()) / 50)
        points_list.append(p)
        triangle_list.append(t + base)
        base += len(p)
    points, triangles = np.vstack(points_list), np.vstack(triangle_list)
    # Middles of chords lie off round faces; what they lie off their own body is no movement.
    own = [load_exact(store.folder(b.key) / "exact.npz") for b in after.bodies]
    d = deviations(solids, points) - deviations(own, points)
    d[np.abs(d) < 2e-4] = 0.0  # view buffers are single precision: below that nothing moved
    origin = np.round(points.mean(axis=0), 3)
    write_view(out, surface_arrays(points, triangles, origin, d), origin)
    worst = int(np.argmax(np.abs(d)))
    corners = points[triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    moved = (np.abs(d[triangles]) > 1e-3).mean(axis=1)
    return {
        "largest": float(d[worst]),
        "largest_at": points[worst].tolist(),
        "moved_share": float((areas * moved).sum() / areas.sum()),
    }


def scan_moved(before: PreparedScan, after: PreparedScan, out: Path) -> dict[str, Any]:
    """How far the surface of a scan's later state lies from its earlier one, mm, + outwards; written as a view buffer.

    Both are laid into the later state's place: an alignment moves nothing.
    """
    old = placed(before, np.asarray(after.pose) @ inverse(np.asarray(before.pose)))
    feet, owner = nearest_on_triangles(build_tree(old.vertices, old.facets), np.asarray(after.vertices))
    gap = np.asarray(after.vertices) - feet
    side = np.einsum("ij,ij->i", gap, np.asarray(old.smooth_normals)[owner])
    d = np.linalg.norm(gap, axis=1) * np.where(side < 0, -1.0, 1.0)
    d[np.abs(d) < 1e-6] = 0.0
    origin = np.round(np.asarray(after.vertices).mean(axis=0), 3)
    write_view(out, surface_arrays(np.asarray(after.vertices), np.asarray(after.facets), origin, d), origin)
    worst = int(np.argmax(np.abs(d)))
    fresh = after.source_facet < 0
    moved_facets = (np.abs(d[after.facets]) > 1e-4).any(axis=1)
    return {
        "largest": float(d[worst]),
        "largest_at": np.asarray(after.vertices)[worst].tolist(),
        "outward": vertex_normals(np.asarray(after.vertices), np.asarray(after.facets))[worst].tolist(),
        "moved_share": float(after.areas[moved_facets].sum() / after.areas.sum()),
        "new_facets": int(fresh.sum()),
        "facets": [len(before.facets), len(after.facets)],
    }


def changes_as_json(changes: Sequence[Change]) -> list[dict[str, Any]]:
    """Changes of readings as they are answered."""
    return [asdict(c) for c in changes]
