"""What a step's parameters mean when its turn comes: its values, the products it points to, and the parts of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from contour.job.build.running import Running
from contour.job.build.scope import with_own
from contour.products import product_kind_of
from contour.recipe.formula import Quantity
from contour.recipe.params import walk
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.recipe import Step
from contour.recipe.reference import REFERENCES, PartRef, Ref, ReferenceKind
from contour.recipe.registry import PresentPart, StepKind
from contour.recipe.values import Value
from contour.steps import KINDS

__all__ = ["FoundInputs", "checked_params", "found_inputs", "resolved_values"]

_MOST_FAULTS = 20  # of one form: more would tell nobody more


@dataclass(frozen=True, slots=True)
class FoundInputs:
    """By place of the reference. said: what it means, for the step's own key · load: key of the product · parts: of those to a
    part of something · features: ids of steps of which is asked what they were done with."""

    said: dict[str, str]
    load: dict[str, str]
    parts: dict[str, PresentPart]
    features: dict[str, str]


def checked_params(step: Step) -> tuple[StepKind[Any], Any]:
    """A step's kind and its validated parameters; raises ContourError (bad-params) with the field."""
    kind = KINDS.get(step.kind)
    if kind is None:
        raise ContourError(
            "bad-params",
            "there is no such kind of step",
            where=Where(step=step.id),
            got=step.kind,
            need=", ".join(sorted(KINDS)),
            remedy="leave the step out, or open the job with the version that made it",
        )
    try:
        return kind, kind.params.model_validate(step.params)
    except ValidationError as error:
        raise ContourError.several([_fault_of(step, e) for e in error.errors()[:_MOST_FAULTS]]) from None


def _fault_of(step: Step, error: Any) -> Problem:
    place = ".".join(str(p) for p in error["loc"])
    where = Where(step=step.id, param=place)
    got = repr(error.get("input"))[:80]
    return Problem(code="bad-params", message=f"{error['msg']} at '{place}'", where=where, got=got)


def resolved_values(params: BaseModel, run: Running) -> dict[str, Quantity]:
    """Typed values by place. Raises ContourError with all that cannot be read."""
    out: dict[str, Quantity] = {}
    faults: list[Problem] = []
    lookup = with_own(params, run.recipe.unit, run.scope.lookup)
    for leaf in walk(params):
        if isinstance(leaf.value, Value) and leaf.declared.dimension is not None:
            try:
                out[leaf.place] = leaf.value.resolve(leaf.declared.dimension, run.recipe.unit, lookup)
            except ContourError as error:
                faults.append(error.at(param=leaf.place).problem)
    if faults:
        raise ContourError.several(faults)
    return out


def _input_key(place: str, id: str, wanted: ReferenceKind, run: Running) -> str:
    """Key of what a reference by id points to. Raises ContourError (step-blocked, ref-lost, wrong-kind)."""
    if id in run.lost:
        raise ContourError(
            "step-blocked",
            f"this waits for an earlier step: {run.lost[id]}",
            where=Where(param=place),
            got="nothing yet",
            need="the step above to be whole",
            remedy="mend that step first",
        )
    pool = run.states.get(wanted.id, run.keys)
    if id not in pool:
        raise ContourError(
            "ref-lost",
            f"{place} refers to something that is not above this step",
            where=Where(param=place),
            got=id[:8],
            need="something above this step",
            remedy=f"choose another {wanted.id}",
        )
    if pool is run.keys and not wanted.serves(run.makes[id]):
        raise ContourError(
            "wrong-kind",
            f"{place} is not {wanted.label}",
            where=Where(param=place),
            got=run.makes[id],
            need=" or ".join(wanted.accepts),
            remedy="choose another one",
        )
    return pool[id]


def _present_part(ref: PartRef, place: str, key: str, run: Running) -> PresentPart:
    """What the part is called now, or why it is called nothing."""
    folder = run.store.folder(key)
    try:
        return PresentPart(ref.part, product_kind_of(folder).parts[ref.part].present(ref, folder))
    except ContourError as error:
        return PresentPart(ref.part, error.problem.model_copy(update={"where": Where(param=place, point=ref.place)}))


def found_inputs(kind: StepKind[Any], params: BaseModel, run: Running) -> FoundInputs:
    """What every reference means now. Raises ContourError (step-blocked, ref-lost, wrong-kind) with all of them that do not
    point to anything; a part that is lost is for the step to report, which may do without it."""
    used = kind.reads(params)
    said: dict[str, str] = {}
    load: dict[str, str] = {}
    parts: dict[str, PresentPart] = {}
    features: dict[str, str] = {}
    faults: list[Problem] = []
    for leaf in walk(params):
        place, ref = leaf.place, leaf.value
        if not isinstance(ref, Ref | PartRef) or (used is not None and place not in used):
            continue
        wanted = REFERENCES[ref.whole] if isinstance(ref, PartRef) else leaf.declared.reference
        assert wanted is not None, f"{kind.id}.{place} does not say what it points to"
        try:
            load[place] = _input_key(place, ref.owner if isinstance(ref, PartRef) else ref.id, wanted, run)
        except ContourError as error:
            faults.append(error.problem)
            continue
        said[place] = load[place]
        if wanted.again and isinstance(ref, Ref):
            features[place] = ref.id
        if isinstance(ref, PartRef):
            parts[place] = _present_part(ref, place, load[place], run)
            names = parts[place].names
            said[place] += f" {ref.part} " + (" & ".join(names) if isinstance(names, tuple) else "lost")
    if faults:
        raise ContourError.several(faults)
    return FoundInputs(said, load, parts, features)
