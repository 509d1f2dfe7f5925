"""Rebuilding a job: every step that can run runs, only what changed is computed, and the fit follows."""

from __future__ import annotations

import errno
import logging
import time
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import TypeAdapter

from contour.exchange.scanfile import read_scan
from contour.job.build.fit import fit_by_step, measure_fit, probe_values, zone_of
from contour.job.build.health import ensure_health
from contour.job.build.inputs import FoundInputs, checked_params, found_inputs, resolved_values
from contour.job.build.keep import is_kept, keep
from contour.job.build.keys import scan_key, step_key
from contour.job.build.remembering import Remembering
from contour.job.build.result import BodyState, BuildResult, Status, StepState, ValueState, facts_with
from contour.job.build.running import Running
from contour.job.build.scope import Scope, quantities
from contour.job.build.solids import ensure_solid, unit_doubts
from contour.job.build.store import Store
from contour.mesh.health import dropped_facets
from contour.mesh.prepare import load_pose, prepare_scan
from contour.metrology.standards.materials import mass_g
from contour.products import PRODUCTS, Extras, keep_product, load_product
from contour.products.scan import ScanProduct
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.facts import Facts
from contour.recipe.formula import LENGTH_UNITS, Quantity
from contour.recipe.params import plain_leaves
from contour.recipe.problem import ContourError, Problem
from contour.recipe.recipe import Recipe, Step, short_names
from contour.recipe.registry import Feature, Handle, Inputs
from contour.solid.topology.parts import read_topology
from contour.steps import KINDS

__all__ = ["Report", "build", "ensure_scan"]

log = logging.getLogger(__name__)

_EVERYTHING = Extras()
Report = Callable[[dict[str, Any]], None]
_HANDLES = TypeAdapter(tuple[Handle, ...])


def ensure_scan(store: Store, evidence: ScanEvidence) -> str:
    """Key of the prepared scan, preparing it when the store has it no more."""
    key = scan_key(evidence)
    if not store.has(key):
        raw = read_scan(store.whole_blob(evidence.blob, name=evidence.name), name=evidence.name)
        factor = LENGTH_UNITS[evidence.unit]
        scan = prepare_scan(raw, factor)

        dropped = dropped_facets(raw.corners * factor)
        facts = {"facets": len(scan.facets), "dropped": dropped}
        store.put(key, facts, lambda folder: keep_product(ScanProduct(scan), folder, _EVERYTHING))
    return key


def _run_step(step: Step, run: Running) -> StepState:
    begun = time.perf_counter()
    kind, params = checked_params(step)
    resolved = resolved_values(params, run)
    found_in = found_inputs(kind, params, run)
    values = {place: q.value for place, q in resolved.items()}
    key = step_key(kind, step.id, params, values, found_in.said)
    cached = is_kept(run.store, key)

    def read() -> Inputs:
        products = {place: _product(place, k, found_in, run) for place, k in found_in.load.items()}
        names = short_names(run.recipe)
        return Inputs(step.id, products, run.recipe.unit, values, found_in.parts, run.store.read_blob, names)

    run.features[step.id] = lambda: Feature(kind, params, read())
    if not cached:
        outcome = kind.run(params, read())
        keep(key, step.id, outcome, run.store, run.extras, took_s=time.perf_counter() - begun)
    kept = run.store.outcome(key)
    problems = tuple(Problem.model_validate(p) for p in kept["problems"])
    problems = tuple(p.model_copy(update={"where": p.where.model_copy(update={"step": step.id})}) for p in problems)
    run.keys[step.id], run.makes[step.id] = key, kind.makes
    facts = facts_with(kind.facts, kept["facts"], kept.get("about", {}))
    settled: dict[str, dict[str, ValueState]] = {}
    for slot, put in kept["puts"].items():
        state_of = PRODUCTS[put["kind"]].state_of
        if state_of:
            run.states[state_of][slot] = put["key"]
            _take_look(slot, put["key"], run)
        elif slot != step.id:
            settled[slot] = _settle(run.recipe.step(slot), put["key"], facts, run)
    _let_go(kept["gone"], next(iter(kept["puts"]), step.id), step, run)
    if any(PRODUCTS[put["kind"]].state_of == "body" for put in kept["puts"].values()):
        run.history.append((step.id, material(run)))
    found = quantities(kind, facts, resolved)
    run.scope.learn(step, found)
    return StepState(
        id=step.id,
        kind=step.kind,
        name=step.name,
        status="ok",
        key=key,
        facts=facts,
        problems=problems,
        handles=_HANDLES.validate_python(kept.get("handles", ())),
        values={n: _state(q) for n, q in found.items()},
        settled=settled,
        after=dict(run.bodies),
        scans=dict(run.scans),
        cached=cached,
        seconds=round(time.perf_counter() - begun, 4),
        took=kept.get("took", 0.0),
    )


