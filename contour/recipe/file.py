"""The recipe: evidence, named values, acceptance, unit and the ordered steps, as strict, sorted JSON with a version."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, ValidationError, field_validator, model_validator

from contour.recipe.formula import RESERVED, Dimension, LengthUnit
from contour.recipe.problem import ContourError, Where
from contour.recipe.values import Blob, FacetSet, Value

__all__ = [
    "SCHEMA_VERSION",
    "BodyLook",
    "Evidence",
    "Feature",
    "Instrument",
    "LeftAlone",
    "MarkKind",
    "Measures",
    "Method",
    "NamedValue",
    "Picture",
    "PictureLength",
    "PictureMark",
    "Pin",
    "Pixel",
    "Probe",
    "Reading",
    "Recipe",
    "ScanEvidence",
    "Session",
    "Step",
    "Take",
    "dump_recipe",
    "load_recipe",
    "slug",
]

SCHEMA_VERSION = 5


def slug(name: str) -> str:
    """A step's name as formulas write it.

    >>> slug("Base plate (2nd)")
    'base_plate_2nd'
    """
    text = re.sub(r"\W+", "_", name.lower()).strip("_")
    return f"_{text}" if not text or text[0].isdigit() else text


def _lift_1(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 lets a step change several bodies."""
    for step in document.get("steps", []):
        params = step.get("params", {})
        if step.get("kind") == "extrude" and "bodies" not in params:
            body = params.pop("body", None)
            params["bodies"] = [] if body is None else [body]
    return {**document, "schema_version": 2}


def _lift_2(document: dict[str, Any]) -> dict[str, Any]:
    """Version 3 says more of a scan (role, zone, what to leave); what is not said has its usual meaning."""
    return {**document, "schema_version": 3}


def _lift_3(document: dict[str, Any]) -> dict[str, Any]:
    """Version 4 knows instruments and sessions, and more of readings; takes without them mean what they meant."""
    return {**document, "schema_version": 4}


def _lift_4(document: dict[str, Any]) -> dict[str, Any]:
    """Version 5 knows round sides of outlines and readings of one size; what is not said has its usual meaning."""
    return {**document, "schema_version": 5}


# version -> function that lifts a document of that version to the next one
_MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _lift_1, 2: _lift_2, 3: _lift_3, 4: _lift_4}


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


def _formula_name(name: str) -> str:
    """A name that formulas can hold."""
    if not re.fullmatch(r"[^\W\d]\w*", name) or name in RESERVED:
        raise ValueError("a name needs letters, digits and _ only, a letter first, and must not be a unit or function")
    return name


class LeftAlone(_Strict):
    """A defect that somebody has looked at and leaves as it is; its place in the raw scan's frame, mm."""

    kind: str = Field(max_length=40)
    point: tuple[float, float, float]


class ScanEvidence(_Strict):
    """A scan file as it came: its bytes by hash, and the unit the person gave it.

    A reference (a mating part, say) is shown and can be worked on, but the fit is not measured against it. `zone` limits
    the fit to facets painted by hand.
    """

    id: str
    kind: Literal["scan"] = "scan"
    name: str = Field(max_length=200)
    blob: Blob
    format: Literal["stl", "obj", "ply", "3mf"]
    unit: LengthUnit
    role: Literal["part", "reference"] = "part"
    zone: FacetSet | None = None
    leave: tuple[LeftAlone, ...] = Field(default=(), max_length=2000)


class Instrument(_Strict):
    """What readings are taken with: its smallest step, and how far it may be wrong by its data sheet (plus or minus)."""

    id: str
    name: str = Field(min_length=1, max_length=100)
    resolution_mm: float = Field(gt=0, le=10)
    limit_mm: float = Field(default=0.0, ge=0, le=10)
    note: str = Field(default="", max_length=500)


class Session(_Strict):
    """One time at the bench with one instrument. `zero_mm` is what it showed when it was closed: taken off every take."""

    id: str
    name: str = Field(min_length=1, max_length=100)
    instrument: str
    zero_mm: float = Field(default=0.0, ge=-10, le=10, allow_inf_nan=False)


Method = Literal["jaws", "depth rod", "photo", "drawing", "elsewhere"]


class Take(_Strict):
    """One time the caliper was read, in the unit it was read in.

    A take that is struck out says why; it is kept and does not count.
    """

    value: float = Field(gt=-1e6, lt=1e6, allow_inf_nan=False)
    unit: LengthUnit | Literal["deg"] = "mm"
    method: Method = "jaws"
    note: str = Field(default="", max_length=300)
    struck: str = Field(default="", max_length=300)
    session: str | None = None


class Pin(_Strict):
    """Where on the part a reading was taken: on a picture (by its id; pixels) or on a scan (mm, raw scan's frame)."""

    on: str
    at: tuple[FiniteFloat, FiniteFloat, FiniteFloat]
    to: tuple[FiniteFloat, FiniteFloat, FiniteFloat] | None = None


class Feature(_Strict):
    """What a reading measures on the scan: the diameter of one region, or the distance between two."""

    regions: tuple[str, ...] = Field(min_length=1, max_length=2)


Measures = Literal["outside", "inside", "depth", "step", "height", "span", "other"]


