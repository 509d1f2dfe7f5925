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
from contour.recipe.problem import ContourError, Where
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
    """What a step makes of bodies as they are now, with what it carries laid elsewhere by a rigid placement (4, 4).

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
    for place, product in inputs.products.items():
        if re.split(r"[.\[]", place)[0] in kind.carries:
            products[place] = _moved(product, matrix)
            continue
        ref = refs[place]
        body = bodies.get(ref.owner if isinstance(ref, PartRef) else ref.id)
        if body is None or not isinstance(product, BodyProduct):
            continue
        products[place] = body
        names_now = parts[place].names if place in parts else None
        if isinstance(names_now, tuple):
            parts[place] = replace(parts[place], names=_present(names_now, body))
    outcome = kind.run(params, replace(inputs, step=_AGAIN, products=products, parts=parts, carried=matrix))
    made = {id: p for id, p in outcome.puts.items() if isinstance(p, BodyProduct)}
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


def _present(names: tuple[str, ...], body: BodyProduct) -> tuple[str, ...]:
    """Faces by what they are called now: another copy may have parted them, or lent them its name."""
    out: list[str] = []
    for name in names:
        if name in body.names:
            out.append(name)
        else:
            out += [n for n in body.names if roots(name) & roots(n)][:1] or [name]
    return tuple(out)


def _moved(product: Any, matrix: Array) -> Any:
    if isinstance(product, Sketch):
        f = product.frame
        turned = rigid.turned
        return replace(product, frame=plane_frame(rigid.moved(matrix, f.origin), turned(matrix, f.normal), turned(matrix, f.u)))  # fmt: skip
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
