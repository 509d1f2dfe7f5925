"""The command that turns a modelled mesh into a solid."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

__all__ = ["add_solid_commands"]


def _solidify(args: argparse.Namespace) -> dict[str, Any]:
    from contour.cli.scans import prepared_scan
    from contour.exchange.step import write_step
    from contour.solid.solidify import solidify

    made = solidify(prepared_scan(args), tolerance_mm=args.tolerance)
    write_step(Path(args.out), [(Path(args.scan).stem, made.body.shape, None)], unit="mm")
    return {
        "solids": made.solids,
        "closed": made.closed,
        "valid": made.valid,
        "volume": made.volume if made.closed else None,
        "faces": made.kinds,
        "flat_facets": made.flat,
        "open": [{"place": list(o.place), "width": o.width} for o in made.open],
    }


def add_solid_commands(commands: Any, scan_command: Any) -> None:
    """`scan_command` adds a command that takes a scan file and its unit."""
    made = scan_command(commands, "solidify", _solidify, "a modelled mesh as a solid of exact faces")
    made.add_argument("--out", required=True, metavar="OUT.step", help="where the solid is written")
    made.add_argument(
        "--tolerance", type=float, default=None, metavar="MM", help="how far vertices may lie off their surface, mm"
    )
