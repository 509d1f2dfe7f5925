"""Running one step by itself: products in, outcome out, no store and no job."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import numpy as np

from contour.geometry.frames import plane_frame
from contour.geometry.surfaces import Surface
from contour.job.build.scope import with_own
from contour.products.body import BodyProduct
from contour.products.region import RegionFacts, RegionProduct
from contour.recipe.formula import Quantity
from contour.recipe.params import dimension_at, refs_in, values_in
from contour.recipe.reference import PartRef
from contour.recipe.registry import OWN, Inputs, Outcome, PresentPart
from contour.sketch.entities import Entity, Sketch
from contour.solid.mass import volume
from contour.solid.shape import NamedShape, read_shape, write_shape
from contour.steps import KINDS

__all__ = ["body", "cylinder_region", "plane_region", "run", "shape_of", "sketch", "volume_of"]


def sketch(entities: list[Entity], z: float = 0.0, normal=(0.0, 0.0, 1.0)) -> Sketch:
    return Sketch(plane_frame(np.array([0, 0, z]), np.array(normal), np.array([1.0, 0, 0])), tuple(entities))


def body(shape: NamedShape) -> BodyProduct:
    return BodyProduct(write_shape(shape.shape), shape.names)


def plane_region(origin, normal) -> RegionProduct:
    n = np.array(normal, float)
    n = n / np.linalg.norm(n)
    return RegionProduct(np.array([0]), Surface("plane", tuple(origin), tuple(n), 0.0, 1), 0.0)


def cylinder_region(origin, axis, radius: float, outward: int = 1) -> RegionProduct:
    return RegionProduct(np.array([0]), Surface("cylinder", tuple(origin), tuple(axis), radius, outward), 0.0)


def _nobody_knows(name: str) -> Quantity:
    raise KeyError(name)


def run(
    kind: str, params: Mapping[str, Any], products: Mapping[str, Any], step: str = "newstep0", **given: Any
) -> Outcome:
    """Values are resolved as a build does it; parts are given by their present names: a face's, or those of several edges. A place
    in a list is written ``edges__0``."""
    model = KINDS[kind].params.model_validate(params)
    lookup = with_own(model, "mm", _nobody_knows)
    values = {p: v.resolve(dimension_at(type(model), p), "mm", lookup).value for p, v in values_in(model).items()}
    refs = refs_in(model)
    parts = {}
    for key, names in given.items():
        place = re.sub(r"__(\d+)", r"[\1]", key)
        ref = refs.get(place)
        part = ref.part if isinstance(ref, PartRef) else "face"
        parts[place] = PresentPart(part, (names,) if isinstance(names, str) else names)
    return KINDS[kind].run(model, Inputs(step, dict(products), "mm", values, parts))


def shape_of(outcome: Outcome, id: str) -> NamedShape:
    product = outcome.puts.get(id) or outcome.puts[OWN]
    return NamedShape(read_shape(product.brep), product.names)


def volume_of(outcome: Outcome, id: str) -> float:
    return volume(shape_of(outcome, id).shape)


def region_facts(**more: Any) -> RegionFacts:
    """Facts of a region of which only some matter."""
    plain = {"origin": (0, 0, 0), "axis": (0, 0, 1), "middle": (0, 0, 0), "largest_at": (0, 0, 0)}
    return RegionFacts(
        **{**plain, "facets": 900, "rms": 0.02, "largest": 0.1, "area": 100.0, "tolerance": 0.08, **more}
    )
