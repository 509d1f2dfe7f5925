"""Flat files in and out: a DXF or SVG read for a sketch, as somebody chooses; sketches, outlines and sections as DXF or SVG. No file is kept here."""

from __future__ import annotations

import os
import re
import tempfile
import uuid
from pathlib import Path
from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile
from pydantic import Json

from bench.api.drawings import Spot2, as_built
from bench.api.products import product_folder
from bench.api.sections import SectionIn, explained_section
from bench.jobs import last_result, own_job, recipe_of, scope_of
from contour.exchange.flat.flat_file import flat_text, require_size
from contour.exchange.flat.shapes import Path as FlatPath
from contour.exchange.flat.shapes import Piece
from contour.job.work.runner import run_in_child
from contour.outline.flat_shape import flat_pieces
from contour.products import load_product
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.recipe import Step
from contour.sketch.drawn.acts.filing import PutIn
from contour.sketch.drawn.filed import pieces_of
from contour.sketch.drawn.kept import KeptDrawing, drawing_of
from contour.sketch.drawn.solution import solved
from contour.sketch.entities import Sketch
from contour.steps import KINDS

router = Router(tags=["drawings"])

FlatKind = Literal["dxf", "svg"]
_TYPES = {"dxf": "image/vnd.dxf", "svg": "image/svg+xml"}
_LIMIT_S = 60.0


class FlatChoice(Schema):
    """unit: none: as the file says · layers: names as a list in JSON; none: all that are switched on · blocks: become pieces too · under: nothing is
    taken, all of it lies under the drawing · to_zero: its lower left corner comes to the drawing's zero."""

    unit: LengthUnit | None = None
    layers: Json[list[str]] | None = None
    blocks: bool = False
    under: bool = False
    to_zero: bool = False


class FlatLayer(Schema):
    """hidden: switched off in the file."""

    name: str
    pieces: int
    hidden: bool


class FlatLeftOut(Schema):
    """at: mm in the drawing · count: how many of them."""

    kind: str
    layer: str
    why: str
    at: Spot2 | None
    count: int


class FlatFileOut(Schema):
    """unit_mm: of one unit of the file; none: neither it nor anybody says, and it is shown as if it were `likely` · said: the file says it · size: how
    far it reaches, its own units · pieces: curves and loose points · act: what puts it in; none where nothing is there, or it was refused · paths:
    how its pieces would lie, mm · words: that lie under it."""

    name: str
    unit_mm: float | None
    said: bool
    likely: LengthUnit
    size: tuple[float, float]
    layers: list[FlatLayer]
    pieces: int
    words: int
    strokes: int
    act: PutIn | None
    paths: list[list[Spot2]]
    left_out: list[FlatLeftOut]
    refused: Problem | None


@router.post("/{job_id}/flat-file", response=FlatFileOut, by_alias=True)
def read_file(
    request: HttpRequest, job_id: uuid.UUID, file: File[UploadedFile], choice: Form[FlatChoice]
) -> FlatFileOut:
    """In a child: what a damaged file makes of its reader must not reach this process."""
    own_job(request.user, job_id)
    name = os.path.basename(file.name or "drawing")[:120]
    require_size(file.size or 0, name)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / ("drawing" + Path(name).suffix.lower())
        with path.open("wb") as out:
            for chunk in file.chunks():
                out.write(chunk)
        payload = {"path": str(path), "name": name, "choice": choice.dict()}
        try:
            found = run_in_child("read-flat", payload, time_limit_s=_LIMIT_S)
        except ContourError as error:
            raise error.at(file=name) from None
    return FlatFileOut.model_validate({"name": name, **found})


@router.get("/{job_id}/steps/{step}/flat.{kind}")
def step_file(request: HttpRequest, job_id: uuid.UUID, step: uuid.UUID, kind: FlatKind) -> HttpResponse:
    """A sketch as it is drawn, with its construction lines; an outline as it was built."""
    job = own_job(request.user, job_id)
    found = next((s for s in recipe_of(job).steps if s.id == str(step)), None)
    if found is None:
        raise ContourError("not-found", "this job has no such step", got=str(step)[:8], remedy="load the page again")
    params = KINDS[found.kind].params.model_validate(found.params)
    if isinstance(params, KeptDrawing):
        drawing = drawing_of(as_built(job, step, params))
        return _file(found.name, kind, pieces_of(solved(drawing, scope_of(job).lookup).drawing))
    result = last_result(job)
    state = next((s for s in result.steps if s.id == found.id), None) if result else None
    product = load_product(product_folder(job, state.key)) if state and state.status == "ok" else None
    if not isinstance(product, Sketch):
        raise _nothing_flat(found)
    return _file(found.name, kind, flat_pieces(product.entities, "drawing"))


@router.post("/{job_id}/section/flat.{kind}")
def section_file(request: HttpRequest, job_id: uuid.UUID, kind: FlatKind, body: SectionIn) -> HttpResponse:
    """The pieces that explain a section, and, on a layer of its own, the cut as the scan has it."""
    found = explained_section(own_job(request.user, job_id), body)
    pieces = [p for loop in found.loops for p in flat_pieces(loop.outline.pieces, "section")]
    return _file("section", kind, [*pieces, *(Piece(FlatPath(p, closed), "scan") for p, closed in found.cut.lines)])


def _nothing_flat(step: Step) -> ContourError:
    return ContourError(
        "wrong-kind",
        "this step makes nothing flat",
        where=Where(step=step.id),
        got=step.kind,
        need="a sketch or an outline that is built",
        remedy="choose a sketch, or wait until it is built",
    )


def _file(name: str, kind: FlatKind, pieces: list[Piece]) -> HttpResponse:
    answer = HttpResponse(flat_text(kind, pieces), content_type=_TYPES[kind])
    plain = re.sub(r"[^A-Za-z0-9_-]+", "-", name).strip("-").lower() or "drawing"
    answer["Content-Disposition"] = f'attachment; filename="{plain}.{kind}"'
    return answer
