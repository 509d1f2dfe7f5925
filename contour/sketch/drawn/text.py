"""The text form of a drawing, checked at the border: what ``docs/formats.md`` says of entities, constraints and dimensions."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from contour.recipe.problem import ContourError, Where

__all__ = [
    "MOST_ENTITIES",
    "Arc",
    "Circle",
    "Constraint",
    "ConstraintKind",
    "Dimension",
    "DimensionKind",
    "Drawing",
    "Ellipse",
    "Entity",
    "Line",
    "PlaneAxes",
    "Point",
    "Side",
    "Spline",
    "ends_of",
    "points_of",
    "read_drawing",
    "require_references",
]

MOST_ENTITIES = 5000

ConstraintKind = Literal[
    "coincident",
    "horizontal",
    "vertical",
    "parallel",
    "perpendicular",
    "tangent",
    "curvature-continuous",
    "collinear",
    "concentric",
    "equal",
    "midpoint",
    "symmetric",
    "on-curve",
    "fixed",
    "angle",
]
DimensionKind = Literal[
    "distance", "horizontal-distance", "vertical-distance", "length", "angle", "radius", "diameter", "arc-length"
]
Side = Literal["both", "first", "second"]
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]


class _Drawn(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


class _Entity(_Drawn):
    """construction: it bounds nothing · linked: it was brought in from elsewhere, and nothing that is asked moves it."""

    construction: bool = False
    linked: bool = False


class Point(_Entity):
    kind: Literal["point"] = "point"
    at: tuple[Finite, Finite]


class Line(_Entity):
    kind: Literal["line"] = "line"
    start: str = Field(alias="from")
    end: str = Field(alias="to")


class Circle(_Entity):
    kind: Literal["circle"] = "circle"
    centre: str
    radius: Positive


class Arc(_Entity):
    """Counter-clockwise from `from` to `to`."""

    kind: Literal["arc"] = "arc"
    centre: str
    start: str = Field(alias="from")
    end: str = Field(alias="to")


class Ellipse(_Entity):
    """major: the point at the end of its longer half axis · minor: the other half axis, mm · with ends: counter-clockwise between them."""

    kind: Literal["ellipse"] = "ellipse"
    centre: str
    major: str
    minor: Positive
    start: str | None = Field(default=None, alias="from")
    end: str | None = Field(default=None, alias="to")


class Spline(_Entity):
    """Through points or over control points. start, end: points that the curve leaves towards and arrives from · at: the parameter
    at each point it goes through, by drawn chords where not given, and kept from then on."""

    kind: Literal["spline"] = "spline"
    through: tuple[str, ...] = ()
    control: tuple[str, ...] = ()
    start: str | None = None
    end: str | None = None
    at: tuple[Finite, ...] = ()


Entity = Annotated[Point | Line | Circle | Arc | Ellipse | Spline, Field(discriminator="kind")]


class Constraint(_Drawn):
    """value: of an angle only."""

    kind: ConstraintKind
    of: tuple[str, ...] = Field(min_length=1, max_length=200)
    value: str | Finite | None = None


class Dimension(_Drawn):
    """value: a formula or a number in mm or degrees; none reads off what is drawn, as does `reference` · name: what formulas of other
    dimensions call it · supplement: an angle is that of the turned second line · moves: which of the two it is between gives way when it changes, as
    far as the rest lets it: of one line's length, its ends · held: it keeps its value when the drawing is adjusted to measured places."""

    kind: DimensionKind
    of: tuple[str, ...] = Field(min_length=1, max_length=2)
    value: str | Finite | None = None
    reference: bool = False
    name: str | None = None
    supplement: bool = False
    moves: Side = "both"
    held: bool = False


class PlaneAxes(_Drawn):
    """Where a drawing lies in space: its zero and the unit ways of its axes, mm."""

    origin: tuple[Finite, Finite, Finite]
    u: tuple[Finite, Finite, Finite]
    v: tuple[Finite, Finite, Finite]


class Drawing(_Drawn):
    """Entities by id, and what is asked of them. frame: none where nobody says where it lies."""

    frame: PlaneAxes | None = None
    entities: Mapping[str, Entity] = Field(max_length=MOST_ENTITIES)
    constraints: tuple[Constraint, ...] = ()
    dimensions: tuple[Dimension, ...] = ()

    @field_validator("entities")
    @classmethod
    def _ids(cls, entities: Mapping[str, Any]) -> Mapping[str, Any]:
        for name in entities:
            if not name or len(name) > 60 or name != name.strip():
                raise ValueError(f"'{name[:60]}' is no id: 1 to 60 characters, no space around them")
        return entities

    def point(self, name: str) -> tuple[float, float]:
        """Where a point is drawn, mm in the plane."""
        entity = self.entities[name]
        assert isinstance(entity, Point)
        return entity.at

    def text(self) -> dict[str, Any]:
        """The text form: what `read_drawing` reads, without what is left at its default."""
        return self.model_dump(mode="json", by_alias=True, exclude_defaults=True) | {
            "entities": {
                name: {"kind": e.kind} | e.model_dump(mode="json", by_alias=True, exclude_defaults=True)
                for name, e in self.entities.items()
            }
        }