def _product(place: str, key: str, found_in: FoundInputs, run: Running) -> Any:
    """What a reference points to: of one to a step that is to be done again, what that was done with."""
    feature = found_in.features.get(place)
    return run.features[feature]() if feature is not None else load_product(run.store.folder(key))


def _take_look(body: str, key: str, run: Running) -> None:
    """What a body is called, coloured and meant as, by whatever brought it in; what changes it later says nothing of that."""
    about = run.store.outcome(key).get("about", {})
    said = {k: about[k] for k in ("title", "colour", "role") if about.get(k)}
    if said:
        run.looks[body] = {**run.looks.get(body, {}), **said}


def material(run: Running) -> tuple[str, ...]:
    """Keys of the bodies that the scan is measured against: closed ones, which are not there for reference."""
    return tuple(
        key
        for body, key in run.bodies.items()
        if run.looks.get(body, {}).get("role") != "reference"
        and not run.store.outcome(key).get("about", {}).get("open")
    )


def _settle(own: Step, key: str, facts: Facts, run: Running) -> dict[str, ValueState]:
    """From here on a step's product is what another one has settled, under its own id and name."""
    run.keys[own.id] = key
    told = facts.settled(own.id)
    agreed = quantities(KINDS[own.kind], told, {}) if told is not None else {}
    run.scope.learn(own, agreed)
    return {n: _state(q) for n, q in agreed.items()}


def _let_go(gone: list[str], into: str, step: Step, run: Running) -> None:
    """Scans and bodies that went into another one: nothing below can use them any more."""
    for id in gone:
        for what, present in run.states.items():
            if present.pop(id, None) is not None:
                run.lost[id] = f"it went into another {what} in '{step.name}'"
                if what == "scan":
                    run.merged[id] = into


def _state(q: Quantity) -> ValueState:
    return ValueState(value=q.value, length=q.length, angle=q.angle, mark=q.mark)


def _spoilt(step: Step, run: Running) -> set[str]:
    """The bodies that a failed step was to change: what comes later would build on a body that lacks it."""
    if step.params.get("operation") == "new":
        return set()
    kind = KINDS.get(step.kind)
    changes = kind is not None and kind.makes == "body"
    pointed = {leaf.said["id"] for leaf in plain_leaves(step.params) if leaf.what == "ref"}
    if changes and not pointed & set(run.bodies):  # it says what it changes by the parts it changes
        pointed = {leaf.of for leaf in plain_leaves(step.params) if leaf.what == "part"}
    return pointed & set(run.bodies)


def _still_to_do(stage: str, run: Running) -> None:
    """Raises the problem of a stage that has ended a child before: it is not tried again in this build."""
    if stage in run.ended:
        raise ContourError.of(Problem.model_validate(run.ended[stage]))


def _as_problem(raised: Exception) -> ContourError:
    """Whatever a stage raises as a problem. What nobody foresaw goes to the log with its traceback."""
    if isinstance(raised, ContourError):
        return raised
    if isinstance(raised, MemoryError):
        return ContourError(
            "out-of-memory",
            "this needs more memory than one task may take",
            got="all of it taken",
            need="less memory",
            remedy="thin the scan out",
        )
    if isinstance(raised, OSError) and raised.errno in (errno.ENOSPC, errno.EDQUOT):
        return ContourError(
            "no-space",
            "the disk is full, so this could not be kept",
            got="no room left",
            need="room for the products",
            remedy="make room, then change anything: it is built again",
        )
    log.error("a stage of a build failed", exc_info=raised)
    return ContourError(
        "crashed",
        "a fault of the application, not of the part",
        got=f"{type(raised).__name__}: {raised}"[:200],
        need="a step that ends by itself",
        remedy="change its values, or switch it off; the rest of the job is built",
    )


