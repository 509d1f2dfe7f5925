"""What a picture of a job says: how it lies flat, its scale, and every mark's figure with its uncertainty."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from contour.exchange.picture import colours, grey
from contour.metrology.photo.edges import Picture as Pixels
from contour.metrology.photo.flat import Flat, FlatPixels, flat_of
from contour.metrology.photo.repeats import repeats_along
from contour.metrology.photo.scale import Scale, length_mm, scale_check, scale_of
from contour.outline.arcs import arc_length
from contour.outline.bends import sides_of
from contour.recipe.evidence.picture import Picture, PictureLength, PictureMark
from contour.recipe.problem import ContourError, Problem

__all__ = ["MarkFacts", "PictureFacts", "flat_picture", "mark_facts", "picture_facts", "write_flat", "write_grey"]

Array = NDArray[np.float64]
Known = Callable[[str], tuple[float, float]]  # a formula -> (mm, standard uncertainty)
# How well a hand puts a point on an edge, and how well an edge is found, pixels.
U_HAND, U_EDGE = 1.2, 0.3


@dataclass(frozen=True, slots=True)
class MarkFacts:
    """points and found are flat pixels · value, u: mm (degrees for an angle, a plain number for a count; for a repeat: the
    pitch); none without a scale · drift: of the last repeat from equal steps, mm, with u · alike: least likeness of a repeat."""

    id: str
    points: tuple[tuple[float, float], ...]
    found: tuple[tuple[float, float], ...]
    value: float | None
    u: float | None
    dimension: str
    drift: float | None = None
    u_drift: float | None = None
    alike: float | None = None
    doubled: bool = False
    problem: Problem | None = None


@dataclass(frozen=True, slots=True)
class PictureFacts:
    """size: of the flat picture · scale and check lines in flat pixels · error, away: of the scale by the second length."""

    size: tuple[int, int]
    scale: Scale | None
    scale_line: tuple[tuple[float, float], ...]
    check_line: tuple[tuple[float, float], ...]
    check_error: float | None
    check_away: float | None
    marks: tuple[MarkFacts, ...]
    problems: tuple[Problem, ...]


def flat_picture(picture: Picture) -> Flat:
    """How the picture lies flat; raises ContourError (bad-params) for corners that make no rectangle."""
    corners = None if picture.corners is None else np.array(picture.corners)
    return flat_of(
        (picture.width, picture.height),
        corners=corners,
        aspect=picture.aspect,
        bend=picture.bend,
        turn_deg=picture.turn_deg,
    )


def write_grey(data: bytes, path: Path) -> None:
    """A photo's brightness (h, w) uint8 as a NumPy file, to be mapped by whoever looks for edges in it."""
    np.save(path, grey(data))


def write_flat(data: bytes, picture: Picture, path: Path, longest: int) -> None:
    """The flat picture as a JPEG, made some rows at a time. Marks are placed on its full size, however coarsely it is shown."""
    flat = flat_picture(picture)
    shown = Image.new("RGB", flat.shown_size(longest))
    row = 0
    for band in flat.bands(colours(data), longest):
        shown.paste(Image.fromarray(band), (0, row))
        row += len(band)
    shown.save(path, "JPEG", quality=88)


def _rows(p: Array) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in p)


def _angle(p: Array) -> float:
    a, b = p[1] - p[0], p[2] - p[0]
    return math.degrees(math.acos(float(np.clip(a @ b / (np.linalg.norm(a) * np.linalg.norm(b)), -1, 1))))


def _around(p: Array, mark: PictureMark) -> float:
    """Length of an outline, pixels."""
    spots = [(float(x), float(y)) for x, y in p]
    return math.fsum(
        math.dist(spots[a], spots[b]) if via is None else arc_length(spots[a], spots[via], spots[b])
        for a, via, b in sides_of(len(p), mark.bends, closed=mark.closed)
    )


