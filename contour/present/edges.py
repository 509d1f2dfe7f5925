"""Edges that a step's references mean: single ones, chains, or all around a face, each with the place of its reference."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from contour.products.body import BodyProduct
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import PartRef
from contour.recipe.registry import Inputs

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["PlacedEdge", "body_of", "edges_at", "loaded"]

PlacedEdge = tuple[str, str]  # name of the edge, place of the reference that means it


def body_of(refs: Iterable[tuple[str, PartRef]]) -> str:
    """Id of the body that parts belong to. Raises ContourError (bad-params) when there are none, or of several bodies."""
    owners = {ref.owner: place for place, ref in refs}
    if not owners:
        raise ContourError(
            "bad-params",
            "no edge is chosen",
            where=Where(param="edges"),
            need="at least one edge",
            got="0 edges",
            remedy="pick edges of a body, or a face for all around it",
        )
    if len(owners) > 1:
        raise ContourError(
            "bad-params",
            "what is chosen belongs to several bodies",
            where=Where(param=list(owners.values())[1]),
            got=f"{len(owners)} bodies",
            need="parts of one body",
            remedy="make a step for each body",
        )
    return next(iter(owners))


def edges_at(inputs: Inputs, body: NamedShape, places: Iterable[str]) -> list[PlacedEdge]:
    """Every edge that the references at these places mean, each once. Raises ContourError (ref-lost, ref-ambiguous), (wrong-kind) for a
    face without an edge to be felt."""
    from contour.solid.edge_blends import edges_of_face

    out: dict[str, str] = {}
    for place in places:
        names = inputs.names(place)
        if inputs.parts[place].part == "face":
            names = tuple(edges_of_face(body, names[0]))
            if not names:
                raise ContourError(
                    "wrong-kind",
                    "the face runs into all its neighbours: there is no edge around it",
                    where=Where(param=place),
                    got="smooth borders",
                    need="a face with an edge to be felt",
                    remedy="choose another face, or single edges",
                )
        for name in names:
            out.setdefault(name, place)
    return list(out.items())


def loaded(inputs: Inputs, place: str) -> NamedShape:
    """The body that a part's reference belongs to."""
    from contour.solid.shape import NamedShape, read_shape

    product: BodyProduct = inputs.products[place]
    return NamedShape(read_shape(product.brep), product.names)
