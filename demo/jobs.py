"""Demo jobs as recipes: made by the same calls the browser makes, so that they cannot go stale."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path
from typing import Any

import numpy as np

from contour.exchange.scanfile import read_scan
from contour.fit.region import SurfaceKind, grow_region
from contour.geometry.frames import plane_frame
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.outline.section import section_loops
from contour.recipe.evidence.scan import ScanEvidence
from contour.recipe.recipe import Recipe, Step
from contour.simulate.scanner import Pose
from contour.sketch.drawn.acts.done import worked
from contour.sketch.drawn.acts.taking import TakeOver
from contour.sketch.drawn.kept import KeptDrawing
from contour.sketch.taken import TakenLoop, taken_pieces
from demo.bracket import BASE_THICKNESS, POSE

__all__ = [
    "JobMaker",
    "bare_job",
    "circle_radius",
    "cover_evidence",
    "cover_job",
    "drawn_over",
    "length",
    "rebuilt_job",
    "scan_evidence",
    "seated_job",
    "taken_loops",
]

_SPACE = uuid.UUID("6b1f3c52-7a55-4c0e-9a35-0d1f5c1c7a10")


_RELATE_MM = 0.05  # about half the tolerance of the demo's outlines: so near relations nearly hold


def length(text: str) -> dict[str, str]:
    """A size as it was meant."""
    return {"text": text, "mark": "intent"}


def _id(name: str) -> str:
    return str(uuid.uuid5(_SPACE, name))


def scan_evidence(blob: str, tag: str) -> ScanEvidence:
    return ScanEvidence(id=_id(f"{tag}-scan"), name="rope-guide-bracket.stl", blob=blob, format="stl", unit="mm")


def bare_job(blob: str) -> Recipe:
    """The scan and nothing else: where the tour begins."""
    return Recipe(name="Rope-guide bracket", evidence=(scan_evidence(blob, "bare"),))


def cover_evidence(upper: str, lower: str, tag: str) -> tuple[ScanEvidence, ScanEvidence]:
    """Both scans of the pump cover as they came."""
    above, below = (
        ScanEvidence(id=_id(f"{tag}-{n}"), name=f"pump-cover-{n}.ply", blob=b, format="ply", unit="mm")
        for n, b in (("from-above", upper), ("from-below", lower))
    )
    return above, below


def cover_job(upper: str, lower: str) -> Recipe:
    """Two scans of the pump cover as they came: to be mended, merged and put on the part's axes."""
    return Recipe(name="Pump cover, two scans", evidence=cover_evidence(upper, lower, "cover"))


def taken_loops(
    scan: PreparedScan, origin: np.ndarray, normal: np.ndarray, keep: Any = lambda _: True
) -> list[dict[str, Any]]:
    """All loops of a section, as a sketch takes them over; `keep` chooses among them."""
    loops, count = [], 0
    for loop in section_loops(scan, origin, normal):
        if not keep(loop):
            continue
        pieces = taken_pieces(loop.outline, count + 1)
        count += len(pieces)
        loops.append(TakenLoop(closed=loop.outline.closed, pieces=pieces).model_dump(mode="json"))
    return loops


def drawn_over(loops: list[dict[str, Any]], *, relate: bool = True) -> dict[str, Any]:
    """The drawing that loops of a section make, as a sketch step keeps it, with the relations that nearly hold."""
    taken = tuple(TakenLoop.model_validate(loop) for loop in loops)
    found = worked(KeptDrawing(), [TakeOver(act="take", loops=taken, within=_RELATE_MM, relate=relate)])
    return found.kept.model_dump(mode="json", by_alias=True, exclude_none=True)


class JobMaker:
    """Adds steps to a recipe the way a person at the bench would: picks on the scan, sections, extrusions."""

    def __init__(
        self,
        scan: PreparedScan | None,
        evidence: ScanEvidence,
        tag: str,
        *,
        pose: Pose = POSE,
        more: tuple[ScanEvidence, ...] = (),
    ) -> None:
        """scan: none until a step has made it · pose: how the truth lies in it · more: other scans that went into it."""
        self._scan = scan
        self.evidence = evidence
        self.pose = pose
        self.more = more
        self.tag = tag
        self.steps: list[Step] = []
        self.surfaces: dict[str, Any] = {}

    @property
    def scan(self) -> PreparedScan:
        assert self._scan is not None
        return self._scan

    @scan.setter
    def scan(self, scan: PreparedScan) -> None:
        self._scan = scan

    def id(self, name: str) -> str:
        return _id(f"{self.tag}{name}")

    def add(self, kind: str, name: str, params: dict[str, Any]) -> None:
        self.steps.append(Step(id=self.id(name), kind=kind, name=name, params=params))

    def region(self, name: str, place: tuple[float, float, float], kind: SurfaceKind = "plane") -> None:
        """A region around a place of the truth model."""
        at = self.pose.apply(np.array([place]))[0]
        facet = int(np.argmin(np.linalg.norm(self.scan.centroids - at, axis=1)))
        self.surfaces[name] = grow_region(self.scan, np.array([facet]), kind=kind).surface
        seeds = [int(self.scan.source_facet[facet])]
        self.add("region", name, {"scan": {"id": self.evidence.id}, "seeds": seeds, "surface": kind})

    def outline(self, name: str, on: str, offset: float, keep: Any = lambda _: True) -> None:
        surface = self.surfaces[on]
        normal = np.array(surface.axis)
        origin = np.array(surface.origin) + offset * normal
        params = {
            "scan": {"id": self.evidence.id},
            "plane": {"id": self.id(on)},
            "offset": length(f"{offset:g} mm"),
            "origin": origin.tolist(),
            "u_axis": plane_frame(origin, normal).u.tolist(),
            "pose": np.asarray(self.scan.pose).tolist(),
        }
        self.add("sketch", name, params | drawn_over(taken_loops(self.scan, origin, normal, keep)))

    def extrude(self, name: str, sketch: str, text: str, bodies: tuple[str, ...] = (), **more: Any) -> None:
        params = {"sketch": {"id": self.id(sketch)}, "distance": length(text), **more}
        self.add("extrude", name, {**params, "bodies": [{"id": self.id(b)} for b in bodies]})

    def seat(self, name: str, body: str, listed: list[dict[str, Any]], pairs: list[Any]) -> None:
        """Faces of a body (as they are listed) onto the regions that were proposed for them."""
        rows = [
            {"face": self.face(body, listed[p.face]), "seeds": [int(self.scan.source_facet[p.seed])]} for p in pairs
        ]
        self.add("seat", name, {"scan": {"id": self.evidence.id}, "body": {"id": self.id(body)}, "pairs": rows})

    def face(self, body: str, face: dict[str, Any]) -> dict[str, Any]:
        """A reference to a face as it is listed."""
        kept = {"name": face["name"], "kind": face["kind"], "beside": face["beside"], "place": face["centre"]}
        return {"body": self.id(body), **kept}

    def recipe(self, name: str) -> Recipe:
        return Recipe(name=name, evidence=(self.evidence, *self.more), steps=tuple(self.steps))


