"""A section as ``section --json`` gives it, brought onto a drawing's plane: chains of measured places."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.geometry.vectors import unit
from contour.recipe.problem import ContourError
from contour.sketch.drawn.text import PlaneAxes

__all__ = ["read_section"]

Array = NDArray[np.float64]
_TILT_DEG, _OFF_MM = 0.05, 0.02  # planes nearer than this are one


def read_section(data: str | bytes, onto: PlaneAxes | None = None) -> list[Array]:
    """Chains of places (n, 2), mm: the cuts themselves, or, where the file has none, places along its pieces.

    Raises ContourError (file-not-understood), (no-section) where it is empty, (bad-params) where it does not lie in the plane.
    """
    try:
        section = json.loads(data)
        loops = section["loops"] if isinstance(section, dict) else None
        frames = [np.array([f[k] for k in ("origin", "u", "v")], float) for f in _frames(section)]
        chains = [np.array(c["points"], float).reshape(-1, 2) for c in section.get("cuts") or ()]
        chains = chains or [_along(loop) for loop in loops or ()]
    except (json.JSONDecodeError, UnicodeDecodeError, KeyError, TypeError, ValueError, AttributeError) as error:
        raise ContourError(
            "file-not-understood",
            "this is no section as the command `section --json` gives it",
            got=f"{type(error).__name__}: {error}"[:120],
            need="loops with their frame and pieces",
            remedy="make it with `section SCAN --origin … --normal … --json`",
        ) from None
    chains = [c for c in chains if len(c) and np.isfinite(c).all()]
    if not chains:
        raise ContourError(
            "no-section",
            "there is nothing in the section",
            got="0 places",
            need="measured places",
            remedy="cut the scan where there is something",
        )
    for other in frames[1:]:
        _require_one_plane(frames[0], other, "the loops of the section lie in several planes")
    if onto is None or not frames:
        return chains
    own = np.array([onto.origin, onto.u, onto.v], float)
    _require_one_plane(own, frames[0], "the section does not lie in the drawing's plane")
    return [_moved(c, frames[0], own) for c in chains]


def _frames(section: dict[str, Any]) -> list[dict[str, Any]]:
    own = [section["frame"]] if section.get("frame") else []
    return own + [loop["frame"] for loop in section["loops"] if loop.get("frame")]


def _along(loop: dict[str, Any]) -> Array:
    """Places along the pieces of a loop that has no points of its own."""
    from contour.outline.pieces import Piece, piece_path

    paths = []
    for p in loop["pieces"]:
        f = p["flat"]
        ends = (tuple(f["start"]), tuple(f["end"]))
        ellipse = tuple(f["ellipse"]) if f.get("ellipse") else None
        points = tuple(tuple(q) for q in f.get("points", ()))
        mid = tuple(f["mid"]) if f.get("mid") else None
        path = piece_path(Piece(p["kind"], *ends, 0.0, mid=mid, points=points, ellipse=ellipse))
        steps = np.linspace(0, len(path) - 1, 40)
        paths.append(np.stack([np.interp(steps, np.arange(len(path)), path[:, i]) for i in (0, 1)], axis=1))
    return np.vstack(paths) if paths else np.zeros((0, 2))


def _require_one_plane(a: Array, b: Array, message: str) -> None:
    n, m = unit(np.cross(a[1], a[2])), unit(np.cross(b[1], b[2]))
    tilt = float(np.degrees(np.arccos(np.clip(abs(n @ m), 0, 1))))
    away = abs(float((b[0] - a[0]) @ n))
    if tilt > _TILT_DEG or away > _OFF_MM:
        raise ContourError(
            "bad-params",
            message,
            got=f"{tilt:.2f} degrees and {away:.3f} mm off",
            need="one plane",
            remedy="cut the scan in the drawing's plane",
        )


def _moved(points: Array, source: Array, onto: Array) -> Array:
    space = source[0] + points[:, :1] * source[1] + points[:, 1:] * source[2]
    return np.stack([(space - onto[0]) @ onto[1], (space - onto[0]) @ onto[2]], axis=1)
