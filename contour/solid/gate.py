"""The gate every new solid passes: "done" and "valid" alone prove nothing."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import chain

from OCP.BRep import BRep_Tool
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopoDS import TopoDS_Shape

from contour.recipe.problem import ContourError, Where
from contour.solid.face_geometry import middle_of
from contour.solid.mass import volume
from contour.solid.shape import edges, faces, free_edges, is_valid, solids

__all__ = ["SolidFacts", "check_solid", "require_pieces", "require_solid"]


@dataclass(frozen=True, slots=True)
class SolidFacts:
    """What a shape is: counts, closedness, kernel validity, mm³."""

    solids: int
    faces: int
    closed: bool
    valid: bool
    volume: float
    free_edges: int


def check_solid(shape: TopoDS_Shape) -> SolidFacts:
    """Findings only: nothing is raised and nothing is mended."""
    loose = len(free_edges(shape))
    count = len(solids(shape))
    return SolidFacts(count, len(faces(shape)), loose == 0 and count > 0, is_valid(shape), volume(shape), loose)


def _point_on(shape: TopoDS_Shape) -> tuple[float, float, float] | None:
    """On the first free edge, else on the first edge or the rim of the first face that the kernel's analyser finds wrong."""
    analyser = BRepCheck_Analyzer(shape)
    wrong = [e for e in edges(shape) if not analyser.IsValid(e)]
    rims = (e for f in faces(shape) if not analyser.IsValid(f) for e in edges(f))
    for edge in chain(free_edges(shape), wrong, rims):
        if not BRep_Tool.Degenerated_s(edge):
            return middle_of(edge)
    return None


def require_solid(shape: TopoDS_Shape, *, doing: str, pieces: int | None = None) -> SolidFacts:
    """Raises ContourError (body-broken) unless the shape is closed, valid solid material (in `pieces` pieces)."""
    facts = check_solid(shape)
    if facts.solids == 0 or facts.volume <= 1e-9:
        raise ContourError(
            "body-broken",
            f"{doing} leaves no material",
            got=f"{facts.volume:.3f} mm³",
            need="some material",
            remedy="check the direction and the distance",
        )
    if facts.free_edges or not facts.valid:
        raise ContourError(
            "body-broken",
            f"{doing} leaves the solid open or invalid",
            where=Where(point=_point_on(shape)),
            got=f"{facts.free_edges} free edges, valid: {facts.valid}",
            need="0 free edges, a valid solid",
            remedy="change the value a little, or simplify the sketch there",
        )
    if pieces is not None:
        require_pieces(facts, pieces, doing=doing)
    return facts


def require_pieces(facts: SolidFacts, pieces: int, *, doing: str) -> None:
    """Raises ContourError (body-broken) unless the material is in so many pieces."""
    if facts.solids != pieces:
        raise ContourError(
            "body-broken",
            f"{doing} gives {facts.solids} separate pieces",
            got=facts.solids,
            need=f"{pieces} in one body",
            remedy="let the pieces touch, or make a new body of it",
        )
