"""Counts what the core says. Errors: where, what was met, what is needed, what to try. Public functions: a docstring, the shapes of
their arrays, the units of their figures. Run in the lint step: ``python -m tests.said`` prints the shares and ends with 1 where one
is below its floor.
"""

from __future__ import annotations

import ast
import re
import sys
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path

CORE = Path(__file__).parents[1] / "contour"
SAYS = ("where", "got", "need", "remedy")
FLOOR = 95.0  # percent, of each
# Whoever is called by a step, or by a question about a place, does not know which: the caller places the error (``error.at``), which
# tests/job/test_build.py and test_building.py hold for steps.
PLACED_BY_CALLERS = {
    *(
        "construct",
        "fit",
        "geometry",
        "intent",
        "mesh",
        "metrology",
        "outline",
        "present",
        "register",
        "sketch",
        "solid",
    )
}
PLACED_BY_CALLERS_TOO = ("recipe/formula.py", "recipe/problem.py", "job/build/build.py", "job/work/runner.py")

_SHAPE = re.compile(
    r"\(\w+(?: \+ 1)?,[^)]*\)|shape|\brows?\b|one each|per (?:facet|vertex|point)|vector|\bids\b|indices|matrix"
)
_UNIT = re.compile(
    r"\bmm\b|mm²|mm³|degrees?|radians?|pixels?|seconds|inch|share|percent|frame|unit|1/mm|samples|parameters"
)
_NAMES_ITS_UNIT = re.compile(r"_(mm|deg|rad|px|s|share)$")
_ARRAY = re.compile(r"NDArray|\bArray\b|Points|\bIds\b|Facets")


def errors_in(source: str, *, placed_by_callers: bool = False) -> Iterator[set[str]]:
    """What each ``ContourError(…)`` of a module says; one built from another problem says what that says."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "ContourError":
            said = {k.arg for k in node.keywords}
            known = set(SAYS) if None in said else {str(k) for k in said if k in SAYS}
            yield known | {"where"} if placed_by_callers else known


def functions_in(source: str) -> Iterator[dict[str, bool]]:
    """Of each public function: whether it says what it does, its arrays' shapes and its figures' units, where it has any."""
    for f in ast.parse(source).body:
        if not isinstance(f, ast.FunctionDef) or f.name.startswith("_"):
            continue
        text = ast.get_docstring(f) or ""
        taken = [a for a in (*f.args.posonlyargs, *f.args.args, *f.args.kwonlyargs) if a.annotation]
        types = [(a.arg, ast.unparse(a.annotation)) for a in taken if a.annotation]
        if f.returns is not None:
            types.append((f.name, ast.unparse(f.returns)))
        said = {"docstring": bool(text)}
        if any(_ARRAY.search(t) for _, t in types):
            said["shapes"] = bool(_SHAPE.search(text))
        if any(t.startswith("float") and not _NAMES_ITS_UNIT.search(name) for name, t in types):
            said["units"] = bool(_UNIT.search(text))
        yield said


def error_shares(said: Iterable[set[str]]) -> dict[str, float]:
    """Percent of errors that say each of the four."""
    found = list(said)
    counts = Counter(word for each in found for word in each)
    return {word: 100 * counts[word] / max(len(found), 1) for word in SAYS}


def function_shares(said: Iterable[dict[str, bool]]) -> dict[str, float]:
    """Percent of public functions that say each, of those that have to."""
    found = list(said)
    return {
        word: 100 * sum(s.get(word, False) for s in found) / max(sum(word in s for s in found), 1)
        for word in ("docstring", "shapes", "units")
    }


def _placed_by_callers(module: str) -> bool:
    return module.split("/")[0] in PLACED_BY_CALLERS or module in PLACED_BY_CALLERS_TOO


def main() -> int:
    sources = {str(p.relative_to(CORE)): p.read_text() for p in sorted(CORE.rglob("*.py"))}
    errors = error_shares(
        e for name, text in sources.items() for e in errors_in(text, placed_by_callers=_placed_by_callers(name))
    )
    functions = function_shares(f for text in sources.values() for f in functions_in(text))
    print("errors say", ", ".join(f"{word} {share:.0f} %" for word, share in errors.items()))
    print("public functions say", ", ".join(f"{word} {share:.0f} %" for word, share in functions.items()))
    low = {word: share for word, share in (errors | functions).items() if share < FLOOR}
    for word, share in low.items():
        print(f"too few say {word}: {share:.1f} %, at least {FLOOR:.0f} % are to")
    return 1 if low else 0


if __name__ == "__main__":
    sys.exit(main())
