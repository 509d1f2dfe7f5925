"""What a drawing has brought in from bodies and other sketches, as it is just above the step."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from contour.geometry.frames import PlaneFrame
from contour.products.body import BodyProduct
from contour.recipe.problem import ContourError
from contour.recipe.registry import Inputs
from contour.sketch.drawn.linked import Link, LinkedPiece, LinkWay, entity_pieces

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["link_places", "linked_pieces", "pieces_of_body"]


def link_places(links: Sequence[Link]) -> frozenset[str]:
    """Places of the references that links have."""
    return frozenset(
        f"links[{k}].{field}"
        for k, link in enumerate(links)
        for field in ("part", "body", "sketch")
        if getattr(link, field) is not None
    )


def linked_pieces(links: Sequence[Link], inputs: Inputs, frame: PlaneFrame) -> list[list[LinkedPiece]]:
    """The pieces of each link now, on a plane. Raises ContourError (ref-lost, ref-ambiguous, degenerate) with the place of the link's reference."""
    return [_pieces(f"links[{k}]", link, inputs, frame) for k, link in enumerate(links)]


def _pieces(place: str, link: Link, inputs: Inputs, frame: PlaneFrame) -> list[LinkedPiece]:
    if link.sketch is not None:
        return entity_pieces(inputs.products[f"{place}.sketch"], frame)
    from contour.solid.shape import NamedShape, read_shape

    at = f"{place}.{'part' if link.part else 'body'}"
    body: BodyProduct = inputs.products[at]
    named = NamedShape(read_shape(body.brep), body.names)
    try:
        return pieces_of_body(named, link.way, frame, inputs.names(at) if link.part else ())
    except ContourError as error:
        raise error.at(param=at) from None


def pieces_of_body(named: NamedShape, way: LinkWay, frame: PlaneFrame, names: Sequence[str] = ()) -> list[LinkedPiece]:
    """What a way of bringing in gives of a body. names: of the edge or the face, as it is called now; none for all edges.

    Raises ContourError (degenerate) for a silhouette that cannot be told.
    """
    from contour.solid.linked import cut_pieces, edge_pieces
    from contour.solid.shadow import silhouette_pieces

    match way:
        case "cut":
            return cut_pieces(named, frame)
        case "silhouette":
            return silhouette_pieces(named, frame)
        case _:
            all_edges = edge_pieces(named, frame)
            if way == "edge" and names:
                # By its place in the list: an edge that is called otherwise now is still the one that was meant.
                found = [p for name in names for p in all_edges if p.key == name]
                return [p.model_copy(update={"key": f"edge{k}"}) for k, p in enumerate(found)]
            return [p for p in all_edges if names[0] in p.faces] if names else all_edges
