"""Rebuilding a job: every step that can run runs, only what changed is computed, and the fit follows."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, ValidationError

from contour.check.deviation import deviations, sample_order, summarise, unseen_share
from contour.exchange.scanfile import read_scan
from contour.job.keys import fit_key, scan_key, step_key
from contour.job.store import Store
from contour.job.view import scan_view
from contour.mesh.exact import load_exact
from contour.mesh.prepare import PreparedScan, prepare_scan, save_prepared
from contour.recipe.file import Recipe, ScanEvidence, Step
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError, Problem, Where
from contour.recipe.registry import Inputs, StepKind
from contour.recipe.values import Ref, Value, refs_in
from contour.steps import KINDS
from contour.steps.products import BodyProduct, load_product, save_product

__all__ = ["BodyState", "BuildResult", "FitState", "StepState", "build", "checked_params", "ensure_scan"]

Status = Literal["ok", "failed", "blocked", "off"]
Report = Callable[[dict[str, Any]], None]


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True)


class StepState(_Plain):
    """How one step came out. `key` names its product in the store."""

    id: str
    kind: str
    name: str
    status: Status
    key: str | None = None
    facts: dict[str, Any] = {}
    problems: tuple[Problem, ...] = ()
    cached: bool = False
    seconds: float = 0.0


class BodyState(_Plain):
    """A body at the end of the list; `id` is the step that began it."""

    id: str
    name: str
    key: str
    volume: float
    area: float
    faces: tuple[dict[str, str], ...] = ()


class FitState(_Plain):
    """The fit of all bodies to the first scan, and what the last body step changed (share inside, by the sample)."""

    key: str
    scan: str
    figures: dict[str, Any]
    last_step: str | None = None
    change: float | None = None


class BuildResult(_Plain):
    """Everything a build found out; its JSON is what the browser and the command line show."""

    steps: tuple[StepState, ...] = ()
    scans: dict[str, str] = {}  # evidence id -> key
    bodies: tuple[BodyState, ...] = ()
    fit: FitState | None = None
    problems: tuple[Problem, ...] = ()


@dataclass(slots=True)
class _Running:
    """What is known so far while the list is walked."""

    scans: dict[str, str] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)  # step id -> product key (regions, sketches)
    makes: dict[str, str] = field(default_factory=dict)
    bodies: dict[str, str] = field(default_factory=dict)  # body id -> key of its present state
    lost: dict[str, str] = field(default_factory=dict)  # id of a step or body -> why it cannot be used
    history: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)  # body step, body keys after it


def checked_params(step: Step) -> tuple[StepKind[Any], Any]:
    """A step's kind and its validated parameters; raises ContourError (bad-params) with the field."""
    kind = KINDS.get(step.kind)
    if kind is None:
        raise ContourError(
            "bad-params", "there is no such kind of step", where=Where(step=step.id), got=step.kind,
            need=", ".join(sorted(KINDS)),
        )  # fmt: skip
    try:
        return kind, kind.params.model_validate(step.params)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise ContourError(
            "bad-params", f"{first['msg']} at '{place}'", where=Where(step=step.id, param=place),
            got=repr(first.get("input"))[:80],
        ) from None  # fmt: skip


def ensure_scan(store: Store, evidence: ScanEvidence) -> str:
    """Key of the prepared scan, preparing it when the store has it no more."""
    key = scan_key(evidence)
    if not store.has(key):
        raw = read_scan(store.blob(evidence.blob), name=evidence.name)
        scan = prepare_scan(raw, LENGTH_UNITS[evidence.unit])

        def write(folder: Any) -> None:
            save_prepared(scan, folder)
            scan_view(folder / "view.bin", scan)

        store.put(key, {"facets": len(scan.facets), "noise": scan.noise_mm, "edge": scan.edge_mm}, write)
    return key


def _resolved(params: BaseModel, unit: Any) -> dict[str, float]:
    out = {}
    for name in type(params).model_fields:
        value = getattr(params, name)
        if isinstance(value, Value):
            try:
                out[name] = value.resolve("length", unit)
            except ContourError as error:
                raise error.at(param=name) from None
    return out


