"""A step done again elsewhere: what it was drawn with is carried along, what it works on and ends at stays where it is."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from contour.construct.place import Place
from contour.geometry import rigid, surfaces
from contour.geometry.frames import plane_frame
from contour.geometry.vectors import triple
from contour.products.body import BodyProduct
from contour.products.region import RegionProduct
from contour.recipe.params import refs_in
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.reference import PartRef
from contour.recipe.registry import OWN, Feature
from contour.sketch.entities import Sketch
from contour.solid.topology.resolve import roots

__all__ = ["done_again"]

Array = NDArray[np.float64]
_AGAIN = "again__x"  # as long as what stands for a step in names


def done_again(
    feature: Feature, matrix: Array, bodies: Mapping[str, BodyProduct], *, names: str
) -> dict[str, BodyProduct]:
    """What a step makes of bodies as they are now, with what it carries laid elsewhere by a rigid placement (4, 4), or mirrored by a reflection.

    A mirrored step is the step itself in the mirrored world: bodies and what it ends at are reflected, it is done as it was, and what comes of it is reflected
    back. So hands and angles turn round by themselves.

    bodies: by their ids, as far as the step works on them · names: what its new faces are called by, ``step.copy2``, with the short id of the step that is
    done again. Raises ContourError as the step does, and (bad-params) for one that cannot be done again.
    """
    kind, params, inputs = feature.kind, feature.params, feature.inputs
    if not kind.carries:
        raise ContourError(
            "bad-params",
            f"a step of the kind '{kind.title}' cannot be done again elsewhere",
            got=kind.title,
            need="a step that draws, turns or drills material",
            remedy="repeat its body instead",
        )
    refs = refs_in(params)
    short = inputs.step[:8]
    products = dict(inputs.products)
    parts = dict(inputs.parts)
    mirrored = float(np.linalg.det(matrix[:3, :3])) < 0
    for place, product in inputs.products.items():
        if re.split(r"[.\[]", place)[0] in kind.carries:
            products[place] = product if mirrored else _moved(product, matrix)
            continue
        ref = refs[place]
        body = bodies.get(ref.owner if isinstance(ref, PartRef) else ref.id)
        part = parts.get(place)
        # An edge or a corner that is only read for its place is read where it was.
        if body is None or not isinstance(product, BodyProduct) or (part is not None and part.part != "face"):
            products[place] = _moved(product, matrix) if mirrored else product
            continue
        products[place] = _moved(body, matrix) if mirrored else body
        if part is not None and isinstance(part.names, tuple):
            parts[place] = replace(part, names=_present(part.names, body, place))
    outcome = kind.run(params, replace(inputs, step=_AGAIN, products=products, parts=parts, carried=matrix))
    made = {id: p for id, p in outcome.puts.items() if isinstance(p, BodyProduct)}
    if mirrored:
        made = {id: _moved(p, matrix) for id, p in made.items()}
    if OWN in made or not made:
        raise ContourError(
            "bad-params",
            "a step that makes a body of its own is repeated by its body",
            got="a new body",
            need="a step that adds to a body or takes from it",
            remedy="repeat the body instead",
        )
    return {
        id: replace(p, names=tuple(n.replace(f"{_AGAIN}.", f"{names}-{short}-") for n in p.names))
        for id, p in made.items()
    }


def _present(names: tuple[str, ...], body: BodyProduct, place: str) -> tuple[str, ...] | Problem:
    """Faces by what they are called now: another copy may have lent them its name. Several where one has been parted, which is then ambiguous, as
    anywhere; or why there is none."""
    out: list[str] = []
    for name in names:
        kin = [name] if name in body.names else [n for n in body.names if roots(name) & roots(n)]
        if not kin:
            return Problem(
                code="ref-lost",
                message="another member has taken the face away",
                where=Where(param=place),
                got=name,
                need="a face that is still there",
                remedy="leave that member out, or choose another face",
            )
        out += kin
    return tuple(out)


def _moved(product: Any, matrix: Array) -> Any:
    if isinstance(product, Sketch):
        f = product.frame
        turned = rigid.turned
        return replace(
            product, frame=plane_frame(rigid.moved(matrix, f.origin), turned(matrix, f.normal), turned(matrix, f.u))
        )
    if isinstance(product, Place):
        there = rigid.moved(matrix, product.at)
        return replace(product, origin=triple(there), direction=triple(rigid.turned(matrix, product.along)))
    if isinstance(product, RegionProduct):
        middle = triple(rigid.moved(matrix, np.array(product.middle)))
        return replace(product, surface=surfaces.moved(product.surface, matrix), middle=middle)
    if isinstance(product, BodyProduct):
        from contour.solid.placed import placed
        from contour.solid.shape import NamedShape, read_shape, write_shape

        made = placed(NamedShape(read_shape(product.brep), product.names), matrix)
        return replace(product, brep=write_shape(made.shape), names=made.names)
    raise ContourError(
        "bad-params",
        "what the step rests on cannot be carried along",
        where=Where(param="steps"),
        got=str(getattr(product, "kind", "something")),
        need="a sketch, a place or a body",
        remedy="repeat its body instead",
    )
