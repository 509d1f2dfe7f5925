"""The pump cover rebuilt from its two scans: laid on each other and merged, flange, seat and bore from two sections, every face seated."""

from __future__ import annotations

from typing import Any

import numpy as np

from contour.job.build.build import build
from contour.job.build.keep import faces_of
from contour.job.build.store import Store
from contour.products import load_product
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.recipe import Recipe
from demo.jobs import JobMaker, circle_radius, cover_evidence, length
from demo.pump_cover import LOWER_POSE, UPPER_POSE

__all__ = ["complete_cover_job"]

# Spots that both scans show: on the rim, a lug, and the wall of the seat.
_SPOTS = ((42.0, 0.0, 4.5), (0.0, 42.0, 4.5), (0.0, -42.0, 4.5), (-50.0, 0.0, 4.5))


def complete_cover_job(upper: str, lower: str, store: Store) -> Recipe:
    """upper, lower: blobs of both scans in `store`, which also keeps what is worked out on the way."""
    from contour.check.pairing import propose_pairs
    from contour.solid.shape import NamedShape, read_shape

    make = _merged(store, *cover_evidence(upper, lower, "whole-cover"))
    make.region("Flange face", (33.0, 0.0, 9.0))
    # Well below the bore's floor, whose softened edge is no part of the eye.
    make.outline("Flange outline", "Flange face", -6.0)
    make.extrude("Flange", "Flange outline", "6 mm", back=length("3 mm"))
    make.outline("Seat outline", "Flange face", 3.0, keep=lambda loop: circle_radius(loop) > 18)
    # One millimetre into the flange: a ring that only touched it would not join.
    make.extrude("Seat ring", "Seat outline", "3 mm", ("Flange",), back=length("4 mm"), operation="add")
    make.outline("Bore outline", "Flange face", 3.0, keep=lambda loop: 10 < circle_radius(loop) < 18)
    make.extrude("Bore", "Bore outline", "5 mm", ("Flange",), back=length("7 mm"), operation="subtract")
    result = build(make.recipe("draft"), store, with_fit=False)
    key = next(b.key for b in result.bodies if b.id == make.id("Flange"))
    product = load_product(store.folder(key))
    pairs = propose_pairs(make.scan, NamedShape(read_shape(product.brep), product.names))
    make.seat("Seat all", "Flange", faces_of(store, key), pairs)
    return make.recipe("Pump cover, from its merged scan")


def _merged(store: Store, above: ScanEvidence, below: ScanEvidence) -> JobMaker:
    """A job that begins with both scans made one."""
    spots = np.array(_SPOTS)
    pairs: list[dict[str, Any]] = [
        {"here": here, "there": there}
        for here, there in zip(UPPER_POSE.apply(spots).tolist(), LOWER_POSE.apply(spots).tolist(), strict=True)
    ]
    make = JobMaker(None, above, "whole cover ", pose=UPPER_POSE, more=(below,))
    make.add("merge", "One scan", {"scan": {"id": above.id}, "others": [{"scan": {"id": below.id}, "pairs": pairs}]})
    result = build(make.recipe("draft"), store, with_fit=False)
    make.scan = load_product(store.folder(result.scans[above.id])).scan
    return make
