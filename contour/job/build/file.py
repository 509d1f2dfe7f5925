"""A job as a file: JOB.json with its evidence beside it in JOB.files/."""

from __future__ import annotations

import re
from pathlib import Path

from contour.recipe.problem import ContourError, Where
from contour.recipe.recipe import Recipe, load_recipe

__all__ = ["files_folder", "load_job_file", "name_of", "safe_name"]


def files_folder(job: Path) -> Path:
    """``bracket.json`` keeps its evidence in ``bracket.files``."""
    return job.with_suffix(".files")


def safe_name(name: str) -> str:
    """A file name that every system takes."""
    return re.sub(r"[^\w.-]+", "-", name, flags=re.ASCII).strip("-.") or "job"


def name_of(recipe: Recipe, blob: str) -> str:
    """What a file of a job is to its owner."""
    return next((f"the evidence '{e.name}'" for e in recipe.scans if e.blob == blob), "facets picked by hand")


def load_job_file(job: Path) -> Recipe:
    """The recipe of a job file; raises ContourError (file-missing, bad-recipe)."""
    if not job.is_file():
        raise ContourError(
            "file-missing",
            "there is no such job file",
            where=Where(file=job.name),
            got="no file",
            need="a job file that is there",
            remedy="check the path",
        )
    try:
        text = job.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise ContourError(
            "file-not-understood",
            "this is no job file",
            where=Where(file=job.name),
            need="a JSON file that export-job has written",
            got="bytes that are no text",
            remedy="export the job again",
        ) from None
    return load_recipe(text, file=job.name)
