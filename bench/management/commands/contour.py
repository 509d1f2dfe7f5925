"""``./run contour …``: the core's commands, and those that need the jobs' database."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from django.core.management import BaseCommand
from django.db import OperationalError

from bench.models import Job
from bench.store import store
from contour.cli import add_core_commands, make_parser, run
from contour.job.build.blobs import blobs_of
from contour.job.build.file import files_folder
from contour.recipe.problem import ContourError
from contour.recipe.recipe import dump_recipe, load_recipe


def _export(args: argparse.Namespace) -> dict[str, Any]:
    try:
        matches = [j for j in Job.objects.select_related("head") if str(j.id).startswith(args.job)]
    except OperationalError:  # no server has run in this folder yet, so there are no tables
        matches = []
    if len(matches) != 1:
        raise ContourError(
            "not-found",
            "no job has this id" if not matches else "several jobs begin with this id",
            got=args.job,
            remedy="take the id from the job's address in the browser",
        )
    head = matches[0].head
    assert head is not None
    out = Path(args.out)
    folder = files_folder(out)
    folder.mkdir(parents=True, exist_ok=True)
    recipe = load_recipe(head.recipe)
    for blob in blobs_of(recipe):
        (folder / blob).write_bytes(store().blob(blob).read_bytes())
    out.write_text(dump_recipe(recipe), encoding="utf-8")
    return {"job": str(matches[0].id), "name": recipe.name, "out": out.name, "evidence": len(recipe.evidence)}


class Command(BaseCommand):
    help = "the command line"

    def run_from_argv(self, argv: list[str]) -> None:
        parser, commands = make_parser()
        add_core_commands(commands)
        export = commands.add_parser("export-job", help="write a job of the browser as JOB.json with JOB.files/")
        export.add_argument("job", metavar="ID")
        export.add_argument("--out", required=True, metavar="JOB.json")
        export.set_defaults(handler=_export)
        sys.exit(run(parser, argv[2:]))
