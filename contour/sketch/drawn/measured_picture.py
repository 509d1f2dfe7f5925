"""A picture as evidence of a drawing in text form: its file, how it is straightened and scaled, and how it lies in the drawing's plane."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, ValidationError

from contour.exchange.picture import grey, read_picture
from contour.metrology.photo.flat import FlatPixels, flat_of
from contour.metrology.photo.laid import Laid
from contour.metrology.photo.scale import scale_of
from contour.recipe.problem import ContourError, Where
from contour.sketch.drawn.fitted import Source
from contour.sketch.drawn.picture_fit import U_EDGE_PX, picture_source

__all__ = ["PictureUnder", "is_picture", "read_picture_under"]

Pixel = tuple[FiniteFloat, FiniteFloat]


class _Known(BaseModel):
    model_config = ConfigDict(extra="forbid")

    a: Pixel
    b: Pixel
    mm: float = Field(gt=0, lt=1e6)
    u: float = Field(default=0.0, ge=0, lt=1e3)


class _Lies(BaseModel):
    model_config = ConfigDict(extra="forbid")

    picture: str
    role: Literal["photo", "drawing"] = "photo"
    corners: tuple[Pixel, Pixel, Pixel, Pixel] | None = None
    aspect: float | None = Field(default=None, gt=0.01, lt=100)
    bend: float = Field(default=0.0, ge=-0.5, le=0.5)
    scale: _Known
    px: Pixel
    at: tuple[FiniteFloat, FiniteFloat] = (0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)
    mirrored: bool = False


@dataclass(frozen=True, slots=True)
class PictureUnder:
    """lines: its drawn lines are meant, not its edges · source: what all sizes of it share."""

    pixels: FlatPixels
    laid: Laid
    lines: bool
    source: Source


def is_picture(data: bytes) -> bool:
    """Whether it is a file of this kind, well or badly written, and no section."""
    try:
        found = json.loads(data)
    except (json.JSONDecodeError, UnicodeDecodeError):
        return False
    return isinstance(found, dict) and "picture" in found


def read_picture_under(data: bytes, folder: Path) -> PictureUnder:
    """The picture's file is named relative to the folder.

    Raises ContourError (file-not-understood), (file-missing), (bad-params) where it has no usable scale or corners.
    """
    try:
        lies = _Lies.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise ContourError(
            "file-not-understood",
            "this does not say how a picture lies",
            got=f"{place}: {first['msg']}"[:160],
            need="picture, scale (a, b, mm) and px, in pixels",
            remedy="see Pictures under a drawing in docs/formats.md",
        ) from None
    path = folder / lies.picture
    try:
        file = read_picture(path.read_bytes(), path.name)
    except OSError as error:
        raise ContourError(
            "file-missing",
            "the picture cannot be read",
            where=Where(file=path.name),
            got=error.strerror or str(error),
            need="its file beside this one",
            remedy="name it as it is called, relative to this file",
        ) from None
    corners = None if lies.corners is None else np.array(lies.corners)
    flat = flat_of((file.width, file.height), corners=corners, aspect=lies.aspect, bend=lies.bend)
    a, b, zero = flat.to_flat(np.array([lies.scale.a, lies.scale.b, lies.px]))
    squared = corners is not None or lies.role == "drawing"
    u_px = math.sqrt(2) * U_EDGE_PX
    scale = scale_of(float(np.linalg.norm(b - a)), u_px, lies.scale.mm, lies.scale.u, squared=squared)
    laid = Laid((float(zero[0]), float(zero[1])), lies.at, lies.turn, scale.mm_per_px, lies.mirrored)
    source = picture_source(scale, path.name)
    return PictureUnder(FlatPixels(grey(file.data), flat), laid, lies.role == "drawing", source)
