"""The bracket measured by hand: readings tied to regions of its scan, an old print beside them, and a scanner that was out of
scale by 0.3 %."""

from __future__ import annotations

from pathlib import Path

from contour.exchange.scanfile import read_scan
from contour.geometry.surfaces import SurfaceKind
from contour.mesh.prepare import prepare_scan
from contour.recipe.evidence.picture import Picture, PictureLength
from contour.recipe.evidence.reading import Feature, Instrument, Measures, Pin, Reading, Session, Take
from contour.recipe.recipe import Recipe
from contour.recipe.values import Value
from contour.simulate.caliper import Caliper, measured
from demo.bracket import BASE_THICKNESS
from demo.bracket_print import PLACES, SIZE, place
from demo.jobs import JobMaker, scan_evidence

__all__ = ["measured_job"]

SCALE = 1.003  # the scan over the part: the caliper sees the part
# region: kind, place on the truth model, mm
_REGIONS: dict[str, tuple[SurfaceKind, tuple[float, float, float]]] = {
    "Plate top": ("plane", (66, 15, BASE_THICKNESS)),
    "Plate bottom": ("plane", (60, 50, 0)),
    "Left end": ("plane", (0, 40, 6)),
    "Right end": ("plane", (120, 40, 6)),
    "Front": ("plane", (60, 0, 6)),
    "Back": ("plane", (40, 80, 6)),
    "Eye": ("cylinder", (85, 34, 14)),
}
# reading: mm on the scan, what is measured, regions
_SIZES: dict[str, tuple[float, Measures, tuple[str, ...]]] = {
    "plate_length": (120.0, "outside", ("Left end", "Right end")),
    "plate_width": (80.0, "outside", ("Front", "Back")),
    "plate_thick": (BASE_THICKNESS, "outside", ("Plate bottom", "Plate top")),
    "eye_d": (14.0, "inside", ("Eye",)),
}
_STATED = {
    "length_drawn": (120.0, 0.2, "plate_length"),
    "width_drawn": (80.0, 0.2, "plate_width"),
    "thick_drawn": (12.0, 0.15, "plate_thick"),
    "eye_drawn": (14.0, 0.05, "eye_d"),
}


def measured_job(blob: str, scan_file: Path, drawing: str) -> Recipe:
    """blob: of the scan · drawing: of the print's picture."""
    make = JobMaker(prepare_scan(read_scan(scan_file), 1.0), scan_evidence(blob, "measured"), "measured ")
    for name, (kind, at) in _REGIONS.items():
        make.region(name, at, kind)
    tool = Instrument(id=make.id("tool"), name="Workshop caliper, 150 mm", resolution_mm=0.01, limit_mm=0.02)
    day = Session(id=make.id("day"), name="Afternoon, on the slip", instrument=tool.id)
    readings = []
    for k, (name, (mm, measures, regions)) in enumerate(_SIZES.items()):
        c = Caliper(error_mm=-0.004, seed=70 + k)
        takes = []
        for _ in range(4):
            c = measured(c, mm / SCALE)
            takes.append(Take(value=round(c.shown_mm, 2), session=day.id))
        tied = Feature(regions=tuple(make.id(r) for r in regions))
        readings.append(Reading(id=make.id(name), name=name, takes=tuple(takes), measures=measures, feature=tied))
    sheet = make.id("print")
    for name, (mm, tolerance, same) in _STATED.items():
        x, y = place(*PLACES[name])
        readings.append(
            Reading(
                id=make.id(name),
                name=name,
                takes=(Take(value=mm, method="drawing"),),
                source="drawing",
                tolerance_mm=tolerance,
                same_as=make.id(same),
                pin=Pin(on=sheet, at=(x, y, 0.0)),
            )
        )
    a, b = place(0, -10), place(120, -10)
    picture = Picture(
        id=sheet,
        name="rope-guide-print.png",
        blob=drawing,
        format="png",
        role="drawing",
        width=SIZE[0],
        height=SIZE[1],
        scale=PictureLength(a=a, b=b, length=Value(text="length_drawn", mark="drawing")),
        check=PictureLength(a=place(-10, 0), b=place(-10, 80), length=Value(text="width_drawn", mark="drawing")),
    )
    recipe = make.recipe("Bracket, measured by hand")
    return recipe.model_copy(
        update={"evidence": (*recipe.evidence, *readings, picture), "instruments": (tool,), "sessions": (day,)}
    )
