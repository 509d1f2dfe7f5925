"""ISO metric (ISO 261, ISO 724, ISO 965-1) and unified inch threads (ASME B1.1): what a measured diameter and pitch can be.

Both have the same 60 degree profile, so that every other diameter follows from the major one and the pitch P with
H = sqrt(3)/2 P: pitch diameter d - 3/4 H, minor diameter of the nut d - 5/4 H, core of the bolt d - 17/12 H.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

from contour.metrology.standards.drills import Drill, drills, fraction_text
from contour.recipe.problem import ContourError, Where

__all__ = ["Thread", "ThreadCandidate", "nearest_threads", "thread_named", "threads"]

# Diameter and its pitches, the coarse one first (0: there is none): ISO 261:1998.
_METRIC = """
1 .25 .2; 1.2 .25 .2; 1.4 .3 .2; 1.6 .35 .2; 1.8 .35 .2; 2 .4 .25; 2.2 .45 .25; 2.5 .45 .35; 3 .5 .35; 3.5 .6 .35;
4 .7 .5; 4.5 .75 .5; 5 .8 .5; 5.5 0 .5; 6 1 .75; 7 1 .75; 8 1.25 1 .75; 9 1.25 1 .75; 10 1.5 1.25 1 .75; 11 1.5 1 .75;
12 1.75 1.5 1.25 1; 14 2 1.5 1.25 1; 15 0 1.5 1; 16 2 1.5 1; 17 0 1.5 1; 18 2.5 2 1.5 1; 20 2.5 2 1.5 1; 22 2.5 2 1.5 1;
24 3 2 1.5 1; 25 0 2 1.5 1; 26 0 1.5; 27 3 2 1.5 1; 28 0 2 1.5 1; 30 3.5 3 2 1.5 1; 32 0 2 1.5; 33 3.5 3 2 1.5; 35 0 1.5;
36 4 3 2 1.5; 38 0 1.5; 39 4 3 2 1.5; 40 0 3 2 1.5; 42 4.5 4 3 2 1.5; 45 4.5 4 3 2 1.5; 48 5 4 3 2 1.5; 50 0 3 2 1.5;
52 5 4 3 2 1.5; 55 0 4 3 2 1.5; 56 5.5 4 3 2 1.5; 58 0 4 3 2 1.5; 60 5.5 4 3 2 1.5; 62 0 4 3 2 1.5; 64 6 4 3 2 1.5;
65 0 4 3 2 1.5; 68 6 4 3 2 1.5; 70 0 6 4 3 2 1.5; 72 0 6 4 3 2 1.5; 75 0 4 3 2 1.5; 76 0 6 4 3 2 1.5; 78 0 2;
80 0 6 4 3 2 1.5; 82 0 2; 85 0 6 4 3 2; 90 0 6 4 3 2; 95 0 6 4 3 2; 100 0 6 4 3 2; 105 0 6 4 3 2; 110 0 6 4 3 2;
115 0 6 4 3 2; 120 0 6 4 3 2; 125 0 8 6 4 3 2; 130 0 8 6 4 3 2; 140 0 8 6 4 3 2; 150 0 8 6 4 3 2; 160 0 8 6 4 3;
180 0 8 6 4 3; 200 0 8 6 4 3
"""
# Size and threads per inch: ASME B1.1, tables of the standard series.
_UNIFIED = {
    "UNC": "#1 64; #2 56; #3 48; #4 40; #5 40; #6 32; #8 32; #10 24; #12 24; 1/4 20; 5/16 18; 3/8 16; 7/16 14; 1/2 13; 9/16 12; "
    "5/8 11; 3/4 10; 7/8 9; 1 8; 9/8 7; 5/4 7; 11/8 6; 3/2 6; 7/4 5; 2 4.5; 9/4 4.5; 5/2 4; 11/4 4; 3 4; 13/4 4; 7/2 4; 15/4 4; 4 4",
    "UNF": "#0 80; #1 72; #2 64; #3 56; #4 48; #5 44; #6 40; #8 36; #10 32; #12 28; 1/4 28; 5/16 24; 3/8 24; 7/16 20; 1/2 20; "
    "9/16 18; 5/8 18; 3/4 16; 7/8 14; 1 12; 9/8 12; 5/4 12; 11/8 12; 3/2 12",
    "UNEF": "#12 32; 1/4 32; 5/16 32; 3/8 32; 7/16 28; 1/2 28; 9/16 24; 5/8 24; 11/16 24; 3/4 20; 13/16 20; 7/8 20; 15/16 20; "
    "1 20; 17/16 18; 9/8 18; 19/16 18; 5/4 18; 21/16 18; 11/8 18; 23/16 18; 3/2 18; 25/16 18; 13/8 18; 27/16 18",
    "8-UN": "; ".join(f"{Fraction(k, 8)} 8" for k in range(9, 33)),
    "12-UN": "; ".join(f"{Fraction(k, 8)} 12" for k in range(13, 33)),
    "16-UN": "; ".join(f"{Fraction(k, 8)} 16" for k in range(9, 33)),
}
# Clearance holes, mm (fine, medium, coarse): ISO 273:1979.
_CLEARANCE = """
1 1.1 1.2 1.3; 1.2 1.3 1.4 1.5; 1.4 1.5 1.6 1.8; 1.6 1.7 1.8 2; 1.8 2 2.1 2.2; 2 2.2 2.4 2.6; 2.5 2.7 2.9 3.1; 3 3.2 3.4 3.6;
3.5 3.7 3.9 4.2; 4 4.3 4.5 4.8; 4.5 4.8 5 5.3; 5 5.3 5.5 5.8; 6 6.4 6.6 7; 7 7.4 7.6 8; 8 8.4 9 10; 10 10.5 11 12;
12 13 13.5 14.5; 14 15 15.5 16.5; 16 17 17.5 18.5; 18 19 20 21; 20 21 22 24; 22 23 24 26; 24 25 26 28; 27 28 30 32;
30 31 33 35; 33 34 36 38; 36 37 39 42; 39 40 42 45; 42 43 45 48; 45 46 48 52; 48 50 52 56; 52 54 56 62; 56 58 62 66;
60 62 66 70; 64 66 70 74; 68 70 74 78; 72 74 78 82; 76 78 82 86; 80 82 86 91
"""
# Close and free clearance holes, inch, of the numbered sizes, then of the fractional ones up to 1 inch.
_INCH_CLEARANCE = {
    "#0": (0.0635, 0.0700),
    "#1": (0.0760, 0.0810),
    "#2": (0.0890, 0.0960),
    "#3": (0.1040, 0.1100),
    "#4": (0.1160, 0.1285),
    "#5": (0.1285, 0.1360),
    "#6": (0.1440, 0.1495),
    "#8": (0.1695, 0.1770),
    "#10": (0.1960, 0.2010),
    "#12": (0.2210, 0.2280),
    "1/4": (0.257, 0.266),
    "5/16": (0.323, 0.332),
    "3/8": (0.386, 0.397),
    "7/16": (29 / 64, 15 / 32),
    "1/2": (33 / 64, 17 / 32),
    "9/16": (37 / 64, 19 / 32),
    "5/8": (41 / 64, 21 / 32),
    "3/4": (49 / 64, 25 / 32),
    "7/8": (57 / 64, 29 / 32),
    "1": (65 / 64, 33 / 32),
}


@dataclass(frozen=True, slots=True)
class Thread:
    """A standard thread; sizes in mm. `clearance` holds the hole diameters that let its screw pass, closest first."""

    designation: str
    series: str
    major: float
    pitch: float
    clearance: tuple[float, ...]

    @property
    def height(self) -> float:
        """H, of the sharp triangle."""
        return math.sqrt(3) / 2 * self.pitch

    @property
    def pitch_diameter(self) -> float:
        return self.major - 0.75 * self.height

    @property
    def minor(self) -> float:
        """Of the nut: the bore between its crests."""
        return self.major - 1.25 * self.height

    @property
    def core(self) -> float:
        """Of the bolt: the root with the standard's rounding."""
        return self.major - 17 / 12 * self.height

    @property
    def per_inch(self) -> float:
        return 25.4 / self.pitch

    @property
    def tap_drill(self) -> Drill:
        """The stocked drill nearest to major less pitch, the larger of two (ISO 2306, which prints 10.2 for M12)."""
        wanted = 10.2 if self.designation == "M12x1.75" else self.major - self.pitch
        stock = drills("metric" if self.series.startswith("ISO") else "inch")
        return min(stock, key=lambda d: (round(abs(d.diameter - wanted), 6), -d.diameter))

    @property
    def made_outside(self) -> tuple[float, float]:
        """Limits of a bolt's major diameter in the usual class 6g: ISO 965-1, clauses 11 to 13."""
        gap = (15 + 11 * self.pitch) / 1000
        return self.major - gap - (180 * self.pitch ** (2 / 3) - 3.15 / math.sqrt(self.pitch)) / 1000, self.major - gap


