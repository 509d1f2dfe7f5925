"""Modelled meshes: exported solids taken apart again and made solids again, against the faces and volumes that they came from."""

from __future__ import annotations

import resource
import time
from collections import Counter
from collections.abc import Callable, Iterator
from functools import partial
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Shape
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from benchmarks.random_parts import random_part
from contour.exchange.raw import RawScan
from contour.fit.modelled import exact_regions, precision_of
from contour.fit.segment.whole import Segmentation
from contour.geometry.surfaces import distances
from contour.mesh.prepare import PreparedScan, prepare_scan
from contour.recipe.problem import ContourError
from contour.solid.edge_frame import turn_between
from contour.solid.face_geometry import face_kinds, face_surface
from contour.solid.mass import volume
from contour.solid.shape import edge_faces, faces, owners_of, shape_map
from contour.solid.solidify import solidify
from contour.solid.tessellate import tessellate
from demo.bracket import bracket
from demo.pump_cover import pump_cover
from demo.truth_parts import TRUTH_PARTS

__all__ = ["run"]

_CHORDS = {"0.5 mm": (0.5, 0.5), "0.1 mm": (0.1, 0.5), "0.01 mm": (0.01, 0.5), "by angle": (5.0, 0.3)}
_RANDOM = 200
_ONE_SURFACE_MM = 1e-5  # what faces of one surface are off each other at most
_SMOOTH = 0.02  # radians


def _exported(shape: TopoDS_Shape, chord: float, angle: float) -> tuple[PreparedScan, NDArray[np.int32]]:
    made = tessellate(shape, chord_mm=chord, angle_rad=angle)
    corners = made.vertices.astype(np.float32).astype(float)[made.triangles]
    scan = prepare_scan(RawScan(corners, np.arange(len(corners)), len(corners), "stl"), 1.0)
    return scan, made.face[scan.source_facet]


def _radii(shape: TopoDS_Shape) -> list[float | None]:
    out: list[float | None] = []
    for face, kind in zip(faces(shape), face_kinds(shape), strict=True):
        surface = BRepAdaptor_Surface(face)
        out.append(
            surface.Cylinder().Radius()
            if kind == "cylinder"
            else surface.Sphere().Radius()
            if kind == "sphere"
            else surface.Torus().MinorRadius()
            if kind == "torus"
            else None
        )
    return out


def _scored(shape: TopoDS_Shape, owner: NDArray[np.int32], found: Segmentation, tally: Counter[str]) -> None:
    """Faces above two facets that have a formula; a facet is given away where its region is mostly another such face."""
    kinds, radii = face_kinds(shape), _radii(shape)
    for k, kind in enumerate(kinds):
        mine = owner == k
        if mine.sum() <= 2 or kind == "freeform":
            continue
        tally["faces"] += 1
        (top, count), *_ = Counter(found.labels[mine].tolist()).most_common(1)
        region = found.regions[top] if top >= 0 else None
        if region is None or region.surface is None or region.kind != kind or count < 0.98 * mine.sum():
            continue
        tally["found"] += 1
        radius = radii[k]
        if radius is not None:
            own = region.surface.minor if kind == "torus" else region.surface.radius
            tally["radii"] += 1
            tally["right radii"] += abs(own / radius - 1) < 1e-3
    for r in range(len(found.regions)):
        here = Counter(f for f in owner[found.labels == r].tolist() if kinds[f] != "freeform")
        tally["given away"] += sum(here.values()) - max(here.values(), default=0)
    tally["facets"] += len(owner)


