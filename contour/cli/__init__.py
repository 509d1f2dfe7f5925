"""The core's command line: inspect, mend, align, scan, reading, thread, fit-class, section, compare, check, build, steps, show.

``--json`` prints one JSON object and nothing else; errors are one line on stderr and exit code 2.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, NoReturn

import numpy as np

from contour.cli.child import in_child
from contour.cli.evidence import add_evidence_commands
from contour.cli.metrology import add_metrology_commands
from contour.cli.regions import add_region_commands
from contour.cli.scans import prepared_scan, unit_of
from contour.cli.sketches import add_flat_options, add_sketch_commands, write_flat
from contour.cli.solids import add_solid_commands
from contour.recipe.formula import LENGTH_UNITS, evaluate
from contour.recipe.problem import ContourError, Problem, Where

__all__ = ["add_core_commands", "main", "run"]

Handler = Callable[[argparse.Namespace], Any]
_OUTLINES_S = 20.0


class _Parser(argparse.ArgumentParser):
    """Argument errors take the same way as all others: one line, exit code 2."""

    def error(self, message: str) -> NoReturn:
        raise ContourError(
            "bad-params",
            f"{self.prog}: {message}",
            need="the options that its help lists",
            where=Where(param=self.prog),
            remedy=f"see {self.prog} --help",
        )


@contextlib.contextmanager
def _quiet_stdout() -> Iterator[None]:
    """Keep the kernel's chatter off stdout, at the level of the file descriptor."""
    sys.stdout.flush()
    kept = os.dup(1)
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    try:
        yield
    finally:
        sys.stdout.flush()
        os.dup2(kept, 1)
        os.close(kept)
        os.close(quiet)


def _vector(text: str, name: str) -> np.ndarray:
    try:
        values = np.array([float(t) for t in text.split(",")])
    except ValueError:
        values = np.array([])
    if values.shape != (3,) or not np.isfinite(values).all():
        raise ContourError(
            "bad-params",
            f"--{name} needs three numbers",
            got=text,
            need="x,y,z such as 0,0,12.5",
            where=Where(param=f"--{name}"),
            remedy="type three numbers with commas between",
        )
    return values


def _tolerance(args: argparse.Namespace) -> float | None:
    if args.tolerance is None:
        return None
    value = evaluate(args.tolerance, dimension="length").value
    if value <= 0:
        raise ContourError(
            "bad-params",
            "--tolerance must be positive",
            got=args.tolerance,
            need="a length above 0",
            where=Where(param="--tolerance"),
            remedy="type a tolerance such as 0.1 mm",
        )
    return value


def _inspect(args: argparse.Namespace) -> dict[str, Any]:
    from contour.exchange.scanfile import read_scan
    from contour.mesh.health import inspect_scan

    raw = read_scan(Path(args.scan))
    unit = unit_of(args, raw)
    return inspect_scan(raw, LENGTH_UNITS[unit], unit=unit).as_json()


def _section(args: argparse.Namespace) -> dict[str, Any]:
    from contour.exchange.flat import shapes as flat
    from contour.fit.budget import Budget
    from contour.geometry.frames import plane_frame
    from contour.mesh.grazing import grazing
    from contour.mesh.slice import slice_scan
    from contour.outline.flat_shape import flat_pieces
    from contour.outline.section import clean_cuts, closed_over_gaps, outlines_of

    origin, normal = _vector(args.origin, "origin"), _vector(args.normal, "normal")
    if np.linalg.norm(normal) < 1e-12:
        raise ContourError(
            "bad-params",
            "--normal must not be zero",
            got=args.normal,
            need="a direction of some length",
            where=Where(param="--normal"),
            remedy="give a direction such as 0,0,1",
        )
    scan = prepared_scan(args)
    cuts, frame = slice_scan(scan, origin, normal), plane_frame(origin, normal)
    along = grazing(scan, origin, normal)
    if along is not None:
        cuts = clean_cuts(scan, cuts, frame)
    lines = [(frame.to_plane(c.points), c.closed) for c in cuts]
    loops = outlines_of(scan, lines, frame, tolerance_mm=_tolerance(args), budget=Budget(_OUTLINES_S))
    if not args.as_cut:
        loops, _ = closed_over_gaps(scan, loops, tolerance_mm=_tolerance(args), budget=Budget(_OUTLINES_S))
    if not loops and along is None:
        raise ContourError(
            "no-section",
            "the plane does not cut the scan",
            where=Where(file=Path(args.scan).name),
            got=f"origin {args.origin}, normal {args.normal}",
            need="a plane that cuts the scan",
            remedy="choose an origin inside the part",
        )
    shapes = [p for loop in loops for p in flat_pieces(loop.outline.pieces, "section")]
    write_flat(args, [*shapes, *(flat.Piece(flat.Path(line, closed), "scan") for line, closed in lines)])
    if along is not None:
        return {
            "loops": [loop.as_json() for loop in loops],
            "along": {"area": along.area, "below": along.below, "above": along.above},
        }
    cut = [{"closed": closed, "points": line.tolist()} for line, closed in lines]
    told = [loop.as_json() for loop in loops]
    return {"loops": told, "cuts": cut, "frame": told[0]["frame"]}


