"""Outline: a section's lines, arcs and free pieces taken as a sketch with permanent ids.

Taking fixes the structure. Rebuilding cuts the scan again, gives every piece its points by nearness to where the
piece was, and fits values only; when the scan no longer supports the structure, that is a located problem.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, field_validator

from contour.construct.place import Place
from contour.geometry.rigid import inverse, moved, turned
from contour.mesh.prepare import PreparedScan
from contour.mesh.slice import PlaneFrame, plane_frame, slice_scan
from contour.outline.explain import default_outline_tolerance
from contour.outline.pieces import Chain, Outline, shape_chains, shape_pieces, whole_ellipse
from contour.outline.radial import radial_frame, radial_profile, runout_of
from contour.outline.shape import Held
from contour.outline.silhouette import silhouette
from contour.outline.split import ARC, ELLIPSE, FREE, LINE
from contour.present.places import axis_at, plane_at
from contour.products.scan import ScanProduct
from contour.products.sketch import SketchFigures, sketch_facts
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import AxisRef, PlaneRef, ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import Length, Value
from contour.sketch.entities import Entity, LoopName, Sketch, entity_points, loop_names

__all__ = ["KIND", "LoopRelation", "Params", "TakenLoop", "TakenPiece", "refit_loops", "section_frame"]

Array = NDArray[np.float64]
Point2 = tuple[float, float]
Point3 = tuple[float, float, float]
_CODES = {"line": LINE, "arc": ARC, "ellipse": ELLIPSE, "free": FREE}


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


class LoopRelation(BaseModel):
    """Two pieces held to each other, on request: the first of this loop, the second of this or another one. symmetric: the loop is its own
    mirror image, and takes the first to the second."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: Literal["parallel", "square", "equal radius", "concentric", "symmetric"]
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
    pieces: list[TakenPiece] = Field(min_length=1, max_length=500)
    relations: list[LoopRelation] = Field(default_factory=list, max_length=500)