def mark_facts(
    mark: PictureMark, flat: Flat, scale: Scale | None, pixels: Callable[[], Pixels], known: Known
) -> MarkFacts:
    """One mark's figure. `pixels` gives the flat picture where it is needed; problems are said in the facts."""
    p = flat.to_flat(np.array(mark.points))
    u_point = U_EDGE if mark.snapped else U_HAND

    def said(value: float | None, u: float | None, dimension: str, **more: object) -> MarkFacts:
        return MarkFacts(mark.id, _rows(p), **{"found": (), **more}, value=value, u=u, dimension=dimension)  # type: ignore[arg-type]

    if mark.kind == "count":
        return said(float(len(p)), 0.0, "number")
    if mark.kind == "angle":
        if len(p) < 3:
            return said(None, None, "angle")
        legs = [float(np.linalg.norm(p[k] - p[0])) for k in (1, 2)]
        u = math.degrees(math.hypot(u_point * math.sqrt(2) / max(legs[0], 1), u_point * math.sqrt(2) / max(legs[1], 1)))
        return said(_angle(p), u, "angle")
    if mark.kind == "repeat":
        try:
            rows = repeats_along(pixels(), p[0], p[1], mark.count)
        except ContourError as error:
            return said(None, None, "length", problem=error.problem)
        found = _rows(rows.found)
        alike = float(rows.likeness.min())
        if scale is None:
            return said(None, None, "length", found=found, alike=alike, doubled=rows.doubled)
        made = length_mm(scale, rows.pitch, rows.u_pitch)
        drift = u_drift = None
        if mark.step is not None:
            try:
                step, u_step = known(mark.step.text)
                relative = math.hypot(math.hypot(scale.relative_u, scale.uneven), u_step / max(step, 1e-9))
                off, u_off = rows.drift(step / scale.mm_per_px, relative)
                drift, u_drift = off * scale.mm_per_px, u_off * scale.mm_per_px
            except ContourError as error:
                return said(
                    made.mm, made.u, "length", found=found, alike=alike, doubled=rows.doubled, problem=error.problem
                )
        return said(
            made.mm, made.u, "length", found=found, alike=alike, doubled=rows.doubled, drift=drift, u_drift=u_drift
        )
    if scale is None or len(p) < 2 or mark.kind in ("dimension", "stroke"):
        return said(None, None, "length")
    if mark.kind == "circle":
        made = length_mm(scale, 2 * float(np.linalg.norm(p[1] - p[0])), math.sqrt(2) * u_point)
    elif mark.kind == "trace":
        made = length_mm(scale, _around(p, mark), math.sqrt(2 * len(p)) * u_point)
    else:
        made = length_mm(scale, float(np.linalg.norm(p[1] - p[0])), math.sqrt(2) * u_point)
    return said(made.mm, made.u, "length")


def _line(flat: Flat, line: PictureLength | None) -> tuple[Array, float] | None:
    if line is None:
        return None
    p = flat.to_flat(np.array([line.a, line.b]))
    return p, float(np.linalg.norm(p[1] - p[0]))


def picture_facts(picture: Picture, photo: Callable[[], NDArray[np.uint8]], known: Known) -> PictureFacts:
    """`photo`: gives its brightness (h, w) where edges must be looked for. Everything a picture says; what cannot be worked out is said as problems, the rest stands."""
    flat = flat_picture(picture)
    problems: list[Problem] = []
    scale, error, away = None, None, None
    first, second = _line(flat, picture.scale), _line(flat, picture.check)
    u_px = math.sqrt(2) * U_HAND / 2
    try:
        if picture.scale is not None and first is not None:
            mm, u = known(picture.scale.length.text)
            scale = scale_of(first[1], u_px, mm, u, squared=picture.corners is not None or picture.role == "drawing")
        if scale is not None and picture.check is not None and second is not None:
            mm, u = known(picture.check.length.text)
            error, away = scale_check(scale, second[1], u_px, mm, u)
    except ContourError as problem:
        problems.append(problem.problem)
    marks = tuple(mark_facts(m, flat, scale, lambda: FlatPixels(photo(), flat), known) for m in picture.marks)
    return PictureFacts(
        flat.size,
        scale,
        _rows(first[0]) if first else (),
        _rows(second[0]) if second else (),
        error,
        away,
        marks,
        tuple(problems),
    )
