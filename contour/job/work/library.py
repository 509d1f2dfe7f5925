"""Jobs from Python: read one, change a value, build, measure, write. Without browser, database or children."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from contour.job.build.build import build as build_recipe
from contour.job.build.file import load_job_file
from contour.job.build.result import BodyState, BuildResult, StepState
from contour.job.build.store import Store
from contour.job.work.headless import adopt_files
from contour.products import load_product
from contour.recipe.naming import slug
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe

if TYPE_CHECKING:
    from contour.solid.shape import NamedShape

__all__ = ["BuiltJob", "LoadedJob", "change", "load", "run"]


@dataclass(frozen=True, slots=True, eq=False)
class LoadedJob:
    """A recipe, and the file that its evidence lies beside."""

    recipe: Recipe
    file: Path


@dataclass(frozen=True, slots=True, eq=False)
class BuiltJob:
    """What came of a job. Kept until nobody holds it any more."""

    recipe: Recipe
    result: BuildResult
    _store: Store
    _folder: tempfile.TemporaryDirectory[str]

    @property
    def bodies(self) -> list[str]:
        """Names of the bodies at the end."""
        return [b.name for b in self.result.bodies]

    def measure(self, what: str) -> float:
        """A value as formulas call it: ``plate.distance``, ``plate.volume`` (as that step leaves it), ``thickness``; mm, mm², mm³ or degrees.

        Raises ContourError (not-found).
        """
        from contour.job.build.scope import Scope

        owner, _, name = what.partition(".")
        step = next((s for s in self.result.steps if slug(s.name) == owner), None)
        if name and step is not None and name in step.values:
            return step.values[name].value
        if not name and any(v.name == owner for v in self.recipe.named):
            return Scope(self.recipe).lookup(owner).value
        known = [f"{slug(s.name)}.{n}" for s in self.result.steps for n in s.values]
        raise ContourError(
            "not-found",
            f"nothing is called {what}",
            where=Where(param=what),
            got=what,
            need=", ".join(known[:12]) or "a value of the job",
            remedy="name a step's value or a named one",
        )

    def volume(self, body: str) -> float:
        """Of a body at the end, mm³. Raises ContourError (not-found)."""
        return self._state(body).volume

    def body(self, name: str) -> NamedShape:
        """A body by its name: its shape, and its faces' names. Raises ContourError (not-found)."""
        from contour.solid.shape import NamedShape, read_shape

        product = load_product(self._store.folder(self._state(name).key))
        return NamedShape(read_shape(product.brep), product.names)

    def _state(self, name: str) -> BodyState:
        found = next((b for b in self.result.bodies if b.name == name), None)
        if found is None:
            raise ContourError(
                "not-found",
                f"there is no body called {name}",
                where=Where(param=name),
                got=name,
                need=", ".join(self.bodies) or "a job that makes bodies",
                remedy="use one of these names",
            )
        return found

    def write(self, path: str | Path) -> None:
        """The bodies of the part as STEP, in the job's unit."""
        from contour.exchange.step import write_step

        material = [b for b in self.result.bodies if b.role == "material"]
        rows = [(b.name, self.body(b.name).shape, b.colour) for b in material]
        write_step(Path(path), rows, unit="inch" if self.recipe.unit == "inch" else "mm")


def load(path: str | Path) -> LoadedJob:
    """A job from its file. Raises ContourError (file-missing, file-not-understood, bad-recipe)."""
    return LoadedJob(load_job_file(Path(path)), Path(path))


def change(job: LoadedJob, what: str, text: str) -> LoadedJob:
    """The job with one value otherwise: a named value (``thickness``) or a step's (``plate.distance``), as it would be typed. The one before stays as it was.

    Raises ContourError (not-found, bad-params).
    """
    from contour.job.edits.apply import apply_edit
    from contour.job.edits.steps import SetParams
    from contour.job.edits.values import SetValue

    owner, _, name = what.partition(".")
    edit: Any
    if name:
        step = _only(
            what, [s for s in job.recipe.steps if slug(s.name) == owner], [slug(s.name) for s in job.recipe.steps]
        )
        old = step.params.get(name)
        edit = SetParams(
            op="set-params", step=step.id, params={name: {**(old if isinstance(old, dict) else {}), "text": text}}
        )
    else:
        value = _only(what, [v for v in job.recipe.values if v.name == owner], [v.name for v in job.recipe.values])
        edit = SetValue(op="set-value", id=value.id, value=value.value.model_copy(update={"text": text}))
    return LoadedJob(apply_edit(job.recipe, edit)[0], job.file)


def _only(what: str, found: Sequence[Any], known: Sequence[str]) -> Any:
    if len(found) == 1:
        return found[0]
    raise ContourError(
        "not-found",
        f"{len(found)} things are called {what.partition('.')[0]}" if found else f"nothing is called {what}",
        where=Where(param=what),
        got=what,
        need=", ".join(dict.fromkeys(known)) or "a job with values",
        remedy="use a name that only one of them has",
    )


def run(job: LoadedJob) -> BuiltJob:
    """Everything the recipe makes. Raises the first failed step's ContourError, with the step, the parameter and what to try."""
    folder = tempfile.TemporaryDirectory(prefix="contour-")
    store = Store(Path(folder.name))
    adopt_files(job.recipe, job.file, store)
    result = build_recipe(job.recipe, store)
    failed: StepState | None = next((s for s in result.steps if s.status in ("failed", "blocked")), None)
    if failed is not None:
        raise ContourError.of(failed.problems[0])
    return BuiltJob(job.recipe, result, store, folder)
