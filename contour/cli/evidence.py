"""Commands for scans as evidence: mend, align, scan."""

from __future__ import annotations

import argparse
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from contour.check.exact_distance import signed_distances
from contour.cli.child import in_child
from contour.recipe.formula import LENGTH_UNITS
from contour.recipe.problem import ContourError, Where

__all__ = ["add_evidence_commands"]


def _numbers(text: str, count: tuple[int, ...], name: str) -> list[float]:
    try:
        values = [float(t) for t in text.split(",")]
    except ValueError:
        values = []
    if len(values) not in count or not np.isfinite(values).all():
        raise ContourError(
            "bad-params",
            f"{name} needs {' or '.join(map(str, count))} numbers with commas between",
            got=text[:60],
            where=Where(param=name),
            need="numbers with commas between",
            remedy="give them as the help says",
        )
    return values


def _out(text: str) -> Path:
    from contour.exchange.mesh_out import MESH_FORMATS

    path = Path(text)
    if path.suffix.lower().lstrip(".") not in MESH_FORMATS:
        raise ContourError(
            "bad-params",
            "the output's ending names no mesh format",
            where=Where(file=path.name),
            need=", ".join(MESH_FORMATS),
            got=path.suffix or "no ending",
            remedy="name the file .stl, .obj, .ply or .3mf",
        )
    return path


def _mend(args: argparse.Namespace) -> dict[str, Any]:
    from contour.cli.scans import unit_of
    from contour.exchange.mesh_out import write_mesh
    from contour.exchange.scanfile import read_scan
    from contour.mesh.defects import raw_defects
    from contour.mesh.facets import mesh_of_soup
    from contour.mesh.mend import mend_all, require_mended

    out = _out(args.out)
    path = Path(args.scan)
    raw = read_scan(path)
    factor = LENGTH_UNITS[unit_of(args, raw)]
    mesh = mesh_of_soup(raw.corners * factor, raw.facet_ids)
    before = raw_defects(mesh)
    work, left = mend_all(mesh, holes=args.fill_holes)
    require_mended(mesh, work, left, holes=args.fill_holes, file=path.name)
    write_mesh(out, [(path.stem, work.mesh.vertices / factor, work.mesh.facets)], unit=unit_of(args, raw))
    # Counted on what was written: single precision can bring back what was gone.
    after = raw_defects(_read_back(out, factor))

    def counts(defects: Any) -> dict[str, int]:
        return {d.kind: d.count for d in defects}

    return {
        "done": [c.as_json() for c in work.done],
        "facets_before": raw.facets_read,
        "facets_after": len(work.mesh.facets),
        "before": counts(before),
        "after": counts(after),
        "blocking": sorted(d.kind for d in after if d.blocking),
        "largest_movement": work.moved,
        "file": out.name,
    }


def _read_back(path: Path, factor: float) -> Any:
    from contour.exchange.scanfile import read_scan
    from contour.mesh.facets import mesh_of_soup

    raw = read_scan(path)
    return mesh_of_soup(raw.corners * factor, raw.facet_ids)


@in_child("to")
def _align(args: argparse.Namespace) -> dict[str, Any]:
    from contour.check.exact_arrays import exact_arrays
    from contour.cli.scans import prepared_scan
    from contour.exchange.mesh_out import write_mesh
    from contour.geometry.rigid import moved
    from contour.register.best_fit import best_fit
    from contour.solid.from_file import read_shape_file

    out = _out(args.out)
    scan = prepared_scan(args)
    solid = exact_arrays(read_shape_file(Path(args.to)))
    fit = best_fit(
        scan.vertices,
        scan.facets,
        solid,
        partial(signed_distances, solid),
        noise_mm=scan.noise_mm,
        acceptance_mm=args.tolerance,
    )
    write_mesh(out, [(Path(args.scan).stem, moved(fit.matrix, scan.vertices), scan.facets)])
    return {
        "matrix": fit.matrix.tolist(),
        "rms": fit.rms,
        "p95": fit.p95,
        "inside_share": fit.inside_share,
        "file": out.name,
    }


def _views(args: argparse.Namespace) -> tuple[tuple[float, float, float], ...]:
    from contour.simulate.scanner import turntable

    views: list[tuple[float, float, float]] = []
    for text in args.view or ():
        x, y, z = _numbers(text, (3,), "--view")
        if x == y == z == 0:
            raise ContourError(
                "bad-params",
                "a direction of no length",
                where=Where(param="--view"),
                got=text,
                need="a direction of some length",
                remedy="give a direction such as 0,0,1",
            )
        views.append((x, y, z))
    if args.turntable:
        views += turntable(args.turntable, tuple(_numbers(args.elevations, tuple(range(1, 20)), "--elevations")))
    return tuple(views)


