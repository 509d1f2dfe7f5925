"""What an edit would give, before it is made: the job built in passing, coarsely, without keeping anything."""

from __future__ import annotations

import base64
import json
import tempfile
from collections.abc import Callable, Collection
from contextlib import nullcontext
from dataclasses import asdict
from pathlib import Path
from typing import Any

from contour.job.build.build import Report, build
from contour.job.build.remembering import Remembering
from contour.job.build.result import BuildResult
from contour.job.build.store import Store
from contour.job.questions.passing_fit import passing_fit
from contour.products import Extras, load_product
from contour.products.body import save_coarse_view
from contour.recipe.recipe import Recipe
from contour.solid.glance import for_a_picture
from contour.steps import KINDS

__all__ = ["preview", "up_to_scan", "without_slow"]

_told: dict[str, dict[str, dict[str, Any]]] = {}  # by store and key: a child that stands by answers many of these
_LONG_S = 0.3  # of a step below the one being changed: its picture would come too late while a value is typed


class _Passing(Store):
    """Reads what the store has; what is new goes to a folder that will be thrown away."""

    def __init__(self, kept: Store, scratch: Path) -> None:
        super().__init__(scratch)
        # From one key that is pressed to the next the steps above stay as they are.
        self.kept = Remembering(kept, _told.setdefault(str(kept.root.resolve()), {}))
        self.blobs = kept.blobs

    def folder(self, key: str) -> Path:
        own = self.products / key
        return own if own.exists() or not self.kept.has(key) else self.kept.folder(key)

    def put(self, key: str, outcome: dict[str, Any], write: Callable[[Path], object]) -> None:
        """As a store does, without its care for others: nobody else sees this one."""
        place = self.folder(key)
        if place.exists():
            return
        place.mkdir()
        write(place)
        (place / "outcome.json").write_text(json.dumps(outcome))

    def is_new(self, key: str) -> bool:
        return not self.kept.has(key)


def up_to_scan(recipe: Recipe, step_id: str | None) -> Recipe:
    """For a step that changes a scan only what stands above it matters: the rest would be built for nothing."""
    for i, step in enumerate(recipe.steps):
        if step.id == step_id and step.kind in KINDS and KINDS[step.kind].makes == "scan":
            return recipe.model_copy(update={"steps": recipe.steps[: i + 1]})
    return recipe


def without_slow(recipe: Recipe, step_id: str | None, result: BuildResult) -> tuple[Recipe, list[str]]:
    """The recipe with those steps below the one being changed switched off that took long and that a picture can do without: they change
    bodies, begin none, and nothing below speaks of them. With the ids of these."""
    place = next((i for i, s in enumerate(recipe.steps) if s.id == step_id), None)
    if place is None:
        return recipe, []
    states = {s.id: s for s in result.steps}
    out: list[str] = []
    for i, step in enumerate(recipe.steps[place + 1 :], place + 1):
        state, kind = states.get(step.id), KINDS.get(step.kind)
        if not step.enabled or state is None or kind is None or kind.makes != "body" or state.took < _LONG_S:
            continue
        below = json.dumps([s.params for s in recipe.steps[i + 1 :]]) + json.dumps(
            [v.value.text for v in recipe.values]
        )
        begins = any(body.partition(".")[0] == step.id for body in state.after)
        spoken_of = (step.id[:8], step.name, step.name.replace(" ", "_"))  # lasting names begin with the first of them
        if not begins and not any(word in below for word in spoken_of):
            out.append(step.id)
    steps = (s.model_copy(update={"enabled": False}) if s.id in out else s for s in recipe.steps)
    return recipe.model_copy(update={"steps": tuple(steps)}), out


def preview(
    recipe: Recipe,
    store: Store,
    report: Report = lambda _: None,
    *,
    fresh: Collection[str] = (),
    with_fit: bool = False,
) -> dict[str, Any]:
    """Bodies, and scans with their poses, of the recipe: those that the store has by their key, the others with a coarse view as base64, the names
    of its faces, and the places there of those that the `fresh` steps make.

    with_fit: also how they would fit the scan, which takes longer than a picture. Steps that fail are named with their problems; nothing is raised for them.
    """
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        passing = _Passing(store, Path(folder))
        with nullcontext() if with_fit else for_a_picture():
            result: BuildResult = build(
                recipe, passing, report, with_fit=False, extras=Extras(view=False, measure=False, parts=False)
            )
        bodies = []
        for body in result.bodies:
            row: dict[str, Any] = {
                "id": body.id,
                "name": body.name,
                "colour": body.colour,
                "key": body.key,
                "view": None,
                "fresh": [],
                "names": [],
            }
            if passing.is_new(body.key):
                # Only what will be seen is meshed, not what the steps on the way made.
                place = passing.folder(body.key)
                made = load_product(place)
                save_coarse_view(made, place)
                row["names"] = list(made.names)
                row["fresh"] = [k for k, n in enumerate(made.names) if any(f"{id[:8]}." in n for id in fresh)]
                row["view"] = base64.b64encode((place / "view.bin").read_bytes()).decode("ascii")
            bodies.append(row)
        fit = passing_fit(recipe, result, passing) if with_fit else None
        problems = [p.model_dump(mode="json") for s in result.steps if s.status != "ok" for p in s.problems]
    return {
        "bodies": bodies,
        "scans": [
            {"id": e, "key": k, "pose": result.poses[e], "made": passing.is_new(k)} for e, k in result.scans.items()
        ],
        "facts": {
            s.id: s.facts.model_dump(mode="json", exclude_none=True)
            for s in result.steps
            if s.facts is not None and not s.cached
        },
        "handles": {s.id: [asdict(h) for h in s.handles] for s in result.steps if s.handles},
        "problems": problems,
        "fit": fit,
        "ran": [s.id for s in result.steps if s.status == "ok" and not s.cached],
    }
