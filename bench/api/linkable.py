"""What of the bodies and sketches above a drawing can be brought into it, shown before it is picked. Bodies are asked in a child: the kernel is there."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema

from bench.api.drawings import OnSheet
from bench.api.products import product_folder
from bench.jobs import last_result, own_job, recipe_of
from bench.models import Job
from contour.geometry.frames import PlaneFrame
from contour.job.build.result import BuildResult
from contour.job.work.runner import run_in_child
from contour.products import load_product
from contour.recipe.problem import ContourError
from contour.recipe.reference import EdgeRef, FaceRef, Ref
from contour.sketch.drawn.linked import Link, LinkedPiece, LinkWay, entity_pieces, traced
from contour.solid.topology.parts import faces_with_neighbours, read_topology

router = Router(tags=["drawings"])

Spot2 = tuple[float, float]
_LIMIT_S = 60.0


class LinkableIn(OnSheet):
    """source: a body by the step that began it, or another sketch."""

    source: uuid.UUID
    way: LinkWay


class LinkableOut(Schema):
    """One thing that can be brought in: the link, its pieces, and how each is seen on the plane."""

    link: Link
    pieces: list[LinkedPiece]
    paths: list[list[Spot2]]


@router.post("/{job_id}/linkable", response=list[LinkableOut])
def linkable(request: HttpRequest, job_id: uuid.UUID, body: LinkableIn) -> list[LinkableOut]:
    """Edges one by one, faces with all around them; a cut, a silhouette or a sketch as a whole."""
    job = own_job(request.user, job_id)
    frame = body.frame()
    source = str(body.source)
    if body.way == "sketch":
        folder = product_folder(job, _key_above(job, str(body.step), source, sketch=True))
        pieces = entity_pieces(load_product(folder), frame)
        return _out([(Link(way="sketch", sketch=Ref(id=source)), pieces)])
    key = _key_above(job, str(body.step), source, sketch=False)
    folder = product_folder(job, key)
    pieces = _of_body(key, body.way, frame)
    if body.way in ("cut", "silhouette"):
        return _out([(Link(way=body.way, body=Ref(id=source)), pieces)] if pieces else [])
    rows = read_topology(folder)
    faces = faces_with_neighbours(rows["faces"])
    if body.way == "face":
        return _out(
            [
                (Link(way="face", part=_face(source, f)), own)
                for f in faces
                if (own := [p for p in pieces if f["name"] in p.faces])
            ]
        )
    known = {e["name"]: e for e in rows["edges"]}
    return _out(
        [
            (Link(way="edge", part=_edge(source, known[p.key], faces)), [p.model_copy(update={"key": "edge0"})])
            for p in pieces
            if p.key in known
        ]
    )


def _of_body(key: str, way: str, frame: PlaneFrame) -> list[LinkedPiece]:
    payload = {
        "store": str(settings.STORE),
        "key": key,
        "way": way,
        "frame": {k: getattr(frame, k).tolist() for k in ("origin", "u", "v", "normal")},
    }
    found = run_in_child("linkable", payload, time_limit_s=_LIMIT_S)
    return [LinkedPiece.model_validate(p) for p in found["pieces"]]


def _key_above(job: Job, step: str, source: str, *, sketch: bool) -> str:
    """Key of a body, or of a sketch, as it is just above a step. Raises ContourError (not-above)."""
    result: BuildResult | None = last_result(job)
    order = [s.id for s in recipe_of(job).steps]
    above = order[: order.index(step)] if step in order else order
    found: str | None = None
    for state in result.steps if result else ():
        if state.id not in above:
            continue
        if sketch and state.id == source and state.status == "ok":
            found = state.key
        elif not sketch:
            found = dict(state.after).get(source, found)
    if found is None:
        raise ContourError(
            "not-above",
            "there is nothing of it above this sketch",
            got=source[:8],
            need="a body or a sketch that is made before it",
            remedy="move the sketch further down the list, or wait until the job is built",
        )
    return found


def _face(body: str, row: dict[str, Any]) -> FaceRef:
    return FaceRef(body=body, name=row["name"], kind=row["kind"], beside=tuple(row["beside"]), place=row.get("centre"))


def _edge(body: str, row: dict[str, Any], faces: list[dict[str, Any]]) -> EdgeRef:
    ends = tuple(faces[k]["name"] for k in row["ends"])
    return EdgeRef(body=body, edge=row["name"], kind=row["kind"], ends=ends, place=row.get("centre"))


def _out(found: list[tuple[Link, list[LinkedPiece]]]) -> list[LinkableOut]:
    return [LinkableOut(link=link, pieces=pieces, paths=_paths(pieces)) for link, pieces in found]


def _paths(pieces: list[LinkedPiece]) -> list[list[Spot2]]:
    """A point's is its place alone."""
    paths: list[list[Spot2]] = [[p.points[0]] for p in pieces]
    for k, trace in traced(pieces):
        paths[k] = [(round(float(x), 5), round(float(y), 5)) for x, y in trace.place(trace.shown)]
    return paths
