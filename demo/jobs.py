"""Demo jobs as recipes: made by the same calls the browser makes, so that they cannot go stale."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.scanfile import read_scan
from contour.exchange.stl_out import write_stl
from contour.fit.region import grow_region
from contour.fit.section import section_loops
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.mesh.slice import plane_frame
from contour.recipe.file import Recipe, ScanEvidence, Step
from demo.bracket import BASE_THICKNESS, POSE, bracket_scan

__all__ = ["bare_job", "rebuilt_job", "taken_loops", "write_demo_scan"]

_SPACE = uuid.UUID("6b1f3c52-7a55-4c0e-9a35-0d1f5c1c7a10")


def _length(text: str) -> dict[str, str]:
    return {"text": text, "mark": "intent"}


def _id(name: str) -> str:
    return str(uuid.uuid5(_SPACE, name))


def write_demo_scan(path: Path) -> None:
    """The bracket's scan as a binary STL in mm, without saying so: such files never say."""
    scan = bracket_scan()
    write_stl(path, scan.vertices, scan.facets)


def _evidence(blob: str, tag: str) -> ScanEvidence:
    return ScanEvidence(id=_id(f"{tag}-scan"), name="rope-guide-bracket.stl", blob=blob, format="stl", unit="mm")


def bare_job(blob: str) -> Recipe:
    """The scan and nothing else: where the tour begins."""
    return Recipe(name="Rope-guide bracket", evidence=(_evidence(blob, "bare"),))


def taken_loops(
    scan: PreparedScan, origin: np.ndarray, normal: np.ndarray, keep: Any = lambda _: True
) -> list[dict[str, Any]]:
    """All loops of a section, as an outline step takes them; `keep` chooses among them."""
    loops, count = [], 0
    for loop in section_loops(scan, origin, normal):
        if not keep(loop):
            continue
        pieces = []
        for p in loop.outline.pieces:
            count += 1
            pieces.append(
                {
                    "id": f"e{count}",
                    "kind": p.kind,
                    "start": p.start,
                    "end": p.end,
                    "mid": p.mid,
                    "points": list(p.points),
                }
            )
        loops.append({"closed": loop.outline.closed, "pieces": pieces})
    return loops


def rebuilt_job(blob: str, scan_file: Path) -> Recipe:
    """Half done: the base plate and the boss rebuilt from two sections, the upright wall still to come."""
    scan = prepare_scan(read_scan(scan_file), 1.0)
    evidence = _evidence(blob, "rebuilt")

    def facet_at(x: float, y: float, z: float) -> int:
        place = POSE.apply(np.array([[x, y, z]]))[0]
        return int(np.argmin(np.linalg.norm(scan.centroids - place, axis=1)))

    top = facet_at(66, 15, BASE_THICKNESS)
    steps: list[Step] = []

    def region(name: str, facet: int) -> Any:
        grown = grow_region(scan, np.array([facet]), kind="plane").surface
        params = {"scan": {"id": evidence.id}, "seeds": [int(scan.source_facet[facet])], "surface": "plane"}
        steps.append(Step(id=_id(name), kind="region", name=name, params=params))
        return grown

    def outline(name: str, on: str, surface: Any, offset: float, keep: Any = lambda _: True) -> None:
        normal = np.array(surface.axis)
        origin = np.array(surface.origin) + offset * normal
        params = {
            "scan": {"id": evidence.id}, "plane": {"id": _id(on)}, "offset": {"text": f"{offset:g} mm", "mark": "intent"},
            "origin": origin.tolist(), "u_axis": plane_frame(origin, normal).u.tolist(),
            "loops": taken_loops(scan, origin, normal, keep),
        }  # fmt: skip
        steps.append(Step(id=_id(name), kind="outline", name=name, params=params))

    def extrude(name: str, sketch: str, text: str, **more: Any) -> None:
        params = {"sketch": {"id": _id(sketch)}, "distance": {"text": text, "mark": "intent"}, **more}
        steps.append(Step(id=_id(name), kind="extrude", name=name, params=params))

    def radius(loop: Any) -> float:
        pieces = loop.outline.pieces
        return float(pieces[0].radius or 0.0) if len(pieces) == 1 else 0.0

    base_plane = region("Base top", top)
    # The eye is left out of the plate: it is bored through plate and boss in one at the end.
    outline("Base outline", "Base top", base_plane, -10.0, keep=lambda loop: not 6 < radius(loop) < 8)
    # From 2 mm above the underside: 10 up, 2 down.
    extrude("Base plate", "Base outline", "10 mm", back=_length("2 mm"))
    outline("Boss outline", "Base top", base_plane, 6.0, keep=lambda loop: radius(loop) > 10)
    # One millimetre into the plate: a boss that only touches it would not join.
    extrude("Boss", "Boss outline", "6 mm", back=_length("7 mm"), operation="add", bodies=[{"id": _id("Base plate")}])
    outline("Eye outline", "Base top", base_plane, 6.0, keep=lambda loop: 6 < radius(loop) < 8)
    extrude("Eye", "Eye outline", "10 mm", extent="through", symmetric=True, operation="subtract",
            bodies=[{"id": _id("Base plate")}])  # fmt: skip
    return Recipe(name="Bracket, base and boss", evidence=(evidence,), steps=tuple(steps))
