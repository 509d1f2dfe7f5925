"""Counts what errors of the core say: where, what was met, what is needed, what to try. Run in the lint step: a share may rise,
never fall.

``python -m tests.said`` prints the shares and ends with 1 where one is lower than it has been.
"""

from __future__ import annotations

import ast
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).parents[1] / "contour"
# Percent of all errors raised; `where` is often filled in by whoever calls (``error.at``), which is not counted.
FLOORS = {"where": 58, "got": 60, "need": 40, "remedy": 98}


def errors_in(source: str) -> Iterator[set[str]]:
    """What each ``ContourError(…)`` of a module says; one built from another problem says what that says."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "ContourError":
            said = {k.arg for k in node.keywords}
            yield set(FLOORS) if None in said else {str(k) for k in said if k in FLOORS}


def shares(sources: list[str]) -> dict[str, float]:
    """Percent of errors that say each of the four."""
    found = [said for source in sources for said in errors_in(source)]
    counts = Counter(word for said in found for word in said)
    return {word: 100 * counts[word] / max(len(found), 1) for word in FLOORS}


def main() -> int:
    said = shares([p.read_text() for p in sorted(CORE.rglob("*.py"))])
    low = [word for word, floor in FLOORS.items() if said[word] < floor]
    print("errors say", ", ".join(f"{word} {share:.0f} %" for word, share in said.items()))
    for word in low:
        print(f"fewer errors than before say {word}: {said[word]:.1f} %, at least {FLOORS[word]} % did")
    return 1 if low else 0


if __name__ == "__main__":
    sys.exit(main())
