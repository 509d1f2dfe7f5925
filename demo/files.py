"""The files that the demo brings in: virtual scans of its parts in mm, and its solids as STEP. Each is made by itself, so that cores can share them."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from contour.exchange.ply_out import write_ply
from contour.exchange.step import write_step
from contour.exchange.stl_out import write_stl
from contour.solid.shape import NamedShape
from demo import pump_housing, side_plate
from demo.bracket import bracket, bracket_scan
from demo.pump_cover import lower_scan, pump_cover, upper_scan

__all__ = ["BRACKET", "COVER", "FILES", "HOUSING", "MODELS", "SIDE_PLATE", "made_file"]

BRACKET, HOUSING, SIDE_PLATE = "rope-guide-bracket.stl", pump_housing.FILE_NAME, side_plate.FILE_NAME
COVER = ("pump-cover-from-above.ply", "pump-cover-from-below.ply")
# The solids that the scans are of, for the virtual scanner to scan again.
MODELS: dict[str, Callable[[], NamedShape]] = {
    "Rope-guide bracket": bracket,
    "Pump cover": pump_cover,
    "Pump housing": pump_housing.pump_housing,
}


def _bracket(path: Path) -> None:
    """Without its unit: such files never say."""
    made = bracket_scan()
    write_stl(path, made.vertices, made.facets)


def _ply(part: str, scan: Callable[[], Any]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        made = scan()
        write_ply(path, [(part, made.vertices, made.facets)])

    return write


def _step(part: str, solid: Callable[[], NamedShape]) -> Callable[[Path], None]:
    return lambda path: write_step(path, [(part, solid().shape, None)], unit="mm")


# What takes longest first: so the cores end together.
FILES: dict[str, Callable[[Path], None]] = {
    HOUSING: _ply("pump housing", pump_housing.housing_scan),
    COVER[0]: _ply("pump cover", upper_scan),
    COVER[1]: _ply("pump cover", lower_scan),
    BRACKET: _bracket,
    **{f"{name}.step": _step(name, solid) for name, solid in MODELS.items()},
    SIDE_PLATE: side_plate.side_plate_step,
}


def made_file(name: str, folder: Path) -> Path:
    """The file of that name in a folder; made where it is not there yet, and there whole or not at all."""
    path = folder / name
    if not path.exists():
        with tempfile.TemporaryDirectory(dir=folder, prefix=".draft-") as draft:
            made = Path(draft) / name
            FILES[name](made)
            made.replace(path)
    return path
