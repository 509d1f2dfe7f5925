"""The command that solves a drawing in text form."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from contour.sketch.drawn.text import Drawing

__all__ = ["add_sketch_commands"]


def _fitted(drawing: Drawing, section: Path) -> tuple[Drawing, dict[str, Any]]:
    """The drawing adjusted to a section, sizes with their new values, and what is told of it."""
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.adjust import adjusted
    from contour.sketch.drawn.measured_section import read_section

    try:
        chains = read_section(section.read_bytes(), drawing.frame)
    except ContourError as error:
        raise error.at(file=section.name) from None
    held = [k for k, d in enumerate(drawing.dimensions) if d.held]
    found = adjusted(drawing, chains, held=held)
    sizes = [
        d if k in held or d.reference or d.value is None else d.model_copy(update={"value": s.value})
        for k, (d, s) in enumerate(zip(drawing.dimensions, found.sizes, strict=True))
    ]
    fit = {
        "rms": found.rms,
        "noise": found.noise,
        "used": found.used,
        "left_out": found.left_out,
        "assumed": list(found.assumed),
        "sizes": [{"value": s.value, "u": s.u, "before": s.before, "held": s.held} for s in found.sizes],
    }
    return found.drawing.model_copy(update={"dimensions": tuple(sizes)}), {"fit": fit}


def _sketch(args: argparse.Namespace) -> dict[str, Any]:
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.profiles import profiles_of
    from contour.sketch.drawn.solution import solved
    from contour.sketch.drawn.text import read_drawing

    told: dict[str, Any] = {}
    try:
        drawing = read_drawing(Path(args.drawing).read_bytes())
        if args.fit:
            drawing, told = _fitted(drawing, Path(args.fit))
        found = solved(drawing)
        profiles = profiles_of(found.drawing)
    except ContourError as error:
        raise error.at(file=Path(args.drawing).name) from None
    return {
        **told,
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
    made.add_argument(
        "--fit", metavar="SECTION.json", help="adjust it to a section first, as `section --json` gives it"
    )
    made.set_defaults(handler=_sketch)