@dataclass(frozen=True, slots=True)
class ThreadCandidate:
    """A standard thread beside what was measured: measured less standard, mm."""

    thread: Thread
    difference: float
    pitch_difference: float
    score: float


def _inches(size: str) -> float:
    """Inch size of ``#8`` or ``9/8``; numbered sizes grow by 0.013 inch from 0.060."""
    return 0.060 + 0.013 * int(size[1:]) if size.startswith("#") else float(Fraction(size))


def _rows(text: str) -> list[list[str]]:
    return [row.split() for row in text.replace("\n", " ").split(";") if row.strip()]


@cache
def threads() -> tuple[Thread, ...]:
    """Every thread that is known here."""
    holes = {float(r[0]): tuple(float(x) for x in r[1:]) for r in _rows(_CLEARANCE)}
    out = []
    for size, *pitches in _rows(_METRIC):
        for k, pitch in enumerate(float(p) for p in pitches):
            if pitch:
                series = "ISO coarse" if k == 0 else "ISO fine"
                d = float(size)
                out.append(Thread(f"M{d:g}x{pitch:g}", series, d, pitch, holes.get(d, ())))
    for series, text in _UNIFIED.items():
        for size, per_inch in _rows(text):
            shown = size if size.startswith("#") else fraction_text(Fraction(size))
            gaps = tuple(25.4 * c for c in _INCH_CLEARANCE.get(size, ()))
            name = f"{shown}-{per_inch} {series.split('-')[-1]}"
            out.append(Thread(name, series, 25.4 * _inches(size), 25.4 / float(per_inch), gaps))
    return tuple(out)


