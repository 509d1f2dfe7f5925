"""Commands for what is measured by hand: reading, thread, fit-class."""

from __future__ import annotations

import argparse
from typing import Any

from contour.recipe.formula import LengthUnit, evaluate
from contour.recipe.problem import ContourError, Where

__all__ = ["add_metrology_commands"]


def _length(text: str | None, option: str, unit: LengthUnit) -> float:
    """mm of an option; a bare number is in the given unit."""
    if text is None:
        return 0.0
    try:
        value = evaluate(text, dimension="length", unit=unit).value
    except ContourError as error:
        raise error.at(param=option) from None
    if value < 0:
        raise ContourError(
            "bad-params",
            f"{option} must not be negative",
            got=text,
            where=Where(param=option),
            need="0 or more",
            remedy="leave the sign out",
        )
    return value


def _reading(args: argparse.Namespace) -> dict[str, Any]:
    from contour.metrology.lines import typed_takes
    from contour.metrology.reading import COVERAGE, combined, outliers, take_mm

    takes = typed_takes(args.takes)
    values = [take_mm(t) for t in takes]
    if takes[0].unit == "deg":
        raise ContourError(
            "mixed-dimensions",
            "a caliper reads lengths",
            got=args.takes,
            need="mm, cm, m or inch",
            where=Where(param="takes"),
            remedy="give the takes in mm or inch",
        )
    unit: Any = takes[-1].unit
    resolution = _length(args.resolution, "--resolution", unit)
    if resolution <= 0:
        raise ContourError(
            "bad-params",
            "the resolution must be more than nothing",
            got=args.resolution,
            need="such as 0.01",
            where=Where(param="--resolution"),
            remedy="give the display's step, such as 0.01",
        )
    limit = _length(args.limit, "--limit", unit)
    mean, s, type_a, u = combined(values, resolution=resolution, limit=limit)
    assert u is not None
    return {
        "mean": mean,
        "s": s,
        "u": u,
        "U95": COVERAGE * u,
        "n": len(values),
        "type_a": type_a,
        "type_b": (resolution**2 / 12 + limit**2 / 3) ** 0.5,
        "outliers": [values[i] for i in outliers(values, resolution=resolution)],
    }


def _thread(args: argparse.Namespace) -> dict[str, Any]:
    from contour.metrology.standards.threads import nearest_threads

    pitch = 25.4 / args.per_inch if args.per_inch else _length(args.pitch, "--pitch", "mm")
    if args.per_inch and args.per_inch < 0:
        raise ContourError(
            "bad-params",
            "threads per inch must be a positive number",
            got=f"{args.per_inch:g}",
            need="more than 0",
            where=Where(param="--per-inch"),
            remedy="give a number such as 20",
        )
    diameters = {
        k: _length(v, f"--{k}", "mm") for k, v in (("major", args.major), ("minor", args.minor)) if v is not None
    }
    found = nearest_threads(pitch=pitch, inside=args.inside, major=diameters.get("major"), minor=diameters.get("minor"))
    return {
        "candidates": [
            {
                "designation": c.thread.designation,
                "major": c.thread.major,
                "pitch": c.thread.pitch,
                "difference": c.difference,
                "pitch_difference": c.pitch_difference,
                "series": c.thread.series,
                "minor": c.thread.minor,
                "core": c.thread.core,
                "tap_drill": c.thread.tap_drill.name,
                "clearance": list(c.thread.clearance),
            }
            for c in found
        ]
    }


def _fit_class(args: argparse.Namespace) -> dict[str, Any]:
    from contour.metrology.standards.limits import Limits, fit_of, limits_of

    nominal = _length(args.nominal, "NOMINAL", "mm")

    def said(limits: Limits) -> dict[str, Any]:
        return {
            "nominal": limits.nominal,
            "class": limits.tolerance_class,
            "kind": "hole" if limits.inside else "shaft",
            "lower": limits.lower,
            "upper": limits.upper,
            "min": limits.least,
            "max": limits.greatest,
            "tolerance": round(limits.upper - limits.lower, 7),
        }

    if "/" in args.tolerance_class:
        fit = fit_of(nominal, args.tolerance_class)
        return {
            "hole": said(fit.hole),
            "shaft": said(fit.shaft),
            "fit": fit.kind,
            "least_clearance": fit.least_clearance,
            "greatest_clearance": fit.greatest_clearance,
        }
    return said(limits_of(nominal, args.tolerance_class))


def add_metrology_commands(commands: Any) -> None:
    """Commands that need neither a scan nor a job."""
    reading = commands.add_parser("reading", help="mean and uncertainty of takes of a caliper, in mm")
    reading.add_argument("takes", metavar='"TAKES UNIT"', help='such as "12.03 12.05 12.04 mm"')
    reading.add_argument("--resolution", required=True, metavar="R", help="the display's step, in the takes' unit")
    reading.add_argument(
        "--limit", metavar="L", help="error limit of the instrument, plus or minus, in the takes' unit"
    )
    reading.set_defaults(handler=_reading)
    thread = commands.add_parser("thread", help="standard threads near a measured diameter and pitch")
    thread.add_argument("--major", metavar="D", help="outer diameter, mm (or with its unit)")
    thread.add_argument("--minor", metavar="D", help="instead: the bore between a nut's crests")
    how = thread.add_mutually_exclusive_group(required=True)
    how.add_argument("--pitch", metavar="P", help="from thread to thread, mm (or with its unit)")
    how.add_argument("--per-inch", type=float, metavar="N", help="threads per inch instead of the pitch")
    thread.add_argument("--inside", action="store_true", help="a nut's thread")
    thread.set_defaults(handler=_thread)
    fit = commands.add_parser("fit-class", help="limits of a tolerance class or a fit (ISO 286)")
    fit.add_argument("nominal", metavar="SIZE", help="nominal size, mm")
    fit.add_argument("tolerance_class", metavar="CLASS", help="H7, g6, or a fit such as H7/g6")
    fit.set_defaults(handler=_fit_class)
