"""What narrow faces are judged by: a face of a few facets' width counts when it explains clearly better than the surfaces that
have reached over it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from contour.fit.segment.labels import FREE, depth_of, pieces
from contour.fit.segment.merging import Draft
from contour.geometry.surface_rows import gap_all

__all__ = ["FEWEST", "LEAST_GAIN", "cost_of", "own_cost", "pieces_of", "unheld"]

_TURN = np.radians(8.0)  # of a narrow face's normals, which the smoothing has mixed with those beside it
_MOST_COST = 12.0
# Softened edges beside sound rounds gain up to 220 with up to 40 facets; flats of three facets' width 480 and more with 60.
LEAST_GAIN, FEWEST = 320.0, 40


def cost_of(d: NDArray[np.float64], turn: NDArray[np.float64], sigma: float) -> NDArray[np.float64]:
    """What facets `d` mm off a surface cost, their normals turned by angles of cosine `turn`.

    d (n,) mm; turn (n,); sigma mm; answers (n,), no unit.
    """
    return d**2 / (2 * (0.6 * sigma) ** 2) + (1 - turn) / _TURN**2


def own_cost(draft: Draft) -> NDArray[np.float64]:
    """Per facet, the cost of lying where it is said to lie; distances are taken over neighbours of one label, against noise.

    (facets,) float64, no unit.
    """
    scan = draft.scan
    d, turn = np.full(len(draft.labels), np.inf), np.zeros(len(draft.labels))
    for k, facets in enumerate(draft.facets_by_label()):
        if draft.codes[k] not in (0, FREE):
            d[facets], g = gap_all(int(draft.codes[k]), draft.values[k], np.ascontiguousarray(scan.centroids[facets]))
            turn[facets] = (g * scan.smooth_normals[facets]).sum(axis=1) * draft.values[k, 8]
    beside = np.where(scan.across < 0, -1, scan.across // 3)
    same = (beside >= 0) & (draft.labels[beside] == draft.labels[:, None]) & np.isfinite(d)[:, None]
    mean = (d + np.where(same, d[beside], 0.0).sum(axis=1)) / (1 + same.sum(axis=1))
    return np.minimum(cost_of(mean, turn, draft.sigma), _MOST_COST)


def unheld(draft: Draft) -> NDArray[np.bool_]:
    """(n,) facets that a narrow face may take: of no region, or of one with a surface that is not protected."""
    open_label = (draft.codes != FREE) & (draft.protected == 0)
    return (draft.labels < 0) | open_label[np.maximum(draft.labels, 0)]


def pieces_of(draft: Draft, facets: NDArray[np.int64]) -> list[tuple[NDArray[np.int64], NDArray[np.int32]]]:
    """(facets, how many rings inside) of every connected piece, largest first."""
    mask = np.zeros(len(draft.labels), np.int64)
    mask[facets] = 1
    number, _ = pieces(mask, draft.scan.across)
    depth = depth_of(mask, draft.scan.across, 3)
    which, size = np.unique(number[facets], return_counts=True)
    parts = [facets[number[facets] == k] for k in which[np.argsort(-size)]]
    return [(part, depth[part]) for part in parts]
