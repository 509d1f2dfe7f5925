"""Sweep: a sketch's profiles along a path, as a new body, or added to, subtracted from or intersected with bodies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.present.edges import body_of, edges_at, loaded
from contour.present.operation import (
    JUST_MM,
    ChosenProfiles,
    MaterialFigures,
    Operation,
    Targets,
    bodies_of,
    proposed,
    put_on_bodies,
    require_bodies,
    target_places,
)
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import CurveRef, EdgesRef, SketchRef
from contour.recipe.registry import Inputs, Outcome, Start, StepKind
from contour.recipe.values import Angle, Value
from contour.sketch.chosen import chosen_profiles, spot_within

if TYPE_CHECKING:
    from contour.solid.path import Piece

__all__ = ["KIND", "Params"]


class Params(BaseModel):
    """The path begins in the profiles' plane, at whichever of its ends lies there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    sketch: SketchRef
    profiles: ChosenProfiles = None
    path: SketchRef | None = Field(default=None, title="Along sketch", description="its pieces, end to end")
    curve: CurveRef | None = Field(default=None, title="Or along a curve", description="through points in space")
    edges: list[EdgesRef] = Field(
        default_factory=list, max_length=200, title="Or along edges", description="of one body, end to end"
    )
    way: Literal["follow", "fixed"] = Field(
        default="follow",
        title="The profile",
        description="turns with the path, or keeps its direction",
        json_schema_extra={"titles": {"follow": "turns with the path", "fixed": "keeps its direction"}},
    )
    twist: Angle = Field(
        default=Value(text="0 deg", mark="intent"), description="how far it turns about the path on its whole way"
    )
    operation: Operation = "new"
    bodies: Targets = Field(default_factory=list)


class SweepFacts(MaterialFigures):
    """profiles: by their names · length: of the path, mm · pieces: of the path."""

    of: Literal["sweep"] = "sweep"
    profiles: tuple[str, ...]
    length: float
    pieces: int


def _edge_places(params: Params) -> list[str]:
    return [f"edges[{i}]" for i in range(len(params.edges))]


def _path_places(params: Params) -> list[str]:
    """Where what it goes along is found: the first of what could be chosen."""
    for place in ("path", "curve"):
        if getattr(params, place) is not None:
            return [place]
    return _edge_places(params)


def _reads(params: Params) -> frozenset[str]:
    used = {"sketch", *_path_places(params)}
    if params.operation != "new":
        used |= target_places(params.bodies)
    return frozenset(used)


def _pieces(params: Params, inputs: Inputs) -> list[Piece]:
    from contour.solid.path import Piece, pieces_in_space, pieces_of
    from contour.solid.topology.edges import edges_named

    if params.path is not None:
        sketch = inputs.products["path"]
        if sketch.refused is not None:
            raise ContourError.of(sketch.refused)
        found = pieces_of(sketch.entities, sketch.frame)
    elif params.curve is not None:
        found = pieces_in_space(inputs.products["curve"].pieces)
    else:
        places = _edge_places(params)
        if places:
            body_of(zip(places, params.edges, strict=True))
            body = loaded(inputs, "edges[0]")
            names = [name for name, _ in edges_at(inputs, body, places)]
            found = [Piece(n, e) for n, e in zip(names, edges_named(body, names), strict=True)]
        else:
            found = []
    if not found:
        raise ContourError(
            "bad-params",
            "the path is missing",
            where=Where(param="path"),
            got="nothing to go along",
            need="a sketch, a curve or edges",
            remedy="choose a sketch with lines, arcs or curves, a curve through points, or edges of a body",
        )
    return found


def _run(params: Params, inputs: Inputs) -> Outcome:
    import numpy as np

    from contour.sketch.entities import entity_points
    from contour.solid.path import path_from
    from contour.solid.sweep import sweep

    sketch = inputs.products["sketch"]
    profiles = chosen_profiles(sketch, params.profiles)
    others = bodies_of(inputs, params.bodies) if params.operation != "new" else []
    require_bodies(params.operation, others)
    middle = np.vstack([entity_points(e) for p in profiles for e in p.outer.entities]).mean(axis=0)
    near = sketch.frame.to_space(middle[None])[0]
    path = path_from(_pieces(params, inputs), near, param=(_path_places(params) or ["path"])[0].split("[")[0])
    made = sweep(
        profiles,
        sketch.frame,
        path,
        fixed=params.way == "fixed",
        twist_deg=inputs.values["twist"],
        prefix=inputs.step[:8],
    )
    begins = sketch.frame.to_space(spot_within(profiles[0])[None])[0]
    proposes = proposed(others, begins + JUST_MM * path.begins[1])
    puts, gone, problems = put_on_bodies(
        made, params.operation, params.bodies, others, what="the swept solid", key="path", proposes=proposes
    )
    facts = SweepFacts(
        profiles=tuple(p.id for p in profiles), length=path.length(), pieces=len(path.pieces), proposes=proposes
    )
    return Outcome(puts, facts, gone=gone, problems=problems)


KIND: StepKind[Params] = StepKind(
    id="sweep",
    title="Sweep",
    help="Profiles along a path become solid material",
    version=1,
    makes="body",
    params=Params,
    key_value="twist",
    run=_run,
    facts=SweepFacts,
    measures={"volume": "volume", "area": "area", "length": "length"},
    reads=_reads,
    carries=("sketch", "path", "edges"),
    starts=(Start("sketch", "sketch", most=2, second="path"),),
)