def ends_of(drawing: Drawing, name: str) -> list[str]:
    """Points at which an entity begins and ends; none for closed ones and for points."""
    e = drawing.entities[name]
    if isinstance(e, Line | Arc):
        return [e.start, e.end]
    if isinstance(e, Ellipse) and e.start and e.end:
        return [e.start, e.end]
    if isinstance(e, Spline):
        return [e.through[0], e.through[-1]] if e.through else [e.control[0], e.control[-1]]
    return []


def points_of(entities: Mapping[str, Entity], name: str) -> list[str]:
    """Points that one of some entities is drawn by; a point by itself."""
    match entities[name]:
        case Point():
            return [name]
        case Line() as e:
            return [e.start, e.end]
        case Circle() as e:
            return [e.centre]
        case Arc() as e:
            return [e.centre, e.start, e.end]
        case Ellipse() as e:
            return [e.centre, e.major, *(p for p in (e.start, e.end) if p)]
        case Spline() as e:
            return [*e.through, *e.control, *(p for p in (e.start, e.end) if p)]


_POINTS_OF = ("start", "end", "centre", "major")


def read_drawing(data: str | bytes | Mapping[str, Any]) -> Drawing:
    """A drawing from its text form.

    Raises ContourError (file-not-understood, bad-params, ref-lost) that names the entity, constraint ("c:0") or dimension ("d:0").
    """
    if isinstance(data, str | bytes):
        try:
            data = json.loads(data)
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            at = f"line {error.lineno}, column {error.colno}" if isinstance(error, json.JSONDecodeError) else "the text"
            raise ContourError(
                "file-not-understood",
                "this is no drawing in text form",
                got=f"{at}: {error.msg if isinstance(error, json.JSONDecodeError) else 'not UTF-8'}",
                need='JSON with "entities"',
                remedy="check the file at that place",
            ) from None
    try:
        drawing = Drawing.model_validate(data)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        path = [str(p) for p in first["loc"]]
        raise ContourError(
            "bad-params",
            f"{_named(path)}: {_plain(first['msg'])}",
            where=Where(entity=_named(path)),
            got=_shown(first.get("input")),
            need=_needed(path, first),
            remedy="docs/formats.md lists what each entity, constraint and dimension needs",
        ) from None
    require_references(drawing)
    return drawing


def _named(path: list[str]) -> str:
    if len(path) > 1 and path[0] in ("constraints", "dimensions"):
        return f"{path[0][0]}:{path[1]}"
    return path[1] if len(path) > 1 else (path[0] if path else "the drawing")


def _plain(message: str) -> str:
    return message.removeprefix("Value error, ")


def _shown(value: Any) -> str:
    text = "not a number" if isinstance(value, float) and math.isnan(value) else str(value)
    return text[:80]


def _needed(path: list[str], error: Any) -> str:
    if (path and path[-1] == "kind") or error["type"].startswith("union_tag"):
        kinds = get_args(ConstraintKind) if path[0] == "constraints" else get_args(DimensionKind)
        if path[0] == "entities":
            kinds = ("point", "line", "circle", "arc", "ellipse", "spline")
        return f"one of {', '.join(kinds)}"
    field = next((p for p in reversed(path) if not p.isdigit()), "entities")
    return "a finite number" if error["type"] == "finite_number" else f"another value for {field}"


def require_references(drawing: Drawing) -> None:
    """Every name that is used is there, and is a point where only a point will do; raises ContourError (ref-lost, bad-params) where not."""
    for name, entity in drawing.entities.items():
        asked = [p for field in _POINTS_OF if (p := getattr(entity, field, None)) is not None]
        if isinstance(entity, Spline):
            _spline(name, entity)
            asked += [*entity.through, *entity.control]
        for p in asked:
            if not isinstance(drawing.entities.get(p), Point):
                raise ContourError(
                    "ref-lost",
                    f"{name} needs a point called {p}",
                    where=Where(entity=name),
                    got=f"a {drawing.entities[p].kind}" if p in drawing.entities else "nothing of that name",
                    need="a point",
                    remedy="draw the point, or name another",
                )
    said: list[tuple[str, str, tuple[str, ...]]] = [(f"c:{k}", c.kind, c.of) for k, c in enumerate(drawing.constraints)]
    said += [(f"d:{k}", d.kind, d.of) for k, d in enumerate(drawing.dimensions)]
    for where, kind, of in said:
        for p in of:
            if p not in drawing.entities:
                raise ContourError(
                    "ref-lost",
                    f"{where} ({kind}) needs {p}, which is not drawn",
                    where=Where(entity=where),
                    got=p,
                    need="entities that are drawn",
                    remedy="take the constraint away, or choose another entity",
                )


def _spline(name: str, entity: Spline) -> None:
    count = len(entity.through) + len(entity.control)
    wrong = None
    if bool(entity.through) == bool(entity.control):
        wrong = "either points it goes through or control points"
    elif count < 2:
        wrong = "two points or more"
    elif entity.control and (entity.start or entity.end or entity.at):
        wrong = "control points alone: start, end and at are for points it goes through"
    elif entity.at and (len(entity.at) != count or any(b <= a for a, b in zip(entity.at, entity.at[1:], strict=False))):
        wrong = "one rising parameter for each point it goes through"
    if wrong:
        raise ContourError(
            "bad-params",
            f"the spline {name} cannot be drawn",
            where=Where(entity=name),
            got=f"{len(entity.through)} through, {len(entity.control)} control, {len(entity.at)} parameters",
            need=wrong,
            remedy="give one kind of points",
        )
