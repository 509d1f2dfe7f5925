"""Step kinds and jobs in words: for the command line, and for the reference in docs/step-kinds.md."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from contour.job.build.file import load_job_file
from contour.job.build.inputs import checked_params
from contour.job.build.scope import Scope
from contour.metrology.reading import all_readings
from contour.products import part_label
from contour.recipe.fields import FieldSpec, fields_of
from contour.recipe.formula import format_length
from contour.recipe.params import dimension_at, refs_in, values_in
from contour.recipe.problem import ContourError
from contour.recipe.recipe import short_names
from contour.recipe.reference import PartRef
from contour.steps import KINDS

__all__ = ["kinds_reference", "show_job", "step_kinds"]


def step_kinds() -> list[dict[str, Any]]:
    """Every kind with its fields, and its parameters' JSON Schema for whoever writes recipes by hand."""
    return [
        {
            "kind": k.id,
            "title": k.title,
            "help": k.help,
            "version": k.version,
            "makes": k.makes,
            "key_value": k.key_value,
            "measures": dict(k.measures),
            "fields": [f.model_dump(mode="json") for f in fields_of(k.params, k.key_value)],
            "parameters": k.params.model_json_schema(),
        }
        for k in sorted(KINDS.values(), key=lambda k: k.id)
    ]


_TAKES = {"facets": "facets picked by hand", "rows": "rows", "switch": "yes or no", "other": "see the schema"}


def _takes(f: FieldSpec) -> str:
    """What a field takes, in a word."""
    if f.dimension:
        return f"{f.dimension}{'s' if f.type == 'rows' else ''}"
    if f.reference:
        return f"list of {f.reference}" if f.type == "refs" else f.reference
    return " · ".join(f"`{o}`" for o in f.options) if f.type == "choice" else _TAKES.get(f.type, f.type)


def _rows(fields: Sequence[FieldSpec], before: str = "") -> Iterator[str]:
    for f in fields:
        default = "needed" if f.needed else f.fallback
        default = default.get("text") if isinstance(default, dict) else default
        when = "; ".join(f"with {k} {' or '.join(map(str, v))}" for k, v in f.when.items()).lower()
        meaning = f.help + (f" ({when})" if when else "")
        yield f"| `{before}{f.name}` | {f.label} | {_takes(f)} | {'none' if default is None else default} | {meaning} |"
        yield from _rows(f.fields, f"{before}{f.name}{'[]' if f.type == 'rows' else ''}.")


def kinds_reference() -> str:
    """The reference as Markdown, made from the declarations alone."""
    lines = [
        "# Step kinds",
        "",
        "Made by `./run contour steps --markdown` from the kinds' own declarations; a test keeps it fresh.",
        "Lengths, angles and numbers take formulas. Values a kind measures can be used in formulas as `step_name.value`.",
        "",
    ]
    for kind in sorted(KINDS.values(), key=lambda k: k.id):
        about = (kind.params.__doc__ or "").replace("\n", " ") if kind.params.__doc__ != BaseModel.__doc__ else ""
        lines += [
            f"## {kind.title} (`{kind.id}`)",
            "",
            f"{kind.help}. Makes a {kind.makes}.",
            "",
            " ".join(about.split()),
            "",
        ]
        lines += ["| parameter | shown as | takes | default | meaning |", "|---|---|---|---|---|"]
        lines += _rows(fields_of(kind.params, kind.key_value))
        if kind.measures:
            lines += ["", "Measures: " + ", ".join(f"`{n}` ({d})" for n, d in kind.measures.items()) + "."]
        lines.append("")
    return "\n".join(lines)


def _value(place: str, model: Any, value: Any, recipe: Any, scope: Scope) -> dict[str, Any]:
    row: dict[str, Any] = {"place": place, "text": value.text, "mark": value.mark, "note": value.note}
    try:
        q = value.resolve(dimension_at(model, place), recipe.unit, scope.lookup)
        row |= {"value": q.value, "mark": q.mark}
    except ContourError as error:
        row |= {"value": None, "problem": error.problem.line()}
    return row


def show_job(path: Path) -> dict[str, Any]:
    """A job file's evidence, named values and steps with the provenance of every value; nothing is built, so that values
    of steps that formulas refer to are only known as far as they were typed.

    Raises ContourError (file-missing, bad-recipe).
    """
    recipe = load_job_file(path)
    scope = Scope(recipe)
    names = {s.id: s.name for s in recipe.steps} | {s.id: s.name for s in recipe.scans}
    short = short_names(recipe)
    steps = []
    for number, step in enumerate(recipe.steps, 1):
        row: dict[str, Any] = {"number": number, "name": step.name, "kind": step.kind, "enabled": step.enabled}
        row |= {k: v for k, v in (("note", step.note), ("group", step.group)) if v}
        found = {}
        try:
            kind, params = checked_params(step)
            row["values"] = [_value(p, kind.params, v, recipe, scope) for p, v in values_in(params).items()]
            row["refers_to"] = {
                place: part_label(r, short) if isinstance(r, PartRef) else names.get(r.id, f"lost: {r.id[:8]}")
                for place, r in refs_in(params).items()
            }
            for p, v in values_in(params).items():
                try:
                    found[p] = v.resolve(dimension_at(kind.params, p), recipe.unit, scope.lookup)
                except ContourError:
                    continue
        except ContourError as error:
            row["problem"] = error.problem.line()
        scope.learn(step, found)
        steps.append(row)
    readings = []
    known = all_readings(recipe)
    for reading in recipe.readings:
        facts = known.get(reading.id)
        text = "no takes" if facts is None else f"{facts.mean:.4f}" + ("" if facts.u is None else f" ± {facts.u:.4f}")
        readings.append({"name": reading.name, "takes": len(reading.takes), "mean": text, "note": reading.note})
    values = []
    for value in recipe.values:
        row = {"name": value.name, "text": value.value.text, "mark": value.value.mark}
        try:
            q = scope.lookup(value.name)
            row |= {"value": q.value, "mark": q.mark}
        except ContourError as error:
            row |= {"value": None, "problem": error.problem.line()}
        values.append(row)
    return {
        "name": recipe.name,
        "unit": recipe.unit,
        "acceptance": format_length(recipe.acceptance_mm, recipe.unit),
        "scans": [{"name": s.name, "unit": s.unit} for s in recipe.scans],
        "readings": readings,
        "values": values,
        "steps": steps,
    }
