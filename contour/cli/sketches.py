"""The commands on drawings: solve one in text form, adjust it to a section, write it as a flat file, read it from one."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from contour.recipe.formula import LENGTH_UNITS

if TYPE_CHECKING:
    from contour.exchange.flat.shapes import Piece
    from contour.sketch.drawn.adjust import Adjusted
    from contour.sketch.drawn.text import Drawing

__all__ = ["add_flat_options", "add_sketch_commands", "write_flat"]


def _fitted(drawing: Drawing, evidence: Path) -> tuple[Drawing, dict[str, Any]]:
    """The drawing adjusted to a section, or to a picture and how it lies; sizes with their new values, and what is told of it."""
    from dataclasses import replace

    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.adjust import adjusted
    from contour.sketch.drawn.measured_picture import is_picture, read_picture_under
    from contour.sketch.drawn.measured_section import read_section
    from contour.sketch.drawn.picture_fit import fitted_to_edges
    from contour.sketch.drawn.solution import solved

    held = [k for k, d in enumerate(drawing.dimensions) if d.held]
    try:
        data = evidence.read_bytes()
        if is_picture(data):
            under = read_picture_under(data, evidence.parent)

            def fit(chains: Sequence[Any]) -> tuple[Adjusted, Drawing]:
                made = adjusted(drawing, chains, held=held)
                return made, made.drawing

            begun = solved(drawing).drawing
            found, _ = fitted_to_edges(begun, under.pixels, under.laid, fit, lines=under.lines)
            angles = [d.kind == "angle" for d in drawing.dimensions]
            wide = [
                replace(s, u=under.source.widened(s.value, s.u, angle=a))
                for s, a in zip(found.sizes, angles, strict=True)
            ]
            found = replace(found, sizes=tuple(wide))
        else:
            found = adjusted(drawing, read_section(data, drawing.frame), held=held)
    except ContourError as error:
        raise error.at(file=evidence.name) from None
    sizes = [
        d if k in held or d.reference or d.value is None else d.model_copy(update={"value": s.value})
        for k, (d, s) in enumerate(zip(drawing.dimensions, found.sizes, strict=True))
    ]
    told = {
        "rms": found.rms,
        "noise": found.noise,
        "used": found.used,
        "left_out": found.left_out,
        "assumed": list(found.assumed),
        "sizes": [{"value": s.value, "u": s.u, "before": s.before, "held": s.held} for s in found.sizes],
    }
    return found.drawing.model_copy(update={"dimensions": tuple(sizes)}), {"fit": told}


def _sketch(args: argparse.Namespace) -> dict[str, Any]:
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.filed import pieces_of
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
    write_flat(args, pieces_of(found.drawing))
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


def write_flat(args: argparse.Namespace, pieces: list[Piece]) -> None:
    """What --dxf and --svg ask for. Raises ContourError (file-missing) where it cannot be written there."""
    from contour.exchange.flat.flat_file import flat_text

    for kind in ("dxf", "svg"):
        path = getattr(args, kind)
        if path is None:
            continue
        _write(path, flat_text(kind, pieces))


def _write(path: str, text: str) -> None:
    """Raises ContourError (file-missing) where it cannot be written there."""
    from contour.recipe.problem import ContourError, Where

    try:
        Path(path).write_text(text, encoding="utf-8")
    except OSError as error:
        raise ContourError(
            "file-missing",
            "the file cannot be written there",
            where=Where(file=Path(path).name),
            got=error.strerror or str(error),
            need="a folder that is there and may be written to",
            remedy="choose another place",
        ) from None


def add_flat_options(command: argparse.ArgumentParser) -> None:
    """--dxf and --svg."""
    command.add_argument("--dxf", metavar="OUT", help="write it as DXF too, in mm")
    command.add_argument("--svg", metavar="OUT", help="write it as SVG too, in mm")


def _sketch_in(args: argparse.Namespace) -> dict[str, Any]:
    from contour.recipe.problem import ContourError
    from contour.sketch.drawn.file_reading import Choice, read_sheet, require_unit
    from contour.sketch.drawn.text import Drawing

    path = Path(args.file)
    layers = frozenset(args.layer) if args.layer else None
    read = read_sheet(path, Choice(args.unit, layers, args.blocks))
    require_unit(read, path.name)
    if read.refused is not None:
        raise ContourError.of(read.refused)
    drawing = Drawing(entities=read.entities)
    _write(args.out, json.dumps(drawing.text(), indent=1))
    return {
        "entities": read.pieces,
        "unit_mm": read.unit_mm,
        "layers": [{"name": n.name, "pieces": n.pieces, "hidden": n.hidden} for n in read.layers],
        "left_out": [
            {"kind": o.kind, "layer": o.layer, "why": o.why, "at": list(o.at) if o.at else None, "count": o.count}
            # The text form has no room for what lies under a drawing.
            for o in (*read.left_out, *read.aside)
        ],
        "under": {
            "texts": [{"text": t.text, "at": list(t.at)} for t in read.under.texts] if read.under else [],
            "lines": len(read.under.lines) if read.under else 0,
        },
    }


def add_sketch_commands(commands: Any) -> None:
    """Commands on drawings."""
    made = commands.add_parser("sketch", help="solve a drawing in text form")
    made.add_argument("drawing", metavar="FILE.json", help="entities, constraints and dimensions: see docs/formats.md")
    made.add_argument(
        "--fit",
        metavar="EVIDENCE.json",
        help="adjust it first to a section, as `section --json` gives it, or to a picture: see docs/formats.md",
    )
    made.set_defaults(handler=_sketch)
    add_flat_options(made)
    read = commands.add_parser("sketch-in", help="a DXF or SVG file as a drawing in text form")
    read.add_argument("file", metavar="FILE", help="DXF or SVG")
    read.add_argument("--unit", choices=sorted(LENGTH_UNITS), help="unit of the file, whatever it says itself")
    read.add_argument("--layer", action="append", metavar="NAME", help="only that layer; may be given several times")
    read.add_argument("--blocks", action="store_true", help="what is drawn in blocks becomes pieces too")
    read.add_argument("--out", required=True, metavar="FILE.json", help="the drawing in text form: see docs/formats.md")
    read.set_defaults(handler=_sketch_in)
