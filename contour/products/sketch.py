"""A sketch: its entities on a plane, and what every step that makes one says of it."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any, Literal

import numpy as np

from contour.construct.place import Place
from contour.geometry.frames import PlaneFrame
from contour.products.kind import ProductKind
from contour.recipe.facts import Facts
from contour.recipe.problem import ContourError, Problem
from contour.sketch.chosen import chosen_profiles
from contour.sketch.entities import Entity, Face, LoopName, Sketch, Way, entity_points
from contour.sketch.parts import SketchParts

__all__ = ["KIND", "SketchFacts", "SketchFigures", "sketch_facts"]


class SketchFigures(Facts):
    """Pieces of a sketch by kind, its closed profiles and their area (mm²; none where it is open)."""

    lines: int
    arcs: int
    ellipses: int
    free: int
    profiles: int
    area: float | None = None


class SketchFacts(SketchFigures):
    """The same, where a step tells no more."""

    of: Literal["sketch"] = "sketch"


def sketch_facts(sketch: Sketch) -> tuple[dict[str, Any], tuple[Problem, ...]]:
    """What is told of a sketch, as :class:`SketchFacts` takes it. An open sketch is a fair sketch: it only cannot be extruded, and
    the problem says where it is open."""
    facts: dict[str, Any] = {
        name: sum(e.kind == kind for e in sketch.entities)
        for name, kind in (("lines", "line"), ("arcs", "arc"), ("ellipses", "ellipse"), ("free", "free"))
    }
    try:
        profiles = chosen_profiles(sketch)
    except ContourError as error:
        return facts | {"profiles": 0}, (error.problem,)
    return facts | {"profiles": len(profiles), "area": sum(p.area for p in profiles)}, ()


def _sketch_place(sketch: Sketch) -> Place:
    points = np.vstack([entity_points(e) for e in sketch.entities]) if sketch.entities else np.zeros((1, 2))
    low, high = points.min(axis=0), points.max(axis=0)
    o = sketch.frame.to_space((low + high) / 2)
    n = sketch.frame.normal
    return Place(
        "plane",
        (float(o[0]), float(o[1]), float(o[2])),
        (float(n[0]), float(n[1]), float(n[2])),
        reach=float(np.linalg.norm(high - low)) / 2,
    )


def _plain(sketch: Sketch) -> dict[str, Any]:
    frame = {k: getattr(sketch.frame, k).tolist() for k in ("origin", "u", "v", "normal")}
    return {
        "frame": frame,
        "entities": [asdict(e) for e in sketch.entities],
        "helpers": [asdict(e) for e in sketch.helpers],
        "loops": [asdict(n) for n in sketch.loops],
        "faces": None if sketch.faces is None else [asdict(f) for f in sketch.faces],
        "refused": sketch.refused.model_dump(mode="json") if sketch.refused else None,
    }


def _ways(ring: Any) -> tuple[Way, ...]:
    return tuple((str(name), bool(ahead)) for name, ahead in ring)


def _pair(p: Any) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _entity(e: dict[str, Any]) -> Entity:
    return Entity(
        e["id"],
        e["kind"],
        _pair(e["start"]),
        _pair(e["end"]),
        None if e["mid"] is None else _pair(e["mid"]),
        tuple(_pair(p) for p in e["points"]),
        tuple(e["ellipse"]) if e.get("ellipse") else None,
    )


def _sketch(data: dict[str, Any]) -> Sketch:
    frame = PlaneFrame(**{k: np.array(v) for k, v in data["frame"].items()})
    entities, helpers = (tuple(map(_entity, data.get(part, ()))) for part in ("entities", "helpers"))
    loops = tuple(LoopName(n["name"], tuple(n["entities"])) for n in data.get("loops", ()))
    kept = data.get("faces")
    faces = [Face(f["name"], _ways(f["outer"]), tuple(map(_ways, f["islands"]))) for f in kept or ()]
    refused = data.get("refused")
    return Sketch(
        frame,
        entities,
        loops,
        None if kept is None else tuple(faces),
        Problem.model_validate(refused) if refused else None,
        helpers,
    )


def _save(sketch: Sketch, folder: Path) -> None:
    (folder / "sketch.json").write_text(json.dumps(_plain(sketch)))


def _load(folder: Path) -> Sketch:
    return _sketch(json.loads((folder / "sketch.json").read_text()))


KIND = ProductKind(
    "sketch",
    Sketch,
    "sketch.json",
    _save,
    _load,
    place=_sketch_place,
    parts={"profile": SketchParts("profile", _load), "entity": SketchParts("entity", _load)},
    version=2,
)