class Params(BaseModel):
    """The plane is a region's or a construction plane, moved along its normal; origin and u_axis keep the sketch's own axes in place (for a
    radial profile u_axis is the way out from the axis)."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    source: Literal["section", "radial", "silhouette"] = Field(
        title="Taken from",
        default="section",
        description="a plane's section, the mean half-section about an axis, or the shadow along a plane's normal",
    )
    plane: PlaneRef | None = Field(
        default=None, description="the plane", json_schema_extra={"when": {"source": ["section", "silhouette"]}}
    )
    axis: AxisRef | None = Field(
        default=None, description="the axis it is turned about", json_schema_extra={"when": {"source": ["radial"]}}
    )
    offset: Length = Field(
        default=Value(text="0 mm", mark="intent"),
        json_schema_extra={"when": {"source": ["section", "silhouette"]}},
        description="from the plane along its normal; negative goes into the material",
    )
    tolerance: Length | None = Field(default=None, description="how far the scan may stray from a piece")
    origin: Point3
    u_axis: Point3
    pose: tuple[tuple[float, float, float, float], ...] | None = Field(
        default=None, min_length=4, max_length=4, description="where the raw scan lay when the section was taken (4x4)"
    )
    loops: list[TakenLoop] = Field(min_length=1, max_length=500)

    @field_validator("loops")
    @classmethod
    def _each_has_a_name(cls, loops: list[TakenLoop]) -> list[TakenLoop]:
        names = loop_names([(loop.name, [p.id for p in _sketched(loop)]) for loop in loops])
        return [loop.model_copy(update={"name": name}) for loop, name in zip(loops, names, strict=True)]


def _sketched(loop: TakenLoop) -> list[TakenPiece]:
    """The pieces that go into the sketch; all of them where none does."""
    return [p for p in loop.pieces if p.taken] or loop.pieces


def _reads(params: Params) -> frozenset[str]:
    return frozenset({"scan", "axis" if params.source == "radial" else "plane"})


def section_frame(plane: Place, offset_mm: float, origin: Array, u_axis: Array) -> PlaneFrame:
    """Axes of the section plane: `origin` dropped onto it, u along `u_axis`. origin, u_axis (3,), mm."""
    normal = plane.along
    on_plane = plane.at + offset_mm * normal
    dropped = origin + ((on_plane - origin) @ normal) * normal
    return plane_frame(dropped, normal, u_axis)


def _entity(piece: TakenPiece) -> Entity:
    if piece.kind == "ellipse" and piece.ellipse is None:  # made one by hand: it runs where the piece ran
        return Entity(piece.id, "free", piece.start, piece.end, None, tuple(piece.points) or (piece.start, piece.end))
    return Entity(piece.id, piece.kind, piece.start, piece.end, piece.mid, tuple(piece.points), piece.ellipse)


def _path_distance(points: Array, path: Array) -> Array:
    """Distance of points (n, 2) to a polyline (m, 2)."""
    a, d = path[:-1], np.diff(path, axis=0)
    t = np.einsum("nmd,md->nm", points[:, None] - a[None], d) / ((d * d).sum(axis=1) + 1e-300)
    foot = a + np.clip(t, 0, 1)[..., None] * d
    return np.asarray(np.linalg.norm(points[:, None] - foot, axis=2).min(axis=1))


def _problem(frame: PlaneFrame, piece: TakenPiece, message: str, got: str) -> ContourError:
    spot = piece.mid or ((piece.start[0] + piece.end[0]) / 2, (piece.start[1] + piece.end[1]) / 2)
    x, y, z = frame.to_space(np.array(spot))
    return ContourError(
        "outline-changed",
        message,
        where=Where(entity=piece.id, point=(float(x), float(y), float(z))),
        got=got,
        need="a section that still has this piece",
        remedy="put the value back, or take the outline again",
    )


def _runs_of(loop: TakenLoop, lines: list[tuple[Array, bool]], frame: PlaneFrame, edge: float) -> list[Array]:
    """The points of every piece of a loop, in order, from the polyline that the loop belongs to. Raises ContourError (outline-changed)."""
    paths = [entity_points(_entity(p)) for p in loop.pieces]
    whole = np.vstack(paths)
    size = float(np.ptp(whole, axis=0).max())
    limit = max(4 * edge, 0.08 * size)
    best: tuple[float, Array, bool] | None = None
    for points, closed in lines:
        if len(points) < 4:
            continue
        away = _path_distance(points, whole)
        back = _path_distance(whole, np.vstack([points, points[:1]]) if closed else points)
        score = float(np.median(away) + np.median(back))
        if np.median(away) < limit and np.median(back) < limit and (best is None or score < best[0]):
            best = (score, points, closed)
    if best is None:
        raise _problem(frame, loop.pieces[0], "the section no longer has this loop", f"{len(lines)} other loops")
    _, points, closed = best
    if loop.closed and not closed and not loop.full:
        raise _problem(frame, loop.pieces[0], "the loop is open now: the scan has a hole there", "an open polyline")
    if len(loop.pieces) == 1:
        return [points]
    owner = np.argmin(np.stack([_path_distance(points, p) for p in paths]), axis=0)
    # Start where a piece begins, so that no piece's run is cut by the polyline's own start.
    turns = np.flatnonzero(owner != np.roll(owner, 1))
    if loop.closed and len(turns):
        points, owner = np.roll(points, -turns[0], axis=0), np.roll(owner, -turns[0])
    runs = [points[owner == k] for k in range(len(loop.pieces))]
    ways, back_ways = (
        sum(float(np.linalg.norm(r[end] - p.start)) for r, p in zip(runs, loop.pieces, strict=True) if len(r))
        for end in (0, -1)
    )
    return [r[::-1] for r in runs] if back_ways < ways else runs


def _chain_of(loop: TakenLoop, runs: list[Array], frame: PlaneFrame, edge: float) -> Chain:
    data: list[Array] = []
    near: list[Array | None] = []
    count = len(runs)
    for k, (run, piece) in enumerate(zip(runs, loop.pieces, strict=True)):
        if len(run) < 2:
            raise _problem(frame, piece, f"{piece.kind} {piece.id} has no scan points left", f"{len(run)} points")
        ends = np.minimum(np.linalg.norm(run - run[0], axis=1), np.linalg.norm(run - run[-1], axis=1))
        inner = run[ends > 0.7 * edge] if count > 1 else run
        data.append(inner if len(inner) >= 4 else run)
        follows = runs[(k + 1) % count]
        near.append((run[-1] + follows[0]) / 2 if len(follows) and (loop.closed or k + 1 < count) else None)
    whole = count == 1 and (loop.closed or loop.full) and loop.pieces[0].kind == "arc"
    return Chain([_CODES[p.kind] for p in loop.pieces], data, near, (runs[0][0], runs[-1][-1]), loop.closed, whole)


def refit_loops(
    loops: Sequence[TakenLoop], lines: list[tuple[Array, bool]], frame: PlaneFrame, sigma: float, edge: float
) -> list[Outline]:
    """Loops of known structure fitted to the polylines that they belong to; loops with relations between them are fitted together.

    Raises ContourError (outline-changed) with the piece, (degenerate) for relations that the scan speaks against.
    Polylines (n, 2), sigma, edge (the mean length of a facet's side): mm.
    """
    chains = [_chain_of(loop, _runs_of(loop, lines, frame, edge), frame, edge) for loop in loops]
    names = [(p.id, n) for n, loop in enumerate(loops) for p in loop.pieces]
    at = {id: k for k, (id, _) in enumerate(names)}
    held = [
        Held(r.kind, at[r.first], at[r.second])
        for loop in loops
        for r in loop.relations
        if r.first in at and r.second in at
    ]
    out: list[Outline] = []
    tied = {n for h in held for n in (names[h.first][1], names[h.second][1])}
    together = shape_chains(
        [chains[n] for n in sorted(tied)],
        sigma_mm=sigma,
        edge_mm=edge,
        held=_counted(held, [n for _, n in names], tied),
    )
    of_tied = dict(zip(sorted(tied), together, strict=True))
    for n, (loop, chain) in enumerate(zip(loops, chains, strict=True)):
        if loop.pieces[0].kind == "ellipse" and len(loop.pieces) == 1 and (loop.closed or loop.full):
            oval = whole_ellipse(chain.data[0])
            if oval is None:
                raise _problem(frame, loop.pieces[0], "the loop is no ellipse any more", "no ellipse fits")
            outline = oval[0]
        else:
            outline = of_tied[n] if n in of_tied else shape_pieces(chain, sigma_mm=sigma, edge_mm=edge)
        for fitted, piece in zip(outline.pieces, loop.pieces, strict=True):
            if fitted.kind != piece.kind:
                raise _problem(frame, piece, f"{piece.id} is no {piece.kind} any more", f"a {fitted.kind}")
            if fitted.rms > max(4 * sigma, 0.5 * edge):
                raise _problem(
                    frame, piece, f"{piece.kind} {piece.id} no longer fits the scan", f"rms {fitted.rms:.3f} mm"
                )
        out.append(outline)
    return out


def _counted(held: Sequence[Held], loop_of: list[int], tied: set[int]) -> list[Held]:
    """Relations with the pieces of loops that none speaks of left out of the count."""
    place = {k: n for n, k in enumerate(k for k, loop in enumerate(loop_of) if loop in tied)}
    return [Held(h.kind, place[h.first], place[h.second]) for h in held]


class OutlineFacts(SketchFigures):
    """rms: the worst piece's, mm · tolerance: mm · runout: the largest over the half-sections, mm, full span · seen: the smallest share
    of them that has a piece."""

    of: Literal["outline"] = "outline"
    rms: float
    tolerance: float
    runout: float | None = None
    seen: float | None = None


def _cut(
    params: Params, inputs: Inputs, scan: PreparedScan
) -> tuple[PlaneFrame, list[tuple[Array, bool]], dict[str, Any]]:
    """The sketch's axes, the polylines on them, and what was measured on the way."""
    since = np.asarray(scan.pose) @ inverse(np.array(params.pose) if params.pose else np.eye(4))
    along = turned(since, np.array(params.u_axis))
    if params.source == "radial":
        axis = axis_at(inputs, "axis")
        # The zero along the axis stays where it was when the profile was taken.
        origin = moved(since, np.array(params.origin))
        zero = axis.at + float((origin - axis.at) @ axis.along) * axis.along
        frame = radial_frame(zero, axis.along, along)
        found = radial_profile(scan, frame)
        facts = {"runout": runout_of(found), "seen": min(line.seen for line in found)}
        return frame, [(line.points, line.closed) for line in found], facts
    frame = section_frame(
        plane_at(inputs, "plane"), inputs.values["offset"], moved(since, np.array(params.origin)), along
    )
    if params.source == "silhouette":
        return frame, silhouette(scan, frame), {}
    lines = [(frame.to_plane(c.points), c.closed) for c in slice_scan(scan, frame.origin, frame.normal)]
    if not lines:
        raise ContourError(
            "no-section",
            "the plane does not cut the scan",
            where=Where(param="offset"),
            got=f"{inputs.values['offset']:.3f} mm",
            need="an offset inside the part",
            remedy="choose an offset that lies inside the part",
        )
    return frame, lines, {}


def _run(params: Params, inputs: Inputs) -> Outcome:
    product: ScanProduct = inputs.products["scan"]
    scan = product.scan
    frame, lines, facts = _cut(params, inputs, scan)
    size = float(np.ptp(scan.vertices, axis=0).max())
    tolerance = inputs.values.get("tolerance") or default_outline_tolerance(scan.noise_mm, size)
    entities: list[Entity] = []
    worst = 0.0
    outlines = refit_loops(params.loops, lines, frame, tolerance / 3, scan.edge_mm)
    for loop, outline in zip(params.loops, outlines, strict=True):
        for fitted, piece in zip(outline.pieces, loop.pieces, strict=True):
            if piece.taken:
                entities.append(
                    Entity(piece.id, fitted.kind, fitted.start, fitted.end, fitted.mid, fitted.points, fitted.ellipse)
                )
                worst = max(worst, fitted.rms)
    named = tuple(LoopName(loop.name, tuple(p.id for p in _sketched(loop))) for loop in params.loops)
    sketch = Sketch(frame, tuple(entities), named)
    told, problems = sketch_facts(sketch)
    return Outcome({OWN: sketch}, OutlineFacts(**facts, **told, rms=worst, tolerance=tolerance), problems)


KIND: StepKind[Params] = StepKind(
    id="outline",
    title="Outline",
    help="A section's lines and arcs as a sketch",
    version=3,
    makes="sketch",
    params=Params,
    key_value="offset",
    run=_run,
    facts=OutlineFacts,
    reads=_reads,
    measures={"runout": "length", "area": "area"},
)