@in_child("solid")
def _scan(args: argparse.Namespace) -> dict[str, Any]:
    from contour.check.exact_arrays import exact_arrays
    from contour.exchange.mesh_out import write_mesh
    from contour.simulate.scanner import Pose, ScanSettings, Wear, require_settings, virtual_scan
    from contour.solid.from_file import read_shape_file

    out = _out(args.out)
    worn = []
    for text in args.wear or ():
        x, y, z, radius, depth = _numbers(text, (5,), "--wear")
        worn.append(Wear((x, y, z), radius, depth))
    dropouts = []
    for text in args.dropout or ():
        x, y, z, radius = _numbers(text, (4,), "--dropout")
        dropouts.append(((x, y, z), radius))
    pose = _numbers(args.pose, (6,), "--pose") if args.pose else [0.0] * 6
    settings = ScanSettings(
        spacing_mm=args.spacing,
        noise_mm=args.noise,
        soften=args.soften,
        views=_views(args),
        dropouts=tuple(dropouts),
        deep=args.deep,
        worn=tuple(worn),
        pose=Pose((pose[0], pose[1], pose[2]), (pose[3], pose[4], pose[5])),
        seed=args.seed,
    )
    solid = exact_arrays(read_shape_file(Path(args.solid)))
    require_settings(settings, solid)
    made = virtual_scan(solid, settings)
    if len(made.facets) == 0:
        raise ContourError(
            "no-facets",
            "the scanner saw nothing",
            got="0 facets",
            need="a view with some of the part in it",
            where=Where(param="--view"),
            remedy="look from more directions",
        )
    count = write_mesh(out, [(Path(args.solid).stem, made.vertices, made.facets)])
    if args.labels:
        np.save(args.labels, made.true_face.astype(np.int32))
    return {
        "facets": count,
        "vertices": len(made.vertices),
        "faces_seen": len(np.unique(made.true_face)),
        "faces": len(solid.face_kind),
        "file": out.name,
    }


def add_evidence_commands(commands: Any, scan_command: Any) -> None:
    """`scan_command` adds a command that takes a scan file and its unit."""
    mend = scan_command(commands, "mend", _mend, "mend what blocks in a scan")
    mend.add_argument("--out", required=True, metavar="FILE", help="STL, OBJ, PLY or 3MF, in the scan's unit")
    mend.add_argument("--fill-holes", action="store_true", help="close every hole too, following the curvature")
    align = scan_command(commands, "align", _align, "lay a scan on a solid, from any starting pose")
    align.add_argument("--to", required=True, metavar="SOLID.step")
    align.add_argument("--out", required=True, metavar="FILE", help="the scan in the solid's frame, mm")
    align.add_argument(
        "--tolerance", type=float, default=0.1, metavar="T", help="acceptance of inside_share, mm (default 0.1)"
    )
    scan = commands.add_parser("scan", help="the virtual scanner: facets of a solid as a scanner would deliver them")
    scan.add_argument("solid", metavar="SOLID.step")
    scan.add_argument("--out", required=True, metavar="FILE")
    scan.add_argument("--labels", metavar="OUT.npy", help="the solid's face of every facet, in file order")
    scan.add_argument("--spacing", type=float, default=0.8, metavar="S", help="facet side, mm (default 0.8)")
    scan.add_argument(
        "--noise", type=float, default=0.03, metavar="N", help="sigma along the normal, mm (default 0.03)"
    )
    scan.add_argument("--soften", type=int, default=2, metavar="K", help="smoothing rounds (default 2)")
    scan.add_argument("--seed", type=int, default=1, metavar="K")
    scan.add_argument(
        "--view",
        action="append",
        metavar="X,Y,Z",
        help="a direction the scanner looks from (repeatable; none sees all)",
    )
    scan.add_argument("--turntable", type=int, default=0, metavar="N", help="N directions about z, from each elevation")
    scan.add_argument("--elevations", default="35,-25", metavar="E,E", help="degrees above the table (default 35,-25)")
    scan.add_argument(
        "--deep", type=float, default=0.0, metavar="P", help="lose what sees less than this share of the sky, 0 to 1"
    )
    scan.add_argument(
        "--dropout", action="append", metavar="X,Y,Z,R", help="a ball in which facets are missing (repeatable)"
    )
    scan.add_argument("--wear", action="append", metavar="X,Y,Z,R,DEPTH", help="a worn zone (repeatable)")
    scan.add_argument("--pose", metavar="RX,RY,RZ,X,Y,Z", help="how the part lies: degrees, mm")
    scan.set_defaults(handler=_scan)
