"""What a build found out: the status of every step, the bodies, the values and the fit. Its JSON is what browser and command line show."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field, GetJsonSchemaHandler, TypeAdapter
from pydantic_core import core_schema
from typing_extensions import TypedDict

from contour.job.build.fit import FitState
from contour.recipe.facts import Facts
from contour.recipe.problem import Problem
from contour.recipe.registry import Handle
from contour.steps import KINDS

__all__ = ["AnyFacts", "BodyState", "BuildResult", "Status", "StepState", "ValueState", "deliverable", "facts_with"]


_KNOWN: dict[str, type[Facts]] = {}


def _models() -> dict[str, type[Facts]]:
    """Facts by what they call themselves, of all kinds of steps there are."""
    return {str(kind.facts.model_fields["of"].default): kind.facts for kind in KINDS.values()}


def _read(value: Any) -> Facts:
    if isinstance(value, Facts):
        return value
    of = value.get("of", "") if isinstance(value, dict) else ""
    if of not in _KNOWN:  # asked of the kinds once, and again when one has come that was not there
        _KNOWN.update(_models())
    if of not in _KNOWN:
        raise ValueError("no facts of any kind of step")
    return _KNOWN[of].model_validate(value)


class _OfAnyStep:
    """Facts are read as what they call themselves, whichever kinds of steps there are by then; declared as all there are now."""

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> core_schema.CoreSchema:
        written = core_schema.plain_serializer_function_ser_schema(
            lambda facts: facts.model_dump(mode="json", exclude_none=True)
        )
        return core_schema.no_info_plain_validator_function(_read, serialization=written)

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> Any:
        models: Any = Union[tuple(_models().values())]  # noqa: UP007 -- made of a list
        return handler(TypeAdapter(Annotated[models, Field(discriminator="of")]).core_schema)


AnyFacts = Annotated[Facts, _OfAnyStep()]


def facts_with(model: type[Facts], kept: Mapping[str, Any], about: Mapping[str, Any]) -> Facts:
    """Facts as they were kept, and with what is known of the product that was kept beside them."""
    return model.model_validate({**kept, **{k: v for k, v in about.items() if k in model.model_fields}})


Status = Literal["ok", "failed", "blocked", "off"]


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True)


class ValueState(_Plain):
    """What a formula comes to: mm, degrees or a number, and the mark of its weakest leaf."""

    value: float
    length: int
    angle: int
    mark: str | None


class StepState(_Plain):
    """How one step came out. `key` names its product in the store, `after` and `scans` the bodies and scans as they are then."""

    id: str
    kind: str
    name: str
    status: Status
    key: str | None = None
    facts: AnyFacts | None = None  # none of a step that did not come out
    problems: tuple[Problem, ...] = ()
    handles: tuple[Handle, ...] = ()  # where its values can be dragged
    values: dict[str, ValueState] = {}
    settled: dict[str, dict[str, ValueState]] = {}  # values of regions that this step has settled, by their id
    after: dict[str, str] = {}
    scans: dict[str, str] = {}  # the scans as they are after this step
    cached: bool = False
    seconds: float = 0.0
    took: float = 0.0  # s that it was worked on when it was last worked out


class FaceName(TypedDict):
    """A face by its lasting name, and the kind of its surface."""

    name: str
    kind: str


class BodyState(_Plain):
    """A body at the end of the list; `id` is the step that began it. volume mm³, area mm², mass g where it is said what it is made of."""

    id: str
    name: str
    colour: str | None = None
    key: str
    volume: float = 0.0
    area: float = 0.0
    mass: float | None = None
    faces: tuple[FaceName, ...] = ()
    role: Literal["material", "reference"] = "material"
    open: int = 0  # borders that belong to one face alone: the body closes no volume


class BuildResult(_Plain):
    """Everything a build found out; its JSON is what the browser and the command line show."""

    steps: tuple[StepState, ...] = ()
    raw: dict[str, str] = {}  # evidence id -> key of the scan as it came
    solids: dict[str, str] = {}  # evidence id -> key of a file of solids
    scans: dict[str, str] = {}  # evidence id -> key of the scan as the last step leaves it
    poses: dict[str, list[list[float]]] = {}  # evidence id -> T_here_raw
    health: dict[str, str] = {}  # evidence id -> key of its scan's defects
    merged: dict[str, str] = {}  # evidence id of a scan that went into another -> that other
    bodies: tuple[BodyState, ...] = ()
    values: dict[str, ValueState] = {}  # named values, by id
    fit: FitState | None = None
    problems: tuple[Problem, ...] = ()


def deliverable(result: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Bodies of a build's result that leave the job: name, key and colour of closed ones that are not there for reference."""
    return [
        {k: b.get(k) for k in ("name", "key", "colour")}
        for b in result["bodies"]
        if b.get("role") != "reference" and not b.get("open")
    ]