def _input_key(name: str, ref: Ref, wanted: str, run: _Running) -> str:
    if ref.id in run.lost:
        raise ContourError(
            "step-blocked", f"{name} waits for an earlier step: {run.lost[ref.id]}", remedy="mend that step first"
        )
    pool = {"scan": run.scans, "body": run.bodies}.get(wanted, run.keys)
    if ref.id not in pool:
        raise ContourError(
            "ref-lost", f"{name} refers to something that is not above this step", where=Where(param=name),
            got=ref.id[:8], remedy=f"choose another {wanted}",
        )  # fmt: skip
    if wanted in ("region", "sketch") and run.makes[ref.id] != wanted:
        raise ContourError(
            "wrong-kind", f"{name} is not a {wanted}", where=Where(param=name), got=run.makes[ref.id], need=wanted
        )
    return pool[ref.id]


def _run_step(step: Step, recipe: Recipe, store: Store, run: _Running) -> StepState:
    begun = time.perf_counter()
    kind, params = checked_params(step)
    lengths = _resolved(params, recipe.unit)
    schema = kind.params.model_json_schema()["properties"]
    inputs = {n: _input_key(n, r, schema[n].get("ref") or _ref_of(schema[n]), run) for n, r in refs_in(params).items()}
    if kind.makes == "body" and kind.target and getattr(params, "operation", "new") == "new":
        inputs.pop(kind.target, None)
    key = step_key(kind, step.id, params, lengths, inputs)
    cached = store.has(key)
    if not cached:
        products = {n: load_product(store.folder(k)) for n, k in inputs.items()}
        outcome = kind.run(params, Inputs(step.id, products, recipe.unit, lengths))

        def write(folder: Any) -> None:
            save_product(outcome.product, folder)
            if isinstance(outcome.product, BodyProduct):
                from contour.job.body_view import body_faces, save_body_view

                save_body_view(outcome.product, folder)
                facts["face_list"] = body_faces(outcome.product)

        facts = dict(outcome.facts)
        store.put(key, {"facts": facts, "problems": [p.model_dump(mode="json") for p in outcome.problems]}, write)
    kept = store.outcome(key)
    problems = tuple(Problem.model_validate(p) for p in kept["problems"])
    problems = tuple(p.model_copy(update={"where": p.where.model_copy(update={"step": step.id})}) for p in problems)
    run.keys[step.id], run.makes[step.id] = key, kind.makes
    if kind.makes == "body":
        target = getattr(params, kind.target, None) if kind.target else None
        body = target.id if target is not None and getattr(params, "operation", "new") != "new" else step.id
        run.bodies[body] = key
        run.history.append((step.id, tuple(run.bodies.values())))
    return StepState(
        id=step.id, kind=step.kind, name=step.name, status="ok", key=key, facts=kept["facts"], problems=problems,
        cached=cached, seconds=round(time.perf_counter() - begun, 4),
    )  # fmt: skip


def _ref_of(schema: dict[str, Any]) -> str:
    """Kind of reference of an optional field, whose hint sits beside or inside its alternatives."""
    for option in schema.get("anyOf", []):
        if "ref" in option:
            return str(option["ref"])
    raise KeyError("the field has no 'ref' hint")


def _target(step: Step) -> str | None:
    """The body that a step changes, by its raw parameters."""
    kind = KINDS.get(step.kind)
    if kind is None or kind.target is None or step.params.get("operation", "new") == "new":
        return None
    ref = step.params.get(kind.target)
    return ref.get("id") if isinstance(ref, dict) else None


