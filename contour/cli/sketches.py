"""The command that solves a drawing in text form."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

__all__ = ["add_sketch_commands"]


def _sketch(args: argparse.Namespace) -> dict[str, Any]:
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.profiles import profiles_of
    from contour.sketch.drawn.solution import solved
    from contour.sketch.drawn.text import read_drawing

    try:
        drawing = read_drawing(Path(args.drawing).read_bytes())
        found = solved(drawing)
        profiles = profiles_of(found.drawing)
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
        "profiles": [
            {
                "area": r.area,
                "pieces": [p.entity for p in r.outer],
                "islands": [[p.entity for p in island] for island in r.islands],
            }
            for r in profiles.regions
        ],
        "gaps": [
            {
                "between": list(g.between),
                "at": list(g.at),
                "width": g.width,
                "mend": g.mend.model_dump(include={"kind", "of"}),
            }
            for g in profiles.gaps
        ],
        "loose": [p.entity for p in profiles.loose],
    }


def add_sketch_commands(commands: Any) -> None:
    """Commands on drawings."""
    made = commands.add_parser("sketch", help="solve a drawing in text form")
    made.add_argument("drawing", metavar="FILE.json", help="entities, constraints and dimensions: see docs/formats.md")
    made.set_defaults(handler=_sketch)
