"""The step registry: one file per kind in ``contour/steps``, found by itself."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, Literal, Protocol, TypeVar

from pydantic import BaseModel

from contour.recipe.facts import Facts
from contour.recipe.formula import LengthUnit
from contour.recipe.problem import ContourError, Problem, Where

__all__ = [
    "OWN",
    "Feature",
    "Handle",
    "HandleKind",
    "Inputs",
    "Outcome",
    "PresentPart",
    "Product",
    "Start",
    "StepKind",
    "found_in",
]

P = TypeVar("P", bound=BaseModel)
T = TypeVar("T")


OWN = ""  # the slot of what a step makes anew


class Product(Protocol):
    """What a step makes; `kind` says what may refer to it and how the store keeps it."""

    @property
    def kind(self) -> str: ...


@dataclass(frozen=True, slots=True)
class PresentPart:
    """What a reference to a part means now. part: its kind · names: its present names, or why it has none."""

    part: str
    names: tuple[str, ...] | Problem


@dataclass(frozen=True, slots=True)
class Inputs:
    """What a step may read. Places are those of its parameters: ``body``, ``bodies[0]``, ``pairs[2].face``."""

    step: str
    products: Mapping[str, Any]  # by place of the reference
    unit: LengthUnit
    values: Mapping[str, float] = field(default_factory=dict)  # resolved, mm or degrees, by place
    parts: Mapping[str, PresentPart] = field(default_factory=dict)  # of a face, edge, entity …
    blob: Callable[[str], bytes] = lambda _: b""
    steps: Mapping[str, str] = field(default_factory=dict)  # first eight characters of ids -> names, for messages alone
    carried: Any = (
        None  # (4, 4): where a repeat carries what the step places by itself; none where it is done in its own place
    )

    def names(self, place: str) -> tuple[str, ...]:
        """Present names of a referenced part, several where it means several; raises ContourError (ref-lost, ref-ambiguous)."""
        found = self.parts[place].names
        if isinstance(found, Problem):
            raise ContourError.of(found)
        return found

    def face(self, place: str) -> str:
        """The present name of a referenced face, or of another part of which one is meant.

        Raises ContourError (ref-lost, ref-ambiguous).
        """
        name, *more = self.names(place)
        if more:
            raise ContourError(
                "ref-ambiguous",
                f"the picked {self.parts[place].part} is in {1 + len(more)} pieces now",
                where=Where(param=place),
                got=name,
                need=f"one {self.parts[place].part}",
                remedy="choose which of them is meant",
            )
        return name


HandleKind = Literal["length", "angle", "radius"]


@dataclass(frozen=True, slots=True)
class Handle:
    """A grip in the view that drives a value. place: of the parameter · origin: where the value is nothing, mm · direction: the
    way it grows, unit; of an angle the axis it turns about · zero: where
    an angle points when it is nothing, unit · per: mm that the grip moves when the value grows by 1 mm."""

    place: str
    origin: tuple[float, float, float]
    direction: tuple[float, float, float]
    kind: HandleKind = "length"
    per: float = 1.0
    zero: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True)
class Start:
    """A selection that begins a kind of step. takes: kind of reference of what is selected · into: the parameter it goes into ·
    shapes: of surface or curve, that it must have (empty: any) · least, most: how many there have to be · second: where the second of two goes, if not beside the
    first · also: what else the step
    begins with, where the defaults of its fields would do nothing · title: what it makes of that, where the kind's own says too little · seldom: offered
    under *More …* there. A region that a bore has left is a ``hole``, not a ``cylinder``."""

    takes: str
    into: str
    shapes: tuple[str, ...] = ()
    least: int = 1
    most: int = 500
    second: str = ""
    also: Mapping[str, Any] = field(default_factory=dict)
    title: str = ""
    seldom: bool = False


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a step made, measured (`facts`) and has to say (`problems`, none of which stopped it).

    puts: products by the slot they are put in, which is an id: of the step itself (:data:`OWN`) for what it makes anew, of a scan,
    body or region for the state that this has from here on; a step is known by what it makes anew, else by the first. gone: scans and bodies that
    went into others.
    """

    puts: Mapping[str, Product]
    facts: Facts
    problems: tuple[Problem, ...] = ()
    gone: tuple[str, ...] = ()
    handles: tuple[Handle, ...] = ()

    @property
    def product(self) -> Any:
        """What the step is known by; none when it puts nothing."""
        return self.puts.get(OWN, next(iter(self.puts.values()), None))


@dataclass(frozen=True, slots=True)
class StepKind(Generic[P]):
    """The declaration of a kind of step; everything else is derived from it."""

    id: str
    title: str
    help: str
    version: int  # raise it when the same parameters give another result
    makes: str  # a kind of product, see contour/products
    params: type[P]
    key_value: str  # the field shown, and edited, in the step's row
    run: Callable[[P, Inputs], Outcome]
    facts: type[Facts]  # what it tells of what it made
    measures: Mapping[str, str] = field(default_factory=dict)  # facts that formulas may use, and their dimension
    places: bool = False  # moves the scan as a whole: nothing that uses the scan otherwise may stand above it
    ends: bool = False  # changes a scan for what comes below, and never for what is made from it already
    reads: Callable[[P], frozenset[str] | None] = lambda _: None  # places of references in use; none means all
    starts: tuple[Start, ...] = ()  # selections that begin it, the likeliest first
    carries: tuple[
        str, ...
    ] = ()  # fields whose references go along where it is done again elsewhere; none: it cannot be


@dataclass(frozen=True, slots=True)
class Feature:
    """A step as another one does it again: its kind, its parameters and what it has read."""

    kind: StepKind[Any]
    params: BaseModel
    inputs: Inputs


def found_in(package: str, path: list[str], of: type[T]) -> dict[str, T]:
    """Every ``KIND`` of that type which the package's modules declare, by its id: a new file is all it takes."""
    kinds: dict[str, T] = {}
    for info in pkgutil.iter_modules(path):
        kind: Any = getattr(importlib.import_module(f"{package}.{info.name}"), "KIND", None)
        if isinstance(kind, of):
            if kind.id in kinds:  # type: ignore[attr-defined]
                raise ValueError(f"{kind.id!r} is declared twice in {package}")  # type: ignore[attr-defined]
            kinds[kind.id] = kind  # type: ignore[attr-defined]
    return kinds
