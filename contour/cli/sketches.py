"""The command that solves a drawing in text form."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

__all__ = ["add_sketch_commands"]


def _sketch(args: argparse.Namespace) -> dict[str, Any]:
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.solution import solved
    from contour.sketch.drawn.text import read_drawing

    try:
        drawing = read_drawing(Path(args.drawing).read_bytes())
        found = solved(drawing)
    except ContourError as error:
        raise error.at(file=Path(args.drawing).name) from None
    return {
        "solved": found.solved,
        "dof": found.dof,
        "residual": found.residual,
        "entities": found.drawing.text()["entities"],
        "conflicts": [list(c) for c in found.conflicts],
        "redundant": list(found.redundant),
        "free": found.free,
        "sizes": list(found.sizes),
    }


def add_sketch_commands(commands: Any) -> None:
    """Commands on drawings."""
    made = commands.add_parser("sketch", help="solve a drawing in text form")
    made.add_argument("drawing", metavar="FILE.json", help="entities, constraints and dimensions: see docs/formats.md")
    made.set_defaults(handler=_sketch)
