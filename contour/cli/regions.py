"""The command that takes a whole scan apart into regions."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

import numpy as np

__all__ = ["add_region_commands"]


def _regions(args: argparse.Namespace) -> dict[str, Any]:
    from contour.cli.scans import prepared_scan
    from contour.fit.segment.whole import Settings
    from contour.job.questions.segmented import regions_of

    scan = prepared_scan(args)
    out, found = regions_of(scan, Settings(coarseness=args.coarseness, least_area=args.least_area))
    if args.labels:
        labels = np.full(scan.raw_facets, -1, np.int32)
        own = scan.source_facet >= 0
        labels[scan.source_facet[own]] = found.labels[own]
        with Path(args.labels).open("wb") as file:  # np.save would add an ending to another name
            np.save(file, labels)
    return out


def add_region_commands(commands: Any, scan_command: Any) -> None:
    """`scan_command` adds a command that takes a scan file and its unit."""
    regions = scan_command(
        commands, "regions", _regions, "planes, cylinders, cones, spheres, tori, threads and freeform regions"
    )
    regions.add_argument(
        "--labels", metavar="OUT.npy", help="int32 per facet in file order, -1 where nothing was found"
    )
    regions.add_argument(
        "--coarseness", type=float, default=1.0, metavar="C", help="factor on the tolerance (default 1)"
    )
    regions.add_argument(
        "--least-area", type=float, metavar="A", help="smallest region, mm² (default: by the facets, 3 at most)"
    )