def _walk(run: Running, report: Report) -> list[StepState]:
    states = []
    steps = run.recipe.steps
    for index, step in enumerate(steps):
        report({"event": "step", "index": index, "count": len(steps), "name": step.name, "id": step.id})
        if not step.enabled:
            run.lost[step.id] = f"'{step.name}' is switched off"
            run.scope.passed(step, run.lost[step.id])
            state = StepState(
                id=step.id, kind=step.kind, name=step.name, status="off", after=dict(run.bodies), scans=dict(run.scans)
            )
        else:
            try:
                _still_to_do(step.id, run)
                state = _run_step(step, run)
            except Exception as raised:  # the border of a step: its bug is its own, whatever stands beside it is built
                error = _as_problem(raised)
                error = error.at(step=step.id)
                problem = error.problem
                waits = all(p.code == "step-blocked" for p in (problem, *error.also))
                status: Status = "blocked" if waits else "failed"
                run.lost[step.id] = f"'{step.name}' " + ("is blocked itself" if status == "blocked" else "failed")
                run.scope.passed(step, run.lost[step.id])
                for body in _spoilt(step, run):
                    run.lost[body] = run.lost[step.id]
                state = StepState(
                    id=step.id,
                    kind=step.kind,
                    name=step.name,
                    status=status,
                    problems=(problem, *error.also),
                    after=dict(run.bodies),
                    scans=dict(run.scans),
                )
        states.append(state)
        report({"event": "step-done", "state": state.model_dump(mode="json")})
    return states


def _named_values(run: Running) -> tuple[dict[str, ValueState], list[Problem]]:
    found: dict[str, ValueState] = {}
    problems = []
    for value in run.recipe.values:
        try:
            found[value.id] = _state(run.scope.lookup(value.name))
        except ContourError as error:
            where = error.problem.where.model_copy(update={"value": value.name})
            problems.append(error.problem.model_copy(update={"where": where}))
    return found, problems


def _body_states(run: Running) -> tuple[BodyState, ...]:
    names = {s.id: s.name for s in run.recipe.steps}
    looks = {b.id: b for b in run.recipe.bodies}
    out = []
    for body, key in run.bodies.items():
        about = run.store.outcome(key).get("about", {})
        look, said = looks.get(body), run.looks.get(body, {})
        out.append(
            BodyState(
                id=body,
                name=(look and look.name) or said.get("title") or names[body.partition(".")[0]],
                colour=(look and look.colour) or said.get("colour"),
                role=said.get("role", "material"),
                open=about.get("open", 0),
                key=key,
                volume=about.get("volume", 0.0),
                area=about.get("area", 0.0),
                mass=mass_g(about.get("volume", 0.0), look.density) if look and look.density else None,
                faces=tuple({"name": f["name"], "kind": f["kind"]} for f in _faces_of(key, run)),
            )
        )
    return tuple(out)


def _faces_of(key: str, run: Running) -> list[dict[str, Any]]:
    return read_topology(run.store.folder(key))["faces"] if run.extras.parts else []


