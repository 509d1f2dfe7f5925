"""Six solids of stated drawings, redrawn from one of their faces' planes: every stated size found again, nothing left to move."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from contour.geometry.frames import plane_frame
from contour.present.links import pieces_of_body
from contour.recipe.reference import Ref
from contour.simulate.stated_drawings import stated_drawings
from contour.sketch.drawn.acts.done import Worked, worked
from contour.sketch.drawn.acts.linking import BringIn
from contour.sketch.drawn.acts.redrawing import Redraw
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.drawn.linked import Link
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.text import Drawing
from contour.sketch.entities import find_profiles
from contour.sketch.regions import sketch_of
from contour.solid.extrude import extrude
from contour.solid.shape import NamedShape

__all__ = ["redrawn", "run", "solid_of"]


def run() -> Iterator[tuple[str, str]]:
    for name, drawing, sizes in stated_drawings():
        began = time.perf_counter()
        found = redrawn(solid_of(drawing))
        seconds = time.perf_counter() - began
        reads = np.array(found.solution.sizes)
        missed = [s for s in sizes if not len(reads) or np.abs(reads - s).min() > 1e-6]
        drive = sum(not s.reference for s in found.kept.sizes)
        yield (
            f"{name}: {len(sizes)} stated sizes found again, nothing free, in 2 acts (wanted all, 0, 15)",
            f"{len(sizes) - len(missed)}{f' (missed {missed})' if missed else ''}, {found.solution.dof} free; {drive} sizes drive, {len(reads) - drive} read; {seconds:.1f} s",
        )


def solid_of(drawing: Drawing, height: float = 12.0) -> NamedShape:
    """The drawing extruded, 7 mm above the plane."""
    frame = plane_frame(np.array([0, 0, 7.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    sketch = sketch_of(drawing, profiles_of(drawing), frame)
    return extrude(find_profiles(sketch)[:1], frame, start_mm=0, end_mm=height, prefix="s1")


def redrawn(body: NamedShape) -> Worked:
    """Its cut at half its height brought into an empty drawing, and redrawn."""
    frame = plane_frame(np.array([0, 0, 13.0]), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))
    pieces = tuple(pieces_of_body(body, "cut", frame))
    link = Link(way="cut", body=Ref(id="00000000-0000-0000-0000-000000000001"))
    brought = worked(KeptDrawing(), [BringIn(act="bring-in", link=link, pieces=pieces)])
    return worked(brought.kept, [Redraw(act="redraw", of=brought.chosen)])
