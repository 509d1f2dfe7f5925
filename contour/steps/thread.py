"""Thread: the axis, pitch and diameters of a threaded hole or stud, and which standard thread it is taken as."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.construct.place import Place
from contour.fit.thread.form import ThreadForm, refitted, thread_form
from contour.geometry.vectors import triple
from contour.intent.likely_threads import likely_threads
from contour.metrology.standards.threads import thread_named
from contour.present.places import place_facts
from contour.products.place import PlaceFigures
from contour.recipe.problem import ContourError, Where
from contour.recipe.reference import ScanRef
from contour.recipe.registry import OWN, Inputs, Outcome, StepKind
from contour.recipe.values import FacetSet, facets_from_bytes

__all__ = ["KIND", "Params", "ThreadFacts"]


class Params(BaseModel):
    """The facets of the wall decide; crests, roots and flanks belong to it, countersinks do not matter."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    scan: ScanRef
    picked: FacetSet | None = Field(default=None, title="Wall", description="the facets of the threaded wall")
    taken_as: str = Field(
        default="",
        max_length=40,
        title="Taken as",
        description="designation of a standard thread, such as M8x1.25; empty: as measured",
    )


class NearThread(BaseModel):
    """A standard thread beside what was measured: mm; difference_u in standard uncertainties."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    designation: str
    major: float
    minor: float
    pitch: float
    tap_drill: str
    major_off: float
    pitch_off: float
    difference_u: float


class ThreadFacts(PlaceFigures):
    """pitch, major, minor: in use, the standard's where the thread is taken as one; measured_…: what the scan says, with u_pitch and
    u_diameter. depth: how deep the scan shows it beside the basic profile · length: of the wall · rms: off the fitted form. mm."""

    of: Literal["thread"] = "thread"
    inside: bool
    hand: Literal["right", "left"]
    starts: int
    pitch: float
    major: float
    minor: float
    measured_pitch: float
    measured_major: float
    measured_minor: float
    u_pitch: float
    u_diameter: float
    taken_as: str
    length: float
    depth: float
    rms: float
    near: list[NearThread]


def _form(params: Params, inputs: Inputs) -> ThreadForm:
    scan = inputs.products["scan"].scan
    if params.picked is None:
        raise ContourError(
            "bad-params",
            "no facets are chosen",
            where=Where(param="picked"),
            got="none",
            need="the facets of a threaded wall",
            remedy="keep a thread from All regions, or draw around the wall with the lasso",
        )
    own = scan.facets_of_source(facets_from_bytes(inputs.blob(params.picked.blob)))
    points, normals, areas = scan.centroids[own], scan.normals[own], scan.areas[own]
    form = thread_form(points, normals, areas, edge_mm=scan.edge_mm, noise_mm=scan.noise_mm) if len(own) else None
    if form is None:
        at = triple(points.mean(axis=0)) if len(own) else None
        raise ContourError(
            "nothing-found",
            "these facets do not wind about an axis as a thread does",
            where=Where(param="picked", point=at),
            got=f"{len(own)} facets",
            need=f"two turns of a thread whose pitch is more than {2.2 * scan.edge_mm:.2f} mm, two facets",
            remedy="choose all of the threaded wall, or scan it more finely",
        )
    return refitted(form, points, normals, areas, edge_mm=scan.edge_mm, noise_mm=scan.noise_mm) or form


def _run(params: Params, inputs: Inputs) -> Outcome:
    standard = thread_named(params.taken_as, param="taken_as") if params.taken_as.strip() else None
    form = _form(params, inputs)
    near = [
        NearThread(
            designation=c.thread.designation,
            major=c.thread.major,
            minor=c.thread.minor,
            pitch=c.thread.pitch,
            tap_drill=c.thread.tap_drill.name,
            major_off=c.major_off,
            pitch_off=c.pitch_off,
            difference_u=c.difference_u,
        )
        for c in likely_threads(form)
    ]
    length = form.high - form.low
    middle = form.point + 0.5 * (form.low + form.high) * form.axis
    place = Place(
        "axis",
        triple(middle),
        triple(form.axis),
        u=form.u_diameter / 2,
        u_tilt=float(np.arctan2(form.u_diameter, max(length, form.pitch))),
        radius=(standard.major if standard else form.major) / 2,
        u_radius=form.u_diameter / 2,
        reach=length / 2,
    )
    facts = ThreadFacts(
        **place_facts(place),
        inside=form.inside,
        hand="right" if form.hand > 0 else "left",
        starts=form.starts,
        pitch=standard.pitch if standard else form.pitch,
        major=standard.major if standard else form.major,
        minor=standard.minor if standard else form.minor,
        measured_pitch=form.pitch,
        measured_major=form.major,
        measured_minor=form.minor,
        u_pitch=form.u_pitch,
        u_diameter=form.u_diameter,
        taken_as=standard.designation if standard else "",
        length=length,
        depth=form.depth_seen,
        rms=form.rms,
        near=near,
    )
    return Outcome({OWN: place}, facts)


KIND: StepKind[Params] = StepKind(
    id="thread",
    title="Thread",
    help="A threaded hole or stud: axis, pitch and diameters",
    version=1,
    makes="axis",
    params=Params,
    key_value="taken_as",
    run=_run,
    facts=ThreadFacts,
    measures={"pitch": "length", "major": "length", "minor": "length", "length": "length"},
)
