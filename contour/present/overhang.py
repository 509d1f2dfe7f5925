"""Whether what a fillet or a chamfer makes can be printed standing on a face, and what is said where it cannot."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from pydantic.config import JsonDict

from contour.recipe.problem import ContourError, Offer, Problem, Where
from contour.recipe.reference import FaceRef
from contour.recipe.values import Angle

if TYPE_CHECKING:
    from contour.recipe.registry import Inputs
    from contour.solid.overhang import Lean
    from contour.solid.shape import NamedShape

__all__ = ["PRINTING", "Bed", "Steepest", "build_way", "said_of_overhangs"]

PRINTING: JsonDict = {"fold": "Printing"}
Bed = Annotated[
    FaceRef | None,
    Field(
        title="Printed standing on",
        description="a flat face; none: whether it can be printed is not asked",
        json_schema_extra=PRINTING,
    ),
]
Steepest = Annotated[
    Angle,
    Field(
        title="Overhang up to",
        description="how far a face may lean out of the upright without support",
        json_schema_extra=PRINTING,
    ),
]


def build_way(inputs: Inputs, body: NamedShape, place: str = "bed") -> NDArray[np.float64] | None:
    """The way up (3,) of a body that stands on a face; none where no such face is given."""
    from contour.solid.face_geometry import face_kind
    from contour.solid.mouths import into, place_on
    from contour.solid.shape import faces

    if place not in inputs.parts:
        return None
    name = inputs.face(place)
    if name not in body.names:
        raise ContourError(
            "bad-params",
            "it cannot stand on another body's face",
            where=Where(param=place),
            got="a face of another body",
            need="a face of the body itself",
            remedy="choose a face of the body whose edges these are",
        )
    face = faces(body.shape)[body.names.index(name)]
    if face_kind(face) != "plane":
        raise ContourError(
            "wrong-kind",
            "nothing stands on a face that is not flat",
            where=Where(param=place),
            got=f"a {face_kind(face)} face",
            need="a flat face",
            remedy="choose the face that lies on the printing bed",
        )
    return into(face, place_on(face))


def said_of_overhangs(
    found: Sequence[Lean], limit_deg: float, what: str, offer: Offer | None = None
) -> tuple[Problem, ...]:
    """That faces lean out too far, by how much and where; nothing where none does."""
    if not found:
        return ()
    worst = found[0]
    return (
        Problem(
            code="overhang",
            message=f"the {what} overhangs too far to be printed that way",
            where=Where(param="bed", point=worst.at),
            got=f"{worst.deg:.0f} deg out of the upright"
            + (f", and {len(found) - 1} more faces" if len(found) > 1 else ""),
            need=f"at most {limit_deg:g} deg",
            remedy="chamfer these edges, print it standing on another face, or support it",
            offer=offer,
        ),
    )
