"""What the shelf shows of a job, kept with its row when it changes: nobody reads recipes and results to list them."""

from __future__ import annotations

import json
from typing import Any

from bench.models import Job, Task
from contour.recipe.recipe import Recipe, load_recipe

__all__ = ["keep_card", "of_recipe", "of_result"]


def of_recipe(recipe: Recipe) -> dict[str, Any]:
    return {
        "name": recipe.name,
        "scans": len(recipe.scans),
        "steps": len(recipe.steps),
        "acceptance_mm": recipe.acceptance_mm,
        "unit": recipe.unit,
    }


def of_result(result: dict[str, Any] | None) -> dict[str, Any]:
    """bodies, how many of them are closed solids, how many steps do not come out, and the share of the scan inside the acceptance, none
    before it is known."""
    found = result or {}
    fit, bodies = found.get("fit"), found.get("bodies", [])
    return {
        "bodies": len(bodies),
        "closed": sum(not b.get("open") for b in bodies),
        "failing": sum(s["status"] in ("failed", "blocked") for s in found.get("steps", [])),
        "inside_share": fit["figures"]["inside_share"] if fit else None,
    }


def keep_card(job: Job) -> None:
    """The card of the job's head, with what its build, or an older one's while it is under way, has found."""
    assert job.head is not None
    done = Task.objects.filter(job=job, kind="build").exclude(result="")
    row = done.filter(revision=job.head).order_by("-changed").first() or done.order_by("-changed").first()
    card = of_recipe(load_recipe(job.head.recipe)) | of_result(json.loads(row.result) if row else None)
    Job.objects.filter(id=job.id).update(card=card)
