"""Sketches as DXF and SVG and back: the same curves, as another library reads them too; and what damaged files leave."""

from __future__ import annotations

import io
import math
import tempfile
import time
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import dxfgrabber
import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from contour.exchange.flat.flat_file import flat_text, read_flat
from contour.exchange.flat.shapes import scaled
from contour.recipe.problem import ContourError
from contour.simulate.random_sheets import random_sheet
from contour.sketch.drawn.filed import drawn_from, pieces_of
from contour.sketch.drawn.text import Drawing
from contour.sketch.drawn.traces import Trace, foot, traces_shown

__all__ = ["run"]

Array = NDArray[np.float64]
_SHEETS = 100
_AT = np.linspace(0.0, 1.0, 9)


def run() -> Iterator[tuple[str, str]]:
    for kind in ("dxf", "svg"):
        yield from _back(kind)
    yield from _second_reader()
    yield from _damaged()
    yield from _large()


def _back(kind: str) -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(5)
    worst, same, pieces = 0.0, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        for k in range(_SHEETS):
            sheet = _by_layers(random_sheet(rng))
            path = Path(folder) / f"{k}.{kind}"
            path.write_text(flat_text(kind, pieces_of(sheet)))
            read = read_flat(path)
            back = Drawing(entities=drawn_from(scaled(read, read.unit_mm or 1.0)).entities)
            off = max(_off(sheet, back), _off(back, sheet))
            worst = max(worst, off)
            same += off < 1e-6
            pieces += len(traces_shown(sheet))
    yield (
        f"{_SHEETS} sketches ({pieces:,} curves) as {kind.upper()} and back: geometry equal to 1e-6 (wanted all)",
        f"{same}, worst {worst:.1e} mm",
    )


def _by_layers(sheet: Drawing) -> Drawing:
    """Plain pieces first: SVG groups them by layer, and curves are compared in their order."""
    return Drawing(entities=dict(sorted(sheet.entities.items(), key=lambda row: row[1].construction)))


def _off(one: Drawing, other: Drawing) -> float:
    """mm by which places along the curves of one stray from the curves of another, in the order of the file."""
    return _strayed([t.place(_AT) for t in traces_shown(one)], traces_shown(other))


def _strayed(paths: list[Array], traces: list[Trace]) -> float:
    if len(paths) != len(traces):
        return math.inf
    return max(
        float(np.linalg.norm(trace.place(np.array([foot(trace, p)]))[0] - p))
        for path, trace in zip(paths, traces, strict=True)
        for p in path
    )


def _second_reader() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(5)
    worst, same = 0.0, 0
    for _ in range(_SHEETS):
        sheet = random_sheet(rng)
        text = flat_text("dxf", pieces_of(sheet))
        curves = [c for e in dxfgrabber.read(io.StringIO(text)).entities if (c := _places(e)) is not None]
        off = _strayed(curves, traces_shown(sheet))
        worst = max(worst, off)
        same += off < 1e-6
    yield (
        f"the same {_SHEETS} DXF files as a second library reads them: equal to 1e-6 (wanted all)",
        (f"{same}, worst {worst:.1e} mm"),
    )


def _places(e) -> Array | None:  # type: ignore[no-untyped-def]
    """Places along an entity as the second library has it, by its numbers alone."""
    kind = e.dxftype
    if kind == "LINE":
        return np.linspace(e.start[:2], e.end[:2], len(_AT))
    if kind in ("CIRCLE", "ARC"):
        first, last = (0.0, 360.0) if kind == "CIRCLE" else (e.start_angle, e.end_angle)
        t = np.radians(first + _AT * ((last - first) % 360 or 360))
        return np.array(e.center[:2]) + e.radius * np.column_stack([np.cos(t), np.sin(t)])
    if kind == "ELLIPSE":
        t = e.start_param + _AT * ((e.end_param - e.start_param) % math.tau or math.tau)
        a = np.array(e.major_axis[:2])
        b = np.array([-a[1], a[0]]) * e.ratio
        return np.array(e.center[:2]) + np.cos(t)[:, None] * a + np.sin(t)[:, None] * b
    if kind == "SPLINE":
        curve = BSpline(np.array(e.knots), np.array(e.control_points)[:, :2], e.degree)
        begin, end = e.knots[e.degree], e.knots[-e.degree - 1]
        return np.asarray(curve(begin + _AT * (end - begin)))
    return None


def _damaged() -> Iterator[tuple[str, str]]:
    rng = np.random.default_rng(6)
    told = lost = read = 0
    with tempfile.TemporaryDirectory() as folder:
        for k in range(_SHEETS):
            data = bytearray(flat_text("dxf", pieces_of(random_sheet(rng))).encode())
            if k % 2:
                del data[int(rng.integers(200, len(data))) :]
            else:
                for at in rng.integers(0, len(data), 12):
                    data[at] = int(rng.integers(32, 127))
            path = Path(folder) / f"{k}.dxf"
            path.write_bytes(bytes(data))
            try:
                found = read_flat(path)
                drawn_from(found)
                read += 1
                lost += not found.left_out and k % 2
            except ContourError as error:
                told += bool(error.problem.where.file and error.problem.got and error.problem.remedy)
    yield (
        f"{_SHEETS} damaged DXF files: read in part, or refused with what is wrong (wanted all; broken off and not said: 0)",
        f"{read} read, {told} refused, {lost} broken off and not said",
    )


def _large() -> Iterator[tuple[str, str]]:
    """A print of thousands of short strokes, as programs make of curves."""
    t = np.linspace(0, 60 * math.tau, 20_001)
    path = np.column_stack([t * np.cos(t), t * np.sin(t)])
    rows = "".join(
        f"0\nLINE\n8\nstray\n10\n{a:.6f}\n20\n{b:.6f}\n11\n{c:.6f}\n21\n{d:.6f}\n" for (a, b), (c, d) in pairwise(path)
    )
    with tempfile.TemporaryDirectory() as folder:
        name = Path(folder) / "strokes.dxf"
        name.write_text(f"0\nSECTION\n2\nENTITIES\n{rows}0\nENDSEC\n0\nEOF\n")
        began = time.perf_counter()
        found = read_flat(name)
        seconds = time.perf_counter() - began
        try:
            drawn_from(found)
            said = "taken"
        except ContourError as error:
            said = error.problem.got or ""
    yield f"a DXF of {len(path) - 1:,} stray strokes: read, then refused with what to do", f"{seconds:.1f} s; {said}"