@in_child("solid")
def _compare(args: argparse.Namespace) -> dict[str, Any]:
    from contour.check.deviation import deviations, summarise, unseen_share
    from contour.check.exact_arrays import exact_arrays
    from contour.solid.from_file import read_shape_file

    tolerance = _tolerance(args) or 0.1
    scan = prepared_scan(args)
    solid = exact_arrays(read_shape_file(Path(args.solid)))
    d = deviations([solid], scan.vertices)
    unseen = unseen_share([solid], scan.vertices, scan.facets, 3 * scan.edge_mm + 2 * tolerance)
    fit = summarise(scan.vertices, scan.vertex_areas, d, acceptance_mm=tolerance, unseen=unseen, sampled=False)
    wanted = ("points", "inside_share", "mean", "rms", "p95", "max", "unseen_share", "worst")
    return {k: v for k, v in fit.as_json().items() if k in wanted}


@in_child("solid")
def _check(args: argparse.Namespace) -> dict[str, Any]:
    from dataclasses import asdict

    from contour.solid.from_file import read_shape_file
    from contour.solid.gate import check_solid
    from contour.solid.mass import area

    shape = read_shape_file(Path(args.solid))
    return {**asdict(check_solid(shape)), "area": area(shape)}


def _build(args: argparse.Namespace) -> dict[str, Any]:
    from contour.job.work.headless import build_job_file

    return build_job_file(Path(args.job), Path(args.out), args.variant)


def _steps(args: argparse.Namespace) -> Any:
    from contour.job.questions.describe import kinds_reference, step_kinds

    return kinds_reference() if args.markdown else step_kinds()


def _show(args: argparse.Namespace) -> dict[str, Any]:
    from contour.job.questions.describe import show_job

    return show_job(Path(args.job))


def _scan_command(commands: Any, name: str, handler: Handler, text: str) -> argparse.ArgumentParser:
    parser = commands.add_parser(name, help=text)
    parser.add_argument("scan", metavar="SCAN", help="STL, OBJ, PLY or 3MF file")
    parser.add_argument("--unit", choices=sorted(LENGTH_UNITS), help="unit of the file (default mm, with a warning)")
    parser.set_defaults(handler=handler)
    return parser  # type: ignore[no-any-return]


def add_core_commands(commands: Any) -> None:
    """The commands that need no database."""
    _scan_command(commands, "inspect", _inspect, "what a scan holds and what is wrong with it")
    section = _scan_command(
        commands, "section", _section, "a plane's cut through a scan as lines, arcs and free pieces"
    )
    section.add_argument("--origin", required=True, metavar="X,Y,Z", help="a point of the plane, mm")
    section.add_argument("--normal", required=True, metavar="X,Y,Z")
    section.add_argument("--tolerance", metavar="T", help="how far the scan may stray from a piece, mm")
    section.add_argument(
        "--as-cut", action="store_true", help="leave open what the scan leaves open: bridge no gaps by assumption"
    )
    add_flat_options(section)
    compare = _scan_command(commands, "compare", _compare, "signed deviation of a scan from a solid")
    compare.add_argument("solid", metavar="SOLID.step")
    compare.add_argument("--tolerance", metavar="T", help="acceptance, mm (default 0.1)")
    check = commands.add_parser("check", help="whether a STEP file is one closed, valid solid")
    check.add_argument("solid", metavar="SOLID.step")
    check.set_defaults(handler=_check)
    build = commands.add_parser("build", help="build a job file without the browser and write STEP and STL")
    build.add_argument("job", metavar="JOB.json")
    build.add_argument("--out", required=True, metavar="DIR")
    build.add_argument(
        "--variant", metavar="NAME", help="with the values of that variant in the place of the job's own"
    )
    build.set_defaults(handler=_build)
    steps = commands.add_parser("steps", help="every kind of step with its parameters")
    steps.add_argument("--markdown", action="store_true", help="as the reference in docs/step-kinds.md")
    steps.set_defaults(handler=_steps)
    add_evidence_commands(commands, _scan_command)
    add_metrology_commands(commands)
    add_region_commands(commands, _scan_command)
    add_solid_commands(commands, _scan_command)
    add_sketch_commands(commands)
    show = commands.add_parser("show", help="a job's steps, values and where each value comes from")
    show.add_argument("job", metavar="JOB.json")
    show.set_defaults(handler=_show)