def build(
    recipe: Recipe,
    store: Store,
    report: Report = lambda _: None,
    *,
    with_fit: bool = True,
    extras: Extras = _EVERYTHING,
    ended: Mapping[str, Any] | None = None,
) -> BuildResult:
    """Build a recipe. A failed step is in the result with its place; only a broken store raises.

    `ended`: stages (ids of steps and evidence, "health", "fit") that are not tried, with their problems as JSON: they killed
    the process that tried them (see :mod:`contour.job.work.children`).

    `report` hears of every step as it starts and ends, of the fit of a fixed sample, then of the full one, then of
    what each step did to it. `extras`: what is wanted of new products beside themselves.
    """
    store = Remembering(store)
    run = Running(recipe, store, Scope(recipe), extras, ended=ended or {})
    problems: list[Problem] = []
    raw: dict[str, str] = {}
    for evidence in recipe.scans:
        report({"event": "scan", "id": evidence.id, "name": evidence.name})
        try:
            _still_to_do(evidence.id, run)
            run.scans[evidence.id] = ensure_scan(store, evidence)
            raw[evidence.id] = run.scans[evidence.id]
        except Exception as raised:  # the border of an evidence file
            run.lost[evidence.id] = f"'{evidence.name}' cannot be read"
            problems.append(_of_file(_as_problem(raised).problem, evidence.name))
    for solid in recipe.solids:
        report({"event": "scan", "id": solid.id, "name": solid.name})
        try:
            _still_to_do(solid.id, run)
            run.states["solid"][solid.id] = ensure_solid(store, solid)
        except Exception as raised:  # the border of an evidence file
            run.lost[solid.id] = f"'{solid.name}' cannot be read"
            problems.append(_of_file(_as_problem(raised).problem, solid.name))
    problems += unit_doubts(run)
    states = _walk(run, report)
    values, in_trouble = _named_values(run)
    poses = {e: load_pose(store.folder(k)).tolist() for e, k in run.scans.items()}
    result = BuildResult(
        steps=tuple(states),
        raw=raw,
        solids=dict(run.states["solid"]),
        scans=run.scans,
        poses=poses,
        merged=run.merged,
        bodies=_body_states(run),
        values=values,
        problems=(*problems, *in_trouble),
    )
    report({"event": "geometry", "result": result.model_dump(mode="json")})
    if with_fit:
        for stage in (_with_health, _with_fit):
            result = _unless_it_fails(stage, result, run, report)
    return result


def _of_file(problem: Problem, name: str) -> Problem:
    """A problem of a file of the job, by the name its owner knows."""
    return problem.model_copy(update={"where": problem.where.model_copy(update={"file": problem.where.file or name})})


def _unless_it_fails(
    stage: Callable[[BuildResult, Running, Report], BuildResult], result: BuildResult, run: Running, report: Report
) -> BuildResult:
    """What is worked out beside the geometry may fail without taking it along."""
    name = stage.__name__.removeprefix("_with_")
    try:
        _still_to_do(name, run)
        return stage(result, run, report)
    except Exception as raised:  # the border of a stage
        problem = _as_problem(raised).problem
        problem = problem.model_copy(update={"message": f"the scan's {name} is not known: {problem.message}"})
        return result.model_copy(update={"problems": (*result.problems, problem)})


def _with_health(result: BuildResult, run: Running, report: Report) -> BuildResult:
    report({"event": "health", "name": "looking for defects of the scans"})
    health = {
        e.id: ensure_health(run.store, run.scans[e.id], load_product(run.store.folder(run.scans[e.id])).scan, e)
        for e in run.recipe.scans
        if e.id in run.scans
    }
    result = result.model_copy(update={"health": health})
    report({"event": "geometry", "result": result.model_dump(mode="json")})
    return result


def _with_fit(result: BuildResult, run: Running, report: Report) -> BuildResult:
    recipe, store = run.recipe, run.store
    part = next((e for e in recipe.scans if e.role == "part" and e.id in run.scans), None)
    if not run.bodies or part is None:
        return result
    evidence_id, scan_id = part.id, run.scans[part.id]
    scan = load_product(store.folder(scan_id)).scan
    zone = zone_of(part, scan, store)
    now = material(run)
    if not now:
        return result
    report({"event": "fit", "name": "fit of a sample"})
    first = measure_fit(evidence_id, scan_id, scan, now, store, recipe.acceptance_mm, sampled=True, zone=zone)
    report({"event": "fit-sample", "fit": first.model_dump(mode="json")})
    report({"event": "fit", "name": "fit of the whole scan"})
    fit = measure_fit(evidence_id, scan_id, scan, now, store, recipe.acceptance_mm, sampled=False, zone=zone)
    fit = fit.model_copy(update={"probes": probe_values(recipe, evidence_id, scan, fit.key, store)})
    report({"event": "fit-whole", "fit": fit.model_dump(mode="json")})
    report({"event": "fit", "name": "fit after each step"})
    by_step = fit_by_step(run.history, scan_id, scan, store, recipe.acceptance_mm, zone)
    return result.model_copy(update={"fit": fit.model_copy(update={"by_step": by_step})})
