"""A job and its variants side by side: each built, measured and held against the scan."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic import BaseModel, ConfigDict

from contour.job.build.build import Report, build
from contour.job.build.result import BuildResult, ValueState
from contour.job.build.store import Store
from contour.job.edits.variants import with_variant
from contour.recipe.problem import ContourError, Problem
from contour.recipe.recipe import Recipe, Setting

__all__ = ["Column", "place_of", "side_by_side"]


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True)


class Share(_Plain):
    """The scan against this state: share of its area inside the acceptance, and deviations in mm."""

    inside_share: float
    rms: float
    p95: float
    max: float


class Lost(_Plain):
    """A step that does not come out, and why."""

    step: str
    name: str
    message: str


class Column(_Plain):
    """One state of the job. id: of the variant, empty for the job as it stands · values: what is set comes to, by its place
    (:func:`place_of`) · volume in mm³, mass in g where it is said what every body is made of · problem: why nothing was built."""

    id: str
    name: str
    values: dict[str, ValueState] = {}
    bodies: int = 0
    closed: int = 0
    volume: float = 0.0
    mass: float | None = None
    fit: Share | None = None
    lost: tuple[Lost, ...] = ()
    problem: Problem | None = None


def place_of(setting: Setting) -> str:
    """The place that a setting is for, as one word: an id, or an id and a place in its parameters."""
    return f"{setting.of}/{setting.place}" if setting.place else setting.of


def side_by_side(recipe: Recipe, store: Store, report: Report = lambda _: None) -> list[Column]:
    """The job as it stands, then each of its variants, in order. What cannot be built is a column with its problem; none is raised.

    The store keeps what was built: the next time costs what has changed.
    """
    places = list(dict.fromkeys(place_of(s) for v in recipe.variants for s in v.settings))
    now = _built(recipe, "as it stands", 0, len(recipe.variants), store, report)
    known = {s.id: s.values for s in now.steps}
    columns = [_column("", "as it stands", now, places)]
    for k, variant in enumerate(recipe.variants, 1):
        try:
            state = with_variant(recipe, variant, known)
        except ContourError as error:
            columns.append(Column(id=variant.id, name=variant.name, problem=error.problem))
            continue
        result = _built(state, variant.name, k, len(recipe.variants), store, report)
        columns.append(_column(variant.id, variant.name, result, places))
    return columns


def _built(recipe: Recipe, name: str, k: int, of: int, store: Store, report: Report) -> BuildResult:
    report({"event": "variants", "name": f"building {name}", "done": k, "total": of + 1})
    # A variant's variants are no part of it: with them it would be another recipe each time one is renamed.
    return build(recipe.model_copy(update={"variants": ()}), store)


def _column(id: str, name: str, result: BuildResult, places: list[str]) -> Column:
    bodies = [b for b in result.bodies if b.role == "material"]
    masses = [b.mass for b in bodies]
    figures = result.fit.figures if result.fit else None
    return Column(
        id=id,
        name=name,
        values={p: v for p in places if (v := _value(result, p)) is not None},
        bodies=len(bodies),
        closed=sum(not b.open for b in bodies),
        volume=sum(b.volume for b in bodies),
        mass=sum(m for m in masses if m is not None) if masses and None not in masses else None,
        fit=Share(**{f: figures[f] for f in Share.model_fields}) if figures else None,  # type: ignore[literal-required]
        lost=tuple(
            Lost(step=s.id, name=s.name, message=s.problems[0].message if s.problems else "it did not come out")
            for s in result.steps
            if s.status in ("failed", "blocked")
        ),
    )


def _value(result: BuildResult, place: str) -> ValueState | None:
    of, _, field = place.partition("/")
    if not field:
        return result.values.get(of)
    values: Mapping[str, ValueState] = next((s.values for s in result.steps if s.id == of), {})
    return values.get(field)