def _text(value: Any, indent: str = "") -> str:
    if isinstance(value, dict):
        rows = []
        for k, v in value.items():
            nested = isinstance(v, dict | list | tuple) and v and not all(isinstance(x, int | float) for x in v)
            rows.append(f"{indent}{k}:\n{_text(v, indent + '  ')}" if nested else f"{indent}{k}: {_text(v)}")
        return "\n".join(rows)
    if isinstance(value, list | tuple):
        if all(isinstance(x, int | float) for x in value):
            return "(" + ", ".join(_text(x) for x in value) + ")"
        return "\n".join(
            f"{indent}-\n{_text(v, indent + '  ')}" if isinstance(v, dict) else f"{indent}- {v}" for v in value
        )
    if isinstance(value, float):
        return f"{value:.4f}"
    return "not known" if value is None else str(value)


def _joined(arguments: list[str]) -> list[str]:
    """``--normal -1,0,0`` as ``--normal=-1,0,0``: argparse would take the value for an option."""
    out: list[str] = []
    for a in arguments:
        if out and out[-1] in (
            "--origin",
            "--normal",
            "--tolerance",
            "--view",
            "--dropout",
            "--wear",
            "--pose",
            "--elevations",
            "--resolution",
            "--limit",
            "--major",
            "--minor",
            "--pitch",
        ):
            out[-1] += f"={a}"
        else:
            out.append(a)
    return out


def run(parser: argparse.ArgumentParser, argv: Sequence[str] | None = None) -> int:
    """Parse, run and print; the one place where errors become exit codes."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    as_json = "--json" in arguments
    # Accepted anywhere on the line, so that scripts need not know which level of the parser takes it.
    arguments = _joined([a for a in arguments if a != "--json"])
    problem: Problem
    try:
        args = parser.parse_args(arguments)
        args.argv = arguments
        with _quiet_stdout():
            result = args.handler(args)
        print(json.dumps(result) if as_json else _text(result))
        return 0
    except ContourError as error:
        problem = error.problem
    except OSError as error:
        name = Path(str(error.filename)).name if error.filename else None
        problem = Problem(
            code="file-missing",
            message=error.strerror or str(error),
            where=Where(file=name),
            remedy="check the path and its rights",
        )
    except MemoryError:
        problem = Problem(
            code="out-of-memory", message="this needs more memory than there is", remedy="thin the scan out"
        )
    except KeyboardInterrupt:
        problem = Problem(code="cancelled", message="stopped")
    except Exception as error:  # the border of the process: one line, whatever it was
        problem = Problem(
            code="crashed",
            message="a fault of the application",
            got=f"{type(error).__name__}: {error}"[:200],
            remedy="try another input",
        )
    print(problem.line(), file=sys.stderr)
    if as_json:
        print(json.dumps({"problem": problem.model_dump(mode="json")}))
    return 2


def make_parser() -> tuple[argparse.ArgumentParser, Any]:
    """The parser of all commands, and the group that they are added to."""
    parser = _Parser(prog="contour", description="From scan facets to a checked, editable solid. Output is in mm.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)
    return parser, commands


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command line; the exit status: 0 with an answer, 2 where none could be made."""
    parser, commands = make_parser()
    add_core_commands(commands)
    return run(parser, argv)
