"""Photos and drawings as evidence, and what is measured in them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, FiniteFloat

from contour.recipe.strict import Strict
from contour.recipe.values import Blob, Value

__all__ = ["MarkKind", "Picture", "PictureLength", "PictureMark", "Pixel"]


Pixel = tuple[FiniteFloat, FiniteFloat]
MarkKind = Literal["distance", "angle", "circle", "count", "repeat", "trace", "dimension", "stroke"]


class PictureLength(Strict):
    """A known length in a picture: its ends (photo pixels) and what it is long."""

    a: Pixel
    b: Pixel
    length: Value


class PictureMark(Strict):
    """What is measured in a picture, by photo pixels.

    distance: two ends · angle: corner, then a point on each leg · circle: middle and a point of the rim · count: a point each ·
    repeat: first and last of `count` alike · trace: corners of an outline, and one point on each
    round side (`bends`: their places) · stroke: of a pen, on a hand sketch.
    snapped: whether the points lie on edges that were found, or where a hand put them. reading: what was made of it.
    """

    id: str
    kind: MarkKind
    name: str = Field(default="", max_length=60)
    points: tuple[Pixel, ...] = Field(min_length=1, max_length=500)
    count: int = Field(default=0, ge=0, le=500)
    closed: bool = False
    bends: tuple[int, ...] = ()
    snapped: bool = False
    step: Value | None = None
    reading: str | None = None


class Picture(Strict):
    """A photo or a drawing: its pixels by hash, how they are straightened, its scale, and what is measured in it.

    corners: of a rectangle in the picture, top left and then clockwise (photo pixels), `aspect` its width over its height
    where that is known · bend: the lens's term · turn_deg: for pictures that are not squared up.
    """

    id: str
    kind: Literal["picture"] = "picture"
    name: str = Field(max_length=200)
    blob: Blob
    format: Literal["png", "jpeg"]
    role: Literal["photo", "drawing"] = "photo"
    width: int = Field(ge=1, le=100_000)
    height: int = Field(ge=1, le=100_000)
    corners: tuple[Pixel, Pixel, Pixel, Pixel] | None = None
    aspect: float | None = Field(default=None, gt=0.01, lt=100)
    bend: float = Field(default=0.0, ge=-0.5, le=0.5)
    turn_deg: float = Field(default=0.0, ge=-180, le=180)
    contrast: float = Field(default=1.0, ge=0.2, le=5)
    crop: tuple[float, float, float, float] | None = None
    scale: PictureLength | None = None
    check: PictureLength | None = None
    marks: tuple[PictureMark, ...] = Field(default=(), max_length=500)