def thread_named(designation: str, *, param: str) -> Thread:
    """The thread of that name; a metric one without a pitch, such as ``M8``, is the coarse one. Raises ContourError (bad-params) at `param`."""
    wanted = designation.strip().lower().replace("×", "x").replace(" x ", "x")
    for t in threads():
        if t.designation.lower() == wanted or (
            t.series == "ISO coarse" and t.designation.lower().split("x")[0] == wanted
        ):
            return t
    raise ContourError(
        "bad-params",
        "no standard thread of this name is known",
        where=Where(param=param),
        got=designation.strip() or "nothing",
        need="an ISO metric or unified thread, such as M8, M8x1 or 1/4-20 UNC",
        remedy="type another one",
    )


def nearest_threads(
    *, pitch: float, major: float | None = None, minor: float | None = None, inside: bool = False, count: int = 6
) -> list[ThreadCandidate]:
    """Threads that a measured pitch and diameter (mm) can be, nearest first.

    A bolt is cut below its nominal size: a major diameter inside the limits of class 6g counts as no difference in the
    ranking, and one above the nominal size counts more than one below (worn crests are common, grown ones are not). In a
    nut (`inside`) it is the other way round. `minor` is the bore between the crests of a nut, where the jaws rest.
    `difference` is what was measured less the standard's nominal figure.

    Raises ContourError (bad-params) for sizes that are not positive, or when not exactly one diameter is given.
    """
    if (major is None) == (minor is None):
        raise ContourError(
            "bad-params",
            "a thread is looked up by its major or its minor diameter",
            need="one of the two",
            got="neither" if major is None else "both",
            remedy="give one of the two",
        )
    diameter = major if major is not None else minor
    for name, value in (("diameter", diameter), ("pitch", pitch)):
        if value is None or not 0 < value < 1e4:
            raise ContourError(
                "bad-params",
                f"the {name} must be a positive length",
                got=f"{value:g} mm",
                where=Where(param=name),
                need="above 0, up to 10 m",
                remedy="measure it again, in mm or with its unit",
            )
    assert diameter is not None
    if minor is not None:
        inside = True
    found = []
    for t in threads():
        nominal = t.major if major is not None else t.minor
        low, high = (nominal, nominal + 0.12 * t.pitch) if inside else t.made_outside
        over, under = max(diameter - high, 0.0), max(low - diameter, 0.0)
        misfit = (over + 3 * under) if inside else (3 * over + under)
        wrong = abs(pitch - t.pitch)
        # A pitch read over several turns is good to about 1 %; crests may be worn by a few hundredths of the pitch.
        score = math.hypot(misfit / (0.12 * t.pitch), wrong / (0.02 * t.pitch))
        # Coarse before fine where both say the same.
        found.append(
            ThreadCandidate(
                t,
                diameter - nominal,
                pitch - t.pitch,
                score + (0 if "coarse" in t.series or t.series == "UNC" else 0.05),
            )
        )
    return sorted(found, key=lambda c: c.score)[:count]
