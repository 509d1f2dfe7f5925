"""What becomes of the solid that a step makes: a body of its own, or united with, taken from or met with other bodies."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import AfterValidator, Field

from contour.products.body import BodyFigures, BodyProduct
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import BodyRef
from contour.recipe.reference.aliases import present_profile
from contour.recipe.registry import OWN, Inputs

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = [
    "JUST_MM",
    "ChosenProfiles",
    "MaterialFigures",
    "Operation",
    "Targets",
    "bodies_of",
    "proposed",
    "put_on_bodies",
    "require_bodies",
    "target_places",
]

ChosenProfiles = Annotated[
    list[Annotated[str, AfterValidator(present_profile)]] | None,
    Field(description="names of the profiles; none means all"),
]
Operation = Literal["new", "add", "subtract", "intersect"]
Targets = Annotated[
    list[BodyRef],
    Field(
        max_length=50,
        description="the bodies it works on",
        json_schema_extra={"when": {"operation": ["add", "subtract", "intersect"]}},
    ),
]


JUST_MM = 0.02


class MaterialFigures(BodyFigures):
    """proposes: what the way it goes suggests where there are bodies to work on: into their material, or out of it."""

    proposes: Literal["add", "subtract"] | None = None


def proposed(others: Sequence[NamedShape], spot: NDArray[np.float64]) -> Literal["add", "subtract"] | None:
    """Subtracting where what is made begins within the material of one of the bodies, adding elsewhere; none where there is no body.

    spot: (3,), mm, within what is made and JUST_MM past where it begins.
    """
    from contour.solid.agreement import sides

    if not others:
        return None
    return "subtract" if any(int(sides(o.shape, spot[None])[0]) > 0 for o in others) else "add"


def target_places(bodies: Sequence[BodyRef]) -> frozenset[str]:
    """The places of a step's target bodies."""
    return frozenset(f"bodies[{i}]" for i in range(len(bodies)))


def bodies_of(inputs: Inputs, bodies: Sequence[BodyRef]) -> list[NamedShape]:
    """The target bodies that are in use."""
    from contour.solid.shape import NamedShape, read_shape

    loaded: list[BodyProduct] = [
        inputs.products[p] for i in range(len(bodies)) if (p := f"bodies[{i}]") in inputs.products
    ]
    return [NamedShape(read_shape(b.brep), b.names) for b in loaded]


def require_bodies(operation: Operation, others: Sequence[NamedShape]) -> None:
    """Raises ContourError (no-body) where there is nothing to work on."""
    if operation != "new" and not others:
        raise ContourError(
            "no-body",
            f"there is no body to {operation} to",
            where=Where(param="bodies"),
            got="0 bodies",
            need="at least one body",
            remedy="choose a body, or make a new one",
        )


def put_on_bodies(
    made: NamedShape | Sequence[NamedShape],
    operation: Operation,
    bodies: Sequence[BodyRef],
    others: Sequence[NamedShape],
    *,
    what: str,
    key: str,
    proposes: Literal["add", "subtract"] | None = None,
) -> tuple[dict[str, BodyProduct], tuple[str, ...], tuple[Problem, ...]]:
    """(products by slot, ids of bodies that went into others, what is said of bodies that were not touched).

    made: one solid, or several that go on one after the other · what: what it is called, "the extrusion" · key: the parameter that would change it most · proposes: what is offered where the other one
    changes nothing. Bodies that are added to become one. Raises ContourError (unchanged) where none is touched, (body-broken), (no-body).
    """
    try:
        return _put(made, operation, bodies, others, what=what, key=key)
    except ContourError as error:
        if proposes is not None and proposes != operation and error.problem.code == "unchanged":
            raise error.offering(f"{proposes.capitalize()} instead", operation=proposes) from None
        raise


def _put(
    made: NamedShape | Sequence[NamedShape],
    operation: Operation,
    bodies: Sequence[BodyRef],
    others: Sequence[NamedShape],
    *,
    what: str,
    key: str,
) -> tuple[dict[str, BodyProduct], tuple[str, ...], tuple[Problem, ...]]:
    from contour.solid.boolean import combine
    from contour.solid.shape import NamedShape, write_shape

    require_bodies(operation, others)

    def product(shape: NamedShape) -> BodyProduct:
        return BodyProduct(write_shape(shape.shape), shape.names)

    tools = [made] if isinstance(made, NamedShape) else list(made)
    if operation == "new":
        (own,) = tools
        return {OWN: product(own)}, (), ()
    ids = [b.id for b in bodies]
    if operation == "add":
        whole = others[0]
        for tool in tools:
            whole = combine(whole, tool, "add", what=what)
        for other in others[1:]:
            whole = combine(other, whole, "add", what=what)
        return {ids[0]: product(whole)}, tuple(ids[1:]), ()
    changed, problems = {}, []
    for id, other in zip(ids, others, strict=True):
        try:
            changed[id] = product(_in_turn(other, tools, operation, what=what))
        except ContourError as error:
            if error.problem.code != "unchanged" or len(ids) == 1:
                raise
            problems.append(error.problem)
    if not changed:
        raise ContourError(
            "unchanged",
            f"{what} touches none of the bodies",
            where=Where(param=key),
            got="0 of them",
            need="at least one body",
            remedy="turn the direction round, or choose other bodies",
        )
    return changed, (), tuple(problems)


def _in_turn(
    body: NamedShape, tools: Sequence[NamedShape], operation: Literal["subtract", "intersect"], *, what: str
) -> NamedShape:
    """The body with one tool after the other put on it. Raises ContourError (unchanged) where none of them changes it."""
    from contour.solid.boolean import combine

    unchanged: ContourError | None = None
    begun = body
    for tool in tools:
        try:
            body = combine(body, tool, operation, what=what)
        except ContourError as error:
            if error.problem.code != "unchanged":
                raise
            unchanged = error
    if body is begun and unchanged is not None:
        raise unchanged
    return body