class Reading(_Strict):
    """One quantity measured by hand, repeatedly. Formulas use its mean by its name, a span's share of one gap as
    ``name.each``.

    source: where its takes come from · over: gaps that a span goes over · tolerance_mm: plus or minus, as a drawing
    states it · u_mm: standard uncertainty that its source gives beside the takes (a photo's scale) · same_as: another
    reading of the same size, by another source.
    """

    id: str
    kind: Literal["reading"] = "reading"
    name: str = Field(max_length=60)
    takes: tuple[Take, ...] = Field(default=(), max_length=200)
    note: str = Field(default="", max_length=500)
    source: Literal["caliper", "photo", "drawing"] = "caliper"
    measures: Measures = "other"
    over: int = Field(default=1, ge=1, le=10_000)
    tolerance_mm: float | None = Field(default=None, ge=0, le=1e4)
    u_mm: float | None = Field(default=None, ge=0, le=1e4)
    same_as: str | None = None
    pin: Pin | None = None
    feature: Feature | None = None

    _named = field_validator("name")(_formula_name)

    @model_validator(mode="after")
    def _one_dimension(self) -> Reading:
        if len({t.unit == "deg" for t in self.takes}) > 1:
            raise ValueError("a reading is a length or an angle, not both")
        return self


Pixel = tuple[FiniteFloat, FiniteFloat]
MarkKind = Literal["distance", "angle", "circle", "count", "repeat", "trace", "dimension", "stroke"]


class PictureLength(_Strict):
    """A known length in a picture: its ends (photo pixels) and what it is long."""

    a: Pixel
    b: Pixel
    length: Value


class PictureMark(_Strict):
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


class Picture(_Strict):
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


Evidence = Annotated[ScanEvidence | Reading | Picture, Field(discriminator="kind")]


class NamedValue(_Strict):
    """A value with a name that formulas use."""

    id: str
    name: str = Field(max_length=60)
    dimension: Dimension = "length"
    value: Value
    note: str = Field(default="", max_length=500)

    _named = field_validator("name")(_formula_name)


class Step(_Strict):
    """One operation; `params` is checked against its kind's own model when it is built or edited.

    Steps next to each other with the same `group` are shown, and folded, together.
    """

    id: str
    kind: str
    name: str = Field(max_length=200)
    enabled: bool = True
    params: dict[str, Any]
    note: str = Field(default="", max_length=1000)
    group: str = Field(default="", max_length=100)


class BodyLook(_Strict):
    """A body's own name and colour; `id` is the step that began it."""

    id: str
    name: str = Field(default="", max_length=200)
    colour: str | None = Field(default=None, pattern=r"^#[0-9a-f]{6}$")


class Probe(_Strict):
    """A place on the scan whose deviation is watched: raw facet number, and the point on it (mm, scan frame)."""

    id: str
    name: str = Field(max_length=60)
    scan: str
    facet: int = Field(ge=0)
    point: tuple[float, float, float]


class Recipe(_Strict):
    """A whole job without its products. References go by id, only to evidence or earlier steps."""

    schema_version: Literal[5] = 5
    name: str = Field(min_length=1, max_length=200)
    unit: LengthUnit = "mm"
    acceptance_mm: float = Field(default=0.1, gt=0, le=100)
    evidence: tuple[Evidence, ...] = ()
    instruments: tuple[Instrument, ...] = ()
    sessions: tuple[Session, ...] = ()
    values: tuple[NamedValue, ...] = ()
    steps: tuple[Step, ...] = ()
    bodies: tuple[BodyLook, ...] = ()
    probes: tuple[Probe, ...] = ()

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Recipe:
        rows = (*self.evidence, *self.instruments, *self.sessions, *self.values, *self.steps, *self.probes)
        ids = [e.id for e in rows]
        if len(set(ids)) != len(ids):
            raise ValueError("two entries share an id")
        names = [e.name for e in self.named]
        twice = next((n for n in names if names.count(n) > 1), None)
        if twice:
            raise ValueError(f"two values are called {twice}")
        return self

    @property
    def scans(self) -> tuple[ScanEvidence, ...]:
        return tuple(e for e in self.evidence if isinstance(e, ScanEvidence))

    @property
    def readings(self) -> tuple[Reading, ...]:
        return tuple(e for e in self.evidence if isinstance(e, Reading))

    @property
    def pictures(self) -> tuple[Picture, ...]:
        return tuple(e for e in self.evidence if isinstance(e, Picture))

    @property
    def named(self) -> tuple[NamedValue | Reading, ...]:
        """Everything that formulas know by a name of its own."""
        return (*self.values, *self.readings)

    def step(self, step_id: str) -> Step:
        """The step with that id; raises ContourError (not-found)."""
        for step in self.steps:
            if step.id == step_id:
                return step
        raise ContourError("not-found", "the job has no such step", where=Where(step=step_id))


def dump_recipe(recipe: Recipe) -> str:
    """Canonical text: sorted keys, two spaces, one newline at the end."""
    return json.dumps(recipe.model_dump(mode="json"), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def load_recipe(text: str, *, file: str | None = None) -> Recipe:
    """Read a recipe of this or an earlier schema version.

    Raises ContourError (bad-recipe) with the line or the field that is wrong.
    """
    try:
        document = json.loads(text)
    except ValueError as error:
        raise ContourError(
            "bad-recipe", f"not JSON: {error}", where=Where(file=file), remedy="export the job again"
        ) from None
    if not isinstance(document, dict):
        raise ContourError(
            "bad-recipe", "a recipe is a JSON object", where=Where(file=file), got=type(document).__name__
        )
    version = document.get("schema_version")
    while isinstance(version, int) and version in _MIGRATIONS:
        document = _MIGRATIONS[version](document)
        version = document["schema_version"]
    if version != SCHEMA_VERSION:
        raise ContourError(
            "bad-recipe",
            "this recipe's schema version cannot be read",
            where=Where(file=file),
            got=version,
            need=f"1 to {SCHEMA_VERSION}",
            remedy="open it with the version of the application that wrote it",
        )
    try:
        return Recipe.model_validate_json(json.dumps(document))
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise ContourError(
            "bad-recipe", f"{first['msg']} at '{place}'", where=Where(file=file), got=repr(first.get("input"))[:80]
        ) from None
