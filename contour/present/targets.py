"""Surfaces that steps end at or lie on: a region's, or a face's of a body."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Place
from contour.products.body import BodyProduct
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.registry import Inputs

__all__ = ["Target", "target_at"]


@dataclass(frozen=True, slots=True)
class Target:
    """plane: origin and normal out of the material. cylinder: a point of the axis, the axis, the radius. mm."""

    kind: str
    origin: NDArray[np.float64]
    axis: NDArray[np.float64]
    radius: float


def target_at(inputs: Inputs, region_place: str, face_place: str) -> Target:
    """The surface a step's parameters point to, by whichever of the two references is given.

    Raises ContourError (bad-params, wrong-kind, ref-lost, ref-ambiguous).
    """
    if region_place in inputs.products:
        product: RegionProduct | Place = inputs.products[region_place]
        if isinstance(product, Place):
            return Target("plane", product.at, product.along, 0.0)
        s = product.surface
        return Target(s.kind, np.array(s.origin), np.array(s.axis), s.radius)
    if face_place not in inputs.products:
        raise ContourError(
            "bad-params",
            "no region and no face is chosen",
            where=Where(param=region_place),
            got="neither",
            need="a region or a face",
            remedy="pick a region of the scan or a face of a body",
        )
    from contour.solid.face_geometry import face_geometry
    from contour.solid.shape import faces, read_shape

    body: BodyProduct = inputs.products[face_place]
    name = inputs.face(face_place)
    g = face_geometry(faces(read_shape(body.brep))[body.names.index(name)])
    if g.kind == "other":
        raise ContourError(
            "wrong-kind",
            "only planes and cylinders can be used here",
            where=Where(param=face_place),
            got=f"a face that is {g.kind}",
            need="a plane or a cylinder",
            remedy="choose another face",
        )
    return Target(g.kind, g.origin, g.axis, g.radius)
