"""What a drawing brings in of a body against closed forms: shadows of circles, cuts, silhouettes of primitives, and of parts against their meshes."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest
import shapely
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)

from contour.geometry.curves import Line, Oval, places
from contour.geometry.frames import PlaneFrame, plane_frame
from contour.sketch.drawn.linked import LinkedPiece, drawn_piece, freely, seen, traced
from contour.sketch.drawn.profiles import profiles_of
from contour.sketch.drawn.text import Drawing, Point
from contour.solid.linked import cut_pieces, edge_pieces
from contour.solid.shadow import silhouette_pieces
from contour.solid.shape import NamedShape, faces
from contour.solid.tessellate import tessellate
from demo.bracket import bracket
from demo.side_plate import side_plate
from tests.conftest import circle, prism, rectangle

PLATE = prism([*rectangle(60, 40), circle(20, 20, 8)], 10)


def named(shape) -> NamedShape:
    return NamedShape(shape, tuple(f"f{k}" for k in range(len(faces(shape)))))


def facing(*normal: float, at: Sequence[float] = (0, 0, 0)) -> PlaneFrame:
    return plane_frame(np.array(at, float), np.array(normal, float))


def area(pieces: Sequence[LinkedPiece]) -> float:
    """Of what pieces enclose as they meet, holes left out."""
    entities: dict = {}

    def point(at: tuple[float, float]) -> str:
        same = next((n for n, e in entities.items() if e.kind == "point" and math.dist(e.at, at) < 1e-6), None)
        if same is None:
            same = f"p{len(entities)}"
            entities[same] = Point(at=at)
        return same

    for k, piece in enumerate(pieces):
        entity = drawn_piece(piece, point, bounds=True)
        if entity is not None:
            entities[f"c{k}"] = entity
    found = profiles_of(Drawing(entities=entities))
    assert not found.loose and not found.gaps
    holes = [{p.entity for p in i} for r in found.regions for i in r.islands]
    return sum(r.area for r in found.regions if {p.entity for p in r.outer} not in holes)


@pytest.mark.parametrize("tilt", [0.0, 25.0, 60.0, 89.0, 90.0])
def test_the_shadow_of_a_circle_is_the_ellipse_that_its_places_lie_on(tilt):
    frame = facing(0, math.sin(math.radians(tilt)), math.cos(math.radians(tilt)), at=(3, 1, 2))
    arc = Oval((5, 4, 3), (1, 0, 0), (0, 1, 0), 8.0, 8.0, 0.3, 2.9)
    piece = seen(arc, frame, "a")
    assert piece.kind == ("arc" if tilt == 0 else "line" if tilt == 90 else "ellipse")
    along = frame.to_plane(places(arc, np.linspace(0.3, 2.9, 60)))
    ((_, trace),) = traced([piece])
    shown = shapely.linestrings(trace.place(np.linspace(0, 1, 4000)))
    assert float(shapely.distance(shapely.points(along), shown).max()) < 2e-5
    length = float(np.linalg.norm(np.diff(trace.place(np.linspace(0, 1, 4000)), axis=0), axis=1).sum())
    there_and_back = float(np.ptp(along, axis=0).max()) if tilt == 90 else None
    true = float(
        np.linalg.norm(np.diff(frame.to_plane(places(arc, np.linspace(0.3, 2.9, 4000))), axis=0), axis=1).sum()
    )
    assert length == pytest.approx(there_and_back or true, rel=1e-3)


def test_a_line_seen_end_on_is_a_point_and_a_circle_seen_edge_on_is_as_long_as_it_is_wide():
    assert seen(Line((1, 2, 0), (1, 2, 9)), facing(0, 0, 1), "l").kind == "point"
    edge_on = seen(Oval((0, 0, 0), (1, 0, 0), (0, 0, 1), 7.0, 7.0), facing(0, 0, 1), "c")
    assert edge_on.kind == "line" and math.dist(*edge_on.points) == pytest.approx(14)


def test_a_free_curve_goes_through_its_places():
    t = np.linspace(0, 3, 193)
    helix = np.stack([10 * np.cos(t), 10 * np.sin(t), 4 * t], axis=1)
    frame = facing(0.2, 0.3, 1)
    ((_, trace),) = traced([freely(helix, frame, "h")])
    shown = shapely.linestrings(trace.place(np.linspace(0, 1, 4000)))
    assert float(shapely.distance(shapely.points(frame.to_plane(helix)), shown).max()) < 1e-3


def test_edges_by_name_with_the_faces_beside_them_and_no_seams():
    found = {p.key: p for p in edge_pieces(PLATE, facing(0, 0, 1))}
    assert len(found) == 14
    rim = found["s1.end[p1]|s1.side[c1]"]
    assert rim.kind == "circle" and rim.size == pytest.approx(8) and set(rim.faces) == {"s1.end[p1]", "s1.side[c1]"}
    assert found["s1.side[e1]|s1.side[e2]"].kind == "point"


def test_a_cut_has_a_piece_for_each_face_and_lies_exactly_in_the_plane():
    level = cut_pieces(PLATE, facing(0, 0, 1, at=(0, 0, 4)))
    assert {p.key for p in level} == {f"s1.side[e{k}]" for k in (1, 2, 3, 4)} | {"s1.side[c1]"}
    assert area(level) == pytest.approx(60 * 40 - math.pi * 64, rel=1e-9)
    leaning = cut_pieces(PLATE, facing(0, math.sin(0.2), math.cos(0.2), at=(0, 20, 5)))
    assert area(leaning) == pytest.approx((60 * 40 - math.pi * 64) / math.cos(0.2), rel=1e-6)


def test_where_a_face_lies_in_the_plane_the_cut_is_its_border():
    on_top = cut_pieces(PLATE, facing(0, 0, 1, at=(0, 0, 10)))
    assert {p.key for p in on_top} == {f"s1.end[p1]|s1.side[{s}]" for s in ("e1", "e2", "e3", "e4", "c1")}
    assert not cut_pieces(PLATE, facing(0, 0, 1, at=(0, 0, 11)))


def tilted(degrees: float) -> PlaneFrame:
    a = math.radians(degrees)
    return facing(math.sin(a), 0.0, math.cos(a))


@pytest.mark.parametrize("degrees", [0, 20, 45, 90])
def test_silhouettes_of_primitives_have_the_area_of_their_shadows(degrees):
    s, c = math.sin(math.radians(degrees)), math.cos(math.radians(degrees))
    ball = silhouette_pieces(named(BRepPrimAPI_MakeSphere(10.0).Shape()), tilted(degrees))
    assert [p.kind for p in ball] == ["circle"] and ball[0].size == pytest.approx(10)
    pillar = silhouette_pieces(named(BRepPrimAPI_MakeCylinder(10.0, 30.0).Shape()), tilted(degrees))
    assert area(pillar) == pytest.approx(math.pi * 100 * c + 2 * 10 * 30 * s, rel=1e-9)
    block = silhouette_pieces(prism(rectangle(60, 40), 10), tilted(degrees))
    assert area(block) == pytest.approx(60 * 40 * c + 40 * 10 * s, rel=1e-9)


def test_silhouette_of_a_cone_reaches_from_rim_to_rim():
    cone = silhouette_pieces(named(BRepPrimAPI_MakeCone(10.0, 4.0, 20.0).Shape()), facing(1, 0, 0))
    assert area(cone) == pytest.approx((20 + 8) / 2 * 20, rel=1e-9)


def test_one_can_look_through_a_ring():
    ring = silhouette_pieces(named(BRepPrimAPI_MakeTorus(20.0, 5.0).Shape()), facing(0, 0, 1))
    assert sorted(p.size for p in ring) == pytest.approx([15, 25])
    assert area(ring) == pytest.approx(math.pi * (25**2 - 15**2), rel=1e-9)


@pytest.mark.parametrize("normal", [(0, 0, 1), (1, 0, 0), (0, 1, 0), (-0.18, 0.54, 1.94)])
@pytest.mark.parametrize("part", [bracket, side_plate])
def test_silhouettes_of_parts_cover_what_their_meshes_do(part, normal):
    solid, frame = part(), facing(*normal)
    mesh = tessellate(solid.shape, chord_mm=0.002, angle_rad=0.05)
    flat = frame.to_plane(mesh.vertices)[mesh.triangles]
    a, b = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    truth = shapely.union_all(
        shapely.polygons(flat[np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) > 1e-9]), grid_size=1e-5
    )
    assert area(silhouette_pieces(solid, frame)) == pytest.approx(truth.area, rel=1e-4)
