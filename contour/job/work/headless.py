"""A job file built without browser or database: JOB.json with its evidence beside it in JOB.files/."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from contour.job.build.blobs import blobs_of
from contour.job.build.file import files_folder, load_job_file, name_of, safe_name
from contour.job.build.keys import blob_hash
from contour.job.build.result import deliverable
from contour.job.build.store import Store
from contour.job.edits.variants import variant_of, with_variant
from contour.job.work.children import build_in_children
from contour.job.work.runner import run_in_child
from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, wired_recipe

__all__ = ["adopt_files", "build_job_file"]


def adopt_files(recipe: Recipe, job: Path, store: Store) -> None:
    """The job's evidence and picked facets, from beside its file into the store. Raises ContourError (file-missing, bad-recipe)."""
    for blob in blobs_of(recipe):
        path = files_folder(job) / blob
        if not path.is_file():
            raise ContourError(
                "file-missing",
                f"a file of the job is missing: {name_of(recipe, blob)}",
                where=Where(file=path.name),
                need=f"the file in {path.parent.name}/",
                got="no file",
                remedy="export the job again with its files",
            )
        data = path.read_bytes()
        if blob_hash(data) != blob:
            raise ContourError(
                "bad-recipe",
                f"{name_of(recipe, blob)} has changed since the job was exported",
                where=Where(file=path.name),
                got="other bytes",
                need="the very bytes that were exported",
                remedy="export the job again",
            )
        store.put_blob(data)


def build_job_file(job: Path, out: Path, variant: str | None = None) -> dict[str, Any]:
    """Build `job`, or the variant of it with that name, and write its bodies as STEP and STL into `out`.

    Returns per-step status and problems, bodies with volume and face names, the fit, and the files written.
    Raises ContourError (file-missing, bad-recipe) when the job cannot be read at all, (not-found) for a variant it does not have.
    """
    recipe = load_job_file(job)
    if variant is not None:
        recipe = with_variant(recipe, variant_of(recipe, variant))
        recipe = recipe.model_copy(update={"name": f"{recipe.name}, {variant}"[:200]})
    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        store = Store(Path(folder))
        adopt_files(recipe, job, store)
        payload = {"recipe": wired_recipe(recipe), "store": folder}
        result = build_in_children(payload)
        files = []
        bodies = deliverable(result)
        if bodies:
            unit = "inch" if recipe.unit == "inch" else "mm"
            base = {"store": folder, "bodies": bodies, "unit": unit}
            step, stl = out / f"{safe_name(recipe.name)}.step", out / f"{safe_name(recipe.name)}.stl"
            run_in_child("export-step", {**base, "out": str(step)})
            run_in_child("export-mesh", {**base, "out": str(stl), "chord_mm": 0.05, "angle_deg": 20.0})
            files = [step.name, stl.name]
    fit = result["fit"]
    return {
        "name": recipe.name,
        "steps": [{k: s[k] for k in ("id", "kind", "name", "status", "facts", "problems")} for s in result["steps"]],
        "bodies": [{k: b[k] for k in ("id", "name", "volume", "area", "faces")} for b in result["bodies"]],
        "fit": None if fit is None else fit["figures"],
        "problems": result["problems"],
        "files": files,
    }
