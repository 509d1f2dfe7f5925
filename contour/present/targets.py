"""Surfaces that steps end at or lie on: a region's, or a face's of a body."""

from __future__ import annotations

from collections.abc import Sequence

from contour.construct.place import Place
from contour.geometry.surfaces import Surface, SurfaceKind
from contour.products.body import BodyProduct
from contour.products.region import RegionProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.registry import Inputs

__all__ = ["target_at"]


_FLAT_OR_ROUND: tuple[SurfaceKind, ...] = ("plane", "cylinder")


def target_at(
    inputs: Inputs,
    region_place: str,
    face_place: str,
    kinds: Sequence[SurfaceKind] = _FLAT_OR_ROUND,
    *,
    or_point: bool = False,
) -> Surface:
    """The surface of one of these kinds that a step's parameters point to, by whichever of the two references is given. or_point: whether a point,
    which was not given, would do as well.

    Raises ContourError (bad-params, wrong-kind, ref-lost, ref-ambiguous).
    """
    if region_place in inputs.products:
        product: RegionProduct | Place = inputs.products[region_place]
        if isinstance(product, Place):
            return Surface("plane", product.origin, product.direction, 0.0, 1)
        return _usable(product.surface, product.surface.kind, region_place, "region", kinds)
    if face_place not in inputs.products:
        raise ContourError(
            "bad-params",
            "no region and no face is chosen",
            where=Where(param=region_place),
            got="neither",
            need="a region or a face",
            remedy="pick a region of the scan"
            + (", a face or a corner of a body, or a spot" if or_point else " or a face of a body"),
        )
    from contour.solid.face_geometry import face_kind, face_surface
    from contour.solid.shape import faces, read_shape

    body: BodyProduct = inputs.products[face_place]
    name = inputs.face(face_place)
    face = faces(read_shape(body.brep))[body.names.index(name)]
    return _usable(face_surface(face), face_kind(face), face_place, "face", kinds)


def _usable(surface: Surface | None, kind: str, param: str, what: str, kinds: Sequence[SurfaceKind]) -> Surface:
    if surface is None or surface.kind not in kinds:
        *first, last = kinds
        raise ContourError(
            "wrong-kind",
            f"only {', '.join(f'{k}s' for k in first)} and {last}s can be used here",
            where=Where(param=param),
            got=kind,
            need=f"a {', '.join(first)} or {last}",
            remedy=f"choose another {what}",
        )
    return surface
