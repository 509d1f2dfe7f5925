"""``python -m tests.touched [BASE]``: the test files that a change touches, one a line. The change is what is not committed, or, with a base, all since then.

A test is touched that was changed itself or imports what was changed, over a few modules at most: beyond that nearly all tests hang on nearly everything.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

import grimp

__all__ = ["module_of", "touched"]

ROOT = Path(__file__).resolve().parents[1]
_PACKAGES = ("contour", "bench", "demo", "benchmarks", "tests")
_STEPS = 3  # of imports between a test and what was changed
_TOO_MANY = 60  # test files: by then the whole suite says more


def module_of(path: str) -> str | None:
    """A file's module, where it is one of ours.

    >>> module_of("contour/solid/__init__.py"), module_of("contour/solid/mass.py"), module_of("docs/x.md")
    ('contour.solid', 'contour.solid.mass', None)
    """
    parts = path.removesuffix(".py").split("/")
    if not path.endswith(".py") or parts[0] not in _PACKAGES:
        return None
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def touched(changed: Iterable[str]) -> list[str]:
    """Test files by paths from the root, nearest to the change first, at most as many as make sense."""
    graph = grimp.build_graph(*_PACKAGES, cache_dir=None)
    found: dict[str, None] = {}
    near = [m for path in changed if (m := module_of(path)) in graph.modules]
    # Kinds of steps are found by themselves: nothing imports them, and their tests are named after them.
    kinds = [m.rsplit(".", 1)[1] for m in near if m and m.startswith("contour.steps.")]
    seen: set[str] = set()
    for _ in range(_STEPS + 1):
        for module in near:
            if module and module.startswith("tests.") and module.rsplit(".", 1)[1].startswith("test_"):
                found.setdefault(module.replace(".", "/") + ".py")
        seen |= {m for m in near if m}
        near = [n for m in near if m for n in graph.find_modules_that_directly_import(m) if n not in seen]
    for kind in kinds:
        own = sorted((ROOT / "tests/steps").glob(f"test_*{kind}*.py"))
        found |= dict.fromkeys(f"tests/steps/{p.name}" for p in own)
    if kinds:
        found.setdefault("tests/steps/test_all_kinds.py")
    if any(path.startswith(("docs/", "README")) for path in changed):
        found.setdefault("tests/test_docs.py")
    return [f for f in found if (ROOT / f).exists() and not f.startswith("tests/browser/")][:_TOO_MANY]


def _changed(base: str | None) -> list[str]:
    def git(*args: str) -> list[str]:
        return subprocess.run(("git", *args), cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()

    since = git("diff", "--name-only", base or "HEAD")
    return since + git("ls-files", "--others", "--exclude-standard")


if __name__ == "__main__":
    print("\n".join(touched(_changed(sys.argv[1] if len(sys.argv) > 1 else None))))