def circle_radius(loop: Any) -> float:
    """Of a loop that is one circle, mm; 0 of any other."""
    pieces = loop.outline.pieces
    return float(pieces[0].radius or 0.0) if len(pieces) == 1 else 0.0


def _base_and_boss(make: JobMaker, boss_joins: tuple[str, ...] = ("Base plate",)) -> None:
    # The eye is left out of the plate: it is bored through plate and boss in one at the end.
    make.outline("Boss outline", "Base top", 6.0, keep=lambda loop: circle_radius(loop) > 10)
    # One millimetre into the plate: a boss that only touches it would not join.
    make.extrude("Boss", "Boss outline", "6 mm", boss_joins, back=length("7 mm"), operation="add")
    make.outline("Eye outline", "Base top", 6.0, keep=lambda loop: 6 < circle_radius(loop) < 8)
    make.extrude("Eye", "Eye outline", "10 mm", ("Base plate",), extent="through", symmetric=True, operation="subtract")


def _plate(make: JobMaker) -> None:
    make.region("Base top", (66, 15, BASE_THICKNESS))
    make.outline("Base outline", "Base top", -10.0, keep=lambda loop: not 6 < circle_radius(loop) < 8)
    # From 2 mm above the underside: 10 up, 2 down.
    make.extrude("Base plate", "Base outline", "10 mm", back=length("2 mm"))


def rebuilt_job(blob: str, scan_file: Path) -> Recipe:
    """Half done: the base plate and the boss rebuilt from two sections, the upright wall still to come."""
    make = JobMaker(prepare_scan(read_scan(scan_file), 1.0), scan_evidence(blob, "rebuilt"), "")
    _plate(make)
    _base_and_boss(make)
    return make.recipe("Bracket, base and boss")


def seated_job(blob: str, scan_file: Path) -> Recipe:
    """The whole bracket: wall, pocket and boss on the plate, and every face seated on the scan."""
    # The kernel is needed to say which face should lie on which region.
    from contour.check.pairing import propose_pairs
    from contour.job.build.build import build
    from contour.job.build.keep import faces_of
    from contour.job.build.store import Store
    from contour.products import load_product
    from contour.solid.shape import NamedShape, read_shape

    make = JobMaker(prepare_scan(read_scan(scan_file), 1.0), scan_evidence(blob, "seated"), "seated ")
    with tempfile.TemporaryDirectory(prefix="contour-") as folder:
        store = Store(Path(folder))
        store.put_blob(scan_file.read_bytes())

        def faces(body: str) -> tuple[str, list[dict[str, Any]]]:
            result = build(make.recipe("draft"), store, with_fit=False)
            key = next(b.key for b in result.bodies if b.id == make.id(body))
            return key, faces_of(store, key)

        _plate(make)
        outwards = POSE.apply(np.array([[0.0, 1.0, 0.0]]))[0] - POSE.apply(np.zeros((1, 3)))[0]
        _, listed = faces("Base plate")
        back = max((f for f in listed if f["kind"] == "plane"), key=lambda f: float(np.dot(f["axis"], outwards)))
        make.region("Wall front", (50, 68, 20))
        # Deep enough that the bore is whole there: nearer to the front the scanner lost a patch of it.
        make.outline("Wall outline", "Wall front", -8.0)
        # To the plate's own back face, so that both backs are one.
        make.extrude(
            "Wall",
            "Wall outline",
            "-4 mm",
            back=length("8 mm"),
            extent="until",
            until_face=make.face("Base plate", back),
        )
        cut = {"body": {"id": make.id("Wall")}, "plane": {"id": make.id("Base top")}, "offset": length("0 mm")}
        make.add("cut", "Wall foot", {**cut, "keep": "front"})
        _base_and_boss(make, ("Base plate", "Wall"))
        make.outline(
            "Pocket outline", "Base top", -4.0, keep=lambda loop: loop.outline.closed and 200 < loop.area < 700
        )
        make.extrude("Pocket", "Pocket outline", "10 mm", ("Base plate",), back=length("2 mm"), operation="subtract")
        key, listed = faces("Base plate")
        product = load_product(store.folder(key))
        pairs = propose_pairs(make.scan, NamedShape(read_shape(product.brep), product.names))
        make.seat("Seat all", "Base plate", listed, pairs)
    return make.recipe("Bracket, seated on its scan")
