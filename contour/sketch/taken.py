"""Outlines as they were taken: loops of pieces with permanent ids, of which some go into a sketch."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from contour.outline.pieces import Outline
from contour.outline.shape import Relation

__all__ = ["LoopRelation", "TakenLoop", "TakenPiece", "taken_pieces"]

Point2 = tuple[float, float]


class TakenPiece(BaseModel):
    """A piece as it was when taken, mm in the sketch plane; `taken` False keeps it only to tell its neighbours apart."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str = Field(pattern=r"^e\d+$")
    kind: Literal["line", "arc", "ellipse", "free"]
    start: Point2
    end: Point2
    mid: Point2 | None = None
    points: list[Point2] = Field(default_factory=list, max_length=2000)
    ellipse: tuple[float, float, float, float, float] | None = Field(
        default=None, description="centre x, y, longer and shorter half-axis in mm, angle of the longer one in radians"
    )
    taken: bool = True
    assumed: bool = Field(default=False, description="nothing of the scan lies under it: it stays as it was taken")


class LoopRelation(BaseModel):
    """Two pieces held to each other, on request: the first of this loop, the second of this or another one. symmetric: the loop is its own
    mirror image, and takes the first to the second · turned: the loop is one sector, and these are its ends."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: Relation
    first: str
    second: str


class TakenLoop(BaseModel):
    """One polyline of the section with its pieces in order. name: what its profile is called for good, whichever pieces it loses."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(default="", max_length=40)
    closed: bool
    full: bool = Field(
        default=False,
        description="an arc of which the scan has a part, meant as a full circle; the same for an ellipse",
    )
    bridged: bool = Field(default=False, description="closed over gaps in the scan, of one cut or several")
    pieces: list[TakenPiece] = Field(min_length=1, max_length=500)
    relations: list[LoopRelation] = Field(default_factory=list, max_length=500)


def taken_pieces(outline: Outline, first: int = 1) -> list[TakenPiece]:
    """The pieces of an outline, all of them taken, with ids that count from `first`."""
    return [
        TakenPiece(
            id=f"e{k}", kind=p.kind, start=p.start, end=p.end, mid=p.mid, points=list(p.points), ellipse=p.ellipse
        )
        for k, p in enumerate(outline.pieces, first)
    ]