def _shown(shape: TopoDS_Shape, scan: PreparedScan, owner: NDArray[np.int32], found: Segmentation) -> int:
    """How many of a solid's faces a mesh of it can show. Those with an edge in common are one to it that are of one surface; that one formula goes
    through all vertices of, to the file's own rounding; or that are freeform both, and smooth along that edge, with no corner found there."""
    made = tessellate(shape, chord_mm=0.1, angle_rad=0.5)
    own = shape_map(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    surfaces = [face_surface(f) for f in faces(shape)]
    region = [_most(found.labels[owner == k]) for k in range(len(surfaces))]
    off = 4 * precision_of(scan)

    def through_both(a: int, b: int) -> bool:
        s = found.regions[region[a]].surface
        at = scan.vertices[np.unique(scan.facets[np.isin(owner, (a, b))])]
        return s is not None and bool(np.abs(distances(s, at)).max() < off)

    links = []
    around = edge_faces(shape)
    for i in range(1, around.Size() + 1):
        beside = owners_of(around, i)
        for a, b in combinations(sorted(own.FindIndex(f) - 1 for f in beside), 2):
            one, other = surfaces[a], surfaces[b]
            places = made.vertices[np.unique(made.triangles[made.face == b])]
            together = region[a] == region[b] >= 0
            if (
                (
                    one
                    and other
                    and one.kind == other.kind
                    and np.abs(distances(one, places)).max(initial=0) < _ONE_SURFACE_MM
                )
                or (together and through_both(a, b))
                or (
                    together
                    and not one
                    and not other
                    and turn_between(beside, TopoDS.Edge(around.FindKey(i))) > np.cos(_SMOOTH)
                )
            ):
                links.append((a, b))
    rows, columns = np.array(links, np.int64).reshape(-1, 2).T
    graph = coo_matrix((np.ones(len(links)), (rows, columns)), shape=(len(surfaces),) * 2)
    return int(connected_components(graph, directed=False)[0])


def _most(labels: NDArray[np.int32]) -> int:
    return Counter(labels.tolist()).most_common(1)[0][0] if len(labels) else -1


def _made_again(
    shape: TopoDS_Shape, scan: PreparedScan, owner: NDArray[np.int32], found: Segmentation, tally: Counter[str]
) -> None:
    tally["meshes"] += 1
    try:
        made = solidify(scan)
    except ContourError:
        return
    tally["torn"] += bool(made.open)
    good = made.solids == 1 and made.closed and made.valid
    corners = scan.vertices[scan.facets]
    mesh = float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)
    true = volume(shape)
    tally["solids"] += good
    tally["volumes"] += good and abs(made.volume - true) <= max(abs(mesh - true), 1e-6 * true)
    count = len(faces(made.body.shape))
    tally["all faces"] += good and count == len(faces(shape))
    tally["face counts"] += good and count == _shown(shape, scan, owner, found)
    tally["many flats"] += made.flat > 20


def _told(name: str, tally: Counter[str]) -> Iterator[tuple[str, str]]:
    def share(of: str, among: str) -> str:
        return f"{100 * tally[of] / max(tally[among], 1):.1f} %"

    yield (
        f"{name}: faces found, kind right (wanted: 98 %)",
        f"{share('found', 'faces')} of {tally['faces']}; radii within 1e-3: {share('right radii', 'radii')}; "
        f"given to another {tally['given away']} of {tally['facets']:,} facets",
    )
    yield (
        f"{name}: one valid closed solid (wanted: 95 %)",
        f"{share('solids', 'meshes')} of {tally['meshes']} ({tally['torn']} meshes torn); volume within the chord error {share('volumes', 'meshes')}; "
        f"as many faces as a mesh can show (wanted: 90 %) {share('face counts', 'meshes')}, as the kernel has {share('all faces', 'meshes')}; "
        f"more than 20 flat facets in {tally['many flats']}",
    )


def run(count: int = _RANDOM) -> Iterator[tuple[str, str]]:
    """Six parts at four finenesses, then so many random ones; then time and memory."""
    own: list[Callable[[], TopoDS_Shape]] = [*TRUTH_PARTS.values(), lambda: bracket().shape, lambda: pump_cover().shape]
    random: list[Callable[[], TopoDS_Shape]] = [partial(random_part, seed) for seed in range(count)]
    for title, parts in (("own parts", own), ("random parts", random)):
        tallies = {fineness: Counter[str]() for fineness in _CHORDS}
        for shape in (make() for make in parts):
            for fineness, (chord, angle) in _CHORDS.items():
                scan, owner = _exported(shape, chord, angle)
                found = exact_regions(scan)
                _scored(shape, owner, found, tallies[fineness])
                _made_again(shape, scan, owner, found, tallies[fineness])
        for fineness, tally in tallies.items():
            yield from _told(f"{title}, {fineness}", tally)
    for chord, wanted in ((0.01, "3 s at 20 k"), (0.0004, "60 s and 3 GB at 1 M")):
        scan, _ = _exported(TRUTH_PARTS["rudder spindle"](), chord, 0.5)
        begun = time.perf_counter()
        solidify(scan)
        seconds = time.perf_counter() - begun
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
        yield (
            f"{len(scan.facets):,} facets to a solid (wanted: {wanted})",
            f"{seconds:.1f} s; peak of the whole run {peak:.2f} GB",
        )