def _walk(recipe: Recipe, store: Store, run: _Running, report: Report) -> list[StepState]:
    states = []
    for index, step in enumerate(recipe.steps):
        report({"event": "step", "index": index, "count": len(recipe.steps), "name": step.name, "id": step.id})
        if not step.enabled:
            run.lost[step.id] = f"'{step.name}' is switched off"
            state = StepState(id=step.id, kind=step.kind, name=step.name, status="off")
        else:
            try:
                state = _run_step(step, recipe, store, run)
            except ContourError as error:
                problem = error.at(step=step.id).problem
                status: Status = "blocked" if problem.code == "step-blocked" else "failed"
                run.lost[step.id] = f"'{step.name}' " + ("is blocked itself" if status == "blocked" else "failed")
                body = _target(step)
                if body:
                    # What comes later would build on a body that lacks this step.
                    run.lost[body] = run.lost[step.id]
                state = StepState(id=step.id, kind=step.kind, name=step.name, status=status, problems=(problem,))
        states.append(state)
        report({"event": "step-done", "state": state.model_dump(mode="json")})
    return states


def _fit(
    scan_id: str, scan: PreparedScan, bodies: tuple[str, ...], store: Store, acceptance: float, *, sampled: bool
) -> tuple[str, dict[str, Any]]:
    key = fit_key(scan_id, list(bodies), acceptance) + ("-s" if sampled else "")
    if not store.has(key):
        solids = [load_exact(store.folder(k) / "exact.npz") for k in bodies]
        ids = sample_order(len(scan.vertices)) if sampled else np.arange(len(scan.vertices))
        points = scan.vertices[ids]
        d = deviations(solids, points)
        # A face of the body counts as seen when a scan vertex lies within a few facets of it, or where the fit is poor.
        reach = 3 * scan.edge_mm + 2 * acceptance
        unseen = None if sampled else unseen_share(solids, np.asarray(scan.vertices), reach)
        figures = summarise(
            points, np.asarray(scan.vertex_areas)[ids], d, acceptance_mm=acceptance, unseen=unseen, sampled=sampled
        )
        store.put(key, {"figures": figures.as_json()}, lambda f: np.save(f / "deviation.npy", d.astype(np.float32)))
    return key, store.outcome(key)["figures"]


def build(recipe: Recipe, store: Store, report: Report = lambda _: None, *, with_fit: bool = True) -> BuildResult:
    """Build a recipe. A failed step is in the result with its place; only a broken store raises.

    `report` hears of every step as it starts and ends, of the fit of a fixed sample, then of the full one.
    """
    run = _Running()
    problems: list[Problem] = []
    for evidence in recipe.evidence:
        report({"event": "scan", "name": evidence.name})
        try:
            run.scans[evidence.id] = ensure_scan(store, evidence)
        except ContourError as error:
            run.lost[evidence.id] = f"'{evidence.name}' cannot be read"
            problems.append(error.problem)
    states = _walk(recipe, store, run, report)
    names = {s.id: s.name for s in recipe.steps}
    bodies = []
    for body, key in run.bodies.items():
        facts = store.outcome(key)["facts"]
        bodies.append(
            BodyState(
                id=body,
                name=names[body],
                key=key,
                volume=facts["volume"],
                area=facts["area"],
                faces=tuple(facts["face_list"]),
            )
        )
    result = BuildResult(steps=tuple(states), scans=run.scans, bodies=tuple(bodies), problems=tuple(problems))
    report({"event": "geometry", "result": result.model_dump(mode="json")})
    if not (with_fit and run.bodies and run.scans):
        return result
    evidence_id, scan_id = next(iter(run.scans.items()))
    scan = load_product(store.folder(scan_id)).scan
    acceptance = recipe.acceptance_mm
    now = tuple(run.bodies.values())
    report({"event": "fit", "name": "fit of a sample"})
    key, figures = _fit(scan_id, scan, now, store, acceptance, sampled=True)
    last = run.history[-1][0]
    change = None
    if len(run.history) > 1:
        before = _fit(scan_id, scan, run.history[-2][1], store, acceptance, sampled=True)[1]
        change = figures["inside_share"] - before["inside_share"]
    first = FitState(key=key, scan=evidence_id, figures=figures, last_step=last, change=change)
    report({"event": "fit-sample", "fit": first.model_dump(mode="json")})
    report({"event": "fit", "name": "fit of the whole scan"})
    key, figures = _fit(scan_id, scan, now, store, acceptance, sampled=False)
    return result.model_copy(
        update={"fit": FitState(key=key, scan=evidence_id, figures=figures, last_step=last, change=change)}
    )
