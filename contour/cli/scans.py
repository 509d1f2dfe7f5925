"""The scan that a command names."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from contour.recipe.formula import LENGTH_UNITS

if TYPE_CHECKING:
    from contour.exchange.raw import RawScan
    from contour.mesh.prepare import PreparedScan

__all__ = ["prepared_scan", "unit_of"]


def unit_of(args: argparse.Namespace, raw: RawScan) -> str:
    """The unit that was said, else the file's own, else mm with a warning (once)."""
    if args.unit is None:
        if raw.unit is None:
            print(f"{Path(args.scan).name}: no unit given, taking mm (say --unit mm|cm|m|inch)", file=sys.stderr)
        args.unit = raw.unit or "mm"
    return str(args.unit)


def prepared_scan(args: argparse.Namespace) -> PreparedScan:
    """The scan a command names, in mm and ready to work on."""
    from contour.exchange.scanfile import read_scan
    from contour.mesh.prepare import prepare_scan

    raw = read_scan(Path(args.scan))
    return prepare_scan(raw, LENGTH_UNITS[unit_of(args, raw)])
