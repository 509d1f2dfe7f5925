"""Kinds of references, one file each, found by themselves. Importing this package finds them all."""

from contour.recipe.reference.axis import AxisRef
from contour.recipe.reference.body import BodyRef
from contour.recipe.reference.chain import EdgesRef
from contour.recipe.reference.curve import CurveRef
from contour.recipe.reference.edge import OneEdge
from contour.recipe.reference.face import OneFace
from contour.recipe.reference.feature import FeatureRef
from contour.recipe.reference.linked import LinkedRef
from contour.recipe.reference.mend import MendRef
from contour.recipe.reference.model import (
    PARTS,
    Candidate,
    ChainRef,
    EdgeRef,
    EntityRef,
    FaceRef,
    PartRef,
    PartResolver,
    Points,
    ProfileRef,
    Ref,
    ReferenceKind,
    ScanSpot,
    VertexRef,
)
from contour.recipe.reference.place import PlaceRef
from contour.recipe.reference.plane import PlaneRef
from contour.recipe.reference.point import PointRef
from contour.recipe.reference.region import RegionRef
from contour.recipe.reference.scan import ScanRef
from contour.recipe.reference.sketch import SketchRef
from contour.recipe.reference.solid import SolidRef
from contour.recipe.reference.surface import SurfaceRef
from contour.recipe.registry import found_in

__all__ = [
    "PARTS",
    "REFERENCES",
    "AxisRef",
    "BodyRef",
    "Candidate",
    "ChainRef",
    "CurveRef",
    "EdgeRef",
    "EdgesRef",
    "EntityRef",
    "FaceRef",
    "FeatureRef",
    "LinkedRef",
    "MendRef",
    "OneEdge",
    "OneFace",
    "PartRef",
    "PartResolver",
    "PlaceRef",
    "PlaneRef",
    "PointRef",
    "Points",
    "ProfileRef",
    "Ref",
    "ReferenceKind",
    "RegionRef",
    "ScanRef",
    "ScanSpot",
    "SketchRef",
    "SolidRef",
    "SurfaceRef",
    "VertexRef",
]

REFERENCES: dict[str, ReferenceKind] = found_in(__name__, list(__path__), ReferenceKind)
