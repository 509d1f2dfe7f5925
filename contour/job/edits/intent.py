"""Accepting proposals: the one step of a job that holds what was agreed between its regions."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from contour.recipe.formula import LengthUnit, format_length
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, Step

__all__ = ["Agree", "agreed", "take_up"]


class Agree(BaseModel):
    """regions: steps by id · relations: as the intent step keeps them, their members being places in `regions`."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    op: Literal["agree"]
    scan: str
    regions: list[str] = Field(min_length=1, max_length=400)
    relations: list[dict[str, Any]] = Field(min_length=1, max_length=400)


def agreed(proposal: Mapping[str, Any], place: Mapping[int, int], unit: LengthUnit) -> dict[str, Any]:
    """An accepted proposal as the intent step keeps it: its value is intent and remembers what was measured. `place`: of each region's
    number in the step's list."""
    demand = proposal["demand"]
    if demand is None:
        raise ContourError(
            "bad-params",
            "this proposal asks for nothing",
            got=proposal["text"],
            need="a proposal with a relation in it",
            where=Where(param="proposals"),
            remedy="propose again",
        )
    kind, value = demand["kind"], demand["value"]
    row: dict[str, Any] = {
        "kind": kind,
        "members": [place[m] for m in demand["members"]],
        "slots": list(demand["slots"]),
        "count": demand["count"],
        "text": proposal["text"],
        "measured": proposal["measured"],
        "u": proposal["u"],
    }
    if value is None:
        return row
    digits = 3
    if kind in ("angle", "draft"):
        was = f"measured {proposal['measured']:.{digits}f} deg" if proposal["measured"] is not None else ""
        row["angle"] = {"text": f"{round(float(np.degrees(value)), 6):g} deg", "mark": "intent", "note": was}
        return row
    row["diameter"] = proposal["stated"] == "Ø" and kind == "size"
    stated = 2 * value if row["diameter"] or kind == "bolt-circle" else value
    size = {"inch": 25.4}.get(unit, 1.0)
    text = f"{stated / size:.6g} {'inch' if unit == 'inch' else 'mm'}"
    measured, u = proposal["measured"], proposal["u"]
    note = (
        ""
        if measured is None
        else f"measured {format_length(measured, unit)}" + (f" ± {format_length(2 * u, unit)}" if u else "")
    )
    row["size"] = {"text": text, "mark": "intent", "note": note}
    return row


def _same(a: Mapping[str, Any], b: Mapping[str, Any]) -> bool:
    return a["kind"] == b["kind"] and sorted(a["members"]) == sorted(b["members"]) and a.get("size") == b.get("size")


def _joined(step: Step, regions: Sequence[str], relations: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """The step's parameters with more regions and relations; what is agreed already is not said twice."""
    ids = [r["id"] for r in step.params["regions"]]
    ids += [r for r in regions if r not in ids]
    rows = [dict(r) for r in step.params["relations"]]
    for relation in relations:
        new = {**relation, "members": [ids.index(regions[m]) for m in relation["members"]]}
        if not any(_same(new, r) for r in rows):
            rows.append(new)
    return {**step.params, "regions": [{"id": i} for i in ids], "relations": rows}


def take_up(recipe: Recipe, edit: Agree) -> tuple[Recipe, Step]:
    """The recipe with the relations in its intent step, which stands right below the last region that it speaks of."""
    found = next(
        (s for s in recipe.steps if s.kind == "intent" and s.enabled and s.params["scan"]["id"] == edit.scan), None
    )
    if found is not None:
        step = found.model_copy(update={"params": _joined(found, edit.regions, edit.relations)})
    else:
        names = {s.name for s in recipe.steps}
        name = next(n for n in ("Intent", *(f"Intent {k}" for k in range(2, 1000))) if n not in names)
        params = {
            "scan": {"id": edit.scan},
            "regions": [{"id": r} for r in edit.regions],
            "relations": list(edit.relations),
        }
        step = Step(id=str(uuid.uuid4()), kind="intent", name=name, params=params)
    rest = [s for s in recipe.steps if s.id != step.id]
    speaks = {r["id"] for r in step.params["regions"]}
    lowest = max((i for i, s in enumerate(rest) if s.id in speaks), default=len(rest) - 1) + 1
    was = next((i for i, s in enumerate(recipe.steps) if s.id == step.id), None)
    at = lowest if was is None else max(lowest, was)
    steps = (*rest[:at], step, *rest[at:])
    return recipe.model_copy(update={"steps": steps}), step
