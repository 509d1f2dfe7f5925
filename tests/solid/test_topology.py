"""Names of edges and corners, what operations tell of their history, and what a lasting name means after a change."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing, BRepBuilderAPI_Transform
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.BRepTools import BRepTools_ReShape
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Shape

from contour.geometry.frames import plane_frame
from contour.recipe.problem import ContourError
from contour.recipe.reference import ChainRef, EdgeRef, VertexRef
from contour.sketch.entities import Entity, LoopName, Sketch, find_profiles
from contour.solid.boolean import combine
from contour.solid.extrude import extrude
from contour.solid.facts import face_facts
from contour.solid.shape import NamedShape, edges, faces, read_shape, shape_list, write_shape
from contour.solid.topology.edges import edge_names, edges_named
from contour.solid.topology.history import History, OperationHistory, ReplacedHistory, ReshapeHistory, SewingHistory
from contour.solid.topology.labels import corner_label, edge_label
from contour.solid.topology.names import inherit_names
from contour.solid.topology.resolve import chain_of, edge_faces_named, resolve_edges, resolve_vertex
from contour.solid.topology.rows import topology_rows
from demo.bracket import rounded_rectangle
from tests.conftest import circle, prism, rectangle


def cross_drilled(radius: float = 3.0, at: float = 30.0) -> NamedShape:
    """A shaft along z with a hole right through it along y."""
    frame = plane_frame(np.array([0, -40.0, at]), np.array([0, 1.0, 0]), np.array([1.0, 0, 0]))
    hole = extrude(find_profiles(Sketch(frame, (circle(0, 0, radius),))), frame, start_mm=0, end_mm=80, prefix="drill")
    return combine(prism([circle(0, 0, 10)], 60, prefix="shaft"), hole, "subtract")


def rows_by_name(named: NamedShape) -> dict[str, dict]:
    return {e["name"]: e for e in topology_rows(named)["edges"]}


def ref_to(named: NamedShape, name: str, model: type = EdgeRef):
    """A reference as picking makes it."""
    body = topology_rows(named)
    row = next(e for e in body["edges"] if e["name"] == name)
    said = "edge" if model is EdgeRef else "chain"
    return model(body="b", **{said: name}, kind=row["kind"], ends=tuple(edge_faces_named(row, body["faces"])))


def meant(ref, named: NamedShape) -> list[dict]:
    body = topology_rows(named)
    return [body["edges"][i] for i in resolve_edges(ref, body["edges"], body["faces"])]


def test_an_edge_is_the_pair_of_its_faces_and_a_corner_all_that_meet_there():
    body = topology_rows(prism([*rectangle(40, 30), circle(15, 15, 6)], 10))
    names = {e["name"] for e in body["edges"]}
    assert {"s1.end[p1]|s1.side[e1]", "s1.side[e1]|s1.side[e2]", "s1.side[c1]|s1.start[p1]", "s1.side[c1]"} <= names
    assert len(names) == len(body["edges"]) == 15
    rim = next(e for e in body["edges"] if e["name"] == "s1.end[p1]|s1.side[c1]")
    assert (rim["kind"], rim["radius"], rim["origin"]) == ("circle", 6.0, [15.0, 15.0, 10.0])
    assert rim["length"] == pytest.approx(12 * np.pi, abs=1e-4) and not rim["smooth"]
    seam = next(e for e in body["edges"] if e["name"] == "s1.side[c1]")
    assert seam["smooth"]
    corner = next(v for v in body["vertices"] if v["name"] == "s1.end[p1]|s1.side[e1]|s1.side[e2]")
    assert corner["centre"] == [40.0, 0.0, 10.0]


def test_edges_between_the_same_faces_are_told_apart_by_their_ends():
    block = combine(
        prism(rectangle(40, 30), 10), prism(rectangle(6, 50, at=(17, -5)), 10, z=6, prefix="s2"), "subtract"
    )
    rows = rows_by_name(block)
    front = [n for n in rows if n.startswith("s1.end") and "|s1.side[e1]" in n]
    assert len(front) == 2 and not any("?" in n for n in rows)
    assert {rows[n]["centre"][0] for n in front} == {8.5, 31.5}


def test_both_rims_of_a_hole_through_a_shaft_are_counted_along_its_axis():
    """Nothing but their order along the hole tells them apart; it stays when sizes and places change."""
    first = rows_by_name(cross_drilled())
    rims = [n for n in first if n.startswith("drill.side[c1]|shaft.side[c1]@#")]
    assert len(rims) == 2
    for radius, at in ((4.5, 30.0), (2.0, 12.0)):
        now = rows_by_name(cross_drilled(radius, at))
        for n in rims:
            assert np.sign(now[n]["centre"][1]) == np.sign(first[n]["centre"][1])


def test_flats_on_a_shaft_have_two_edges_told_apart_across_the_axis():
    flat = combine(
        prism([circle(0, 0, 10)], 60, prefix="shaft"),
        prism(rectangle(40, 40, at=(8, -20)), 80, z=-5, prefix="mill"),
        "subtract",
    )
    sides = {n: e for n, e in rows_by_name(flat).items() if n.startswith("mill.side[e4]|shaft.side[c1]")}
    assert len(sides) == 2 and not any("?" in n for n in sides)
    assert sorted(round(e["centre"][1]) for e in sides.values()) == [-6, 6]


def test_names_come_back_with_the_bytes():
    body = cross_drilled()
    again = NamedShape(read_shape(write_shape(body.shape)), body.names)
    assert edge_names(again) == edge_names(body)


@pytest.mark.parametrize("gone", ["e1", "e2", "e3", "e4"])
def test_deleting_any_entity_renames_no_other_face(gone):
    """The corner that a piece cut off is closed by its neighbours; the caps keep their names although their first piece is gone."""
    whole = [
        Entity("e1", "line", (5.0, 0.0), (40.0, 0.0)),
        Entity("e2", "line", (40.0, 0.0), (40.0, 30.0)),
        Entity("e3", "line", (40.0, 30.0), (0.0, 30.0)),
        Entity("e4", "line", (0.0, 30.0), (0.0, 5.0)),
        Entity("e5", "line", (0.0, 5.0), (5.0, 0.0)),
    ]
    frame = plane_frame(np.zeros(3), np.array([0, 0, 1.0]), np.array([1.0, 0, 0]))

    def named(entities: list[Entity], loops=()) -> set[str]:
        profiles = find_profiles(Sketch(frame, tuple(entities), loops))
        return set(extrude(profiles, frame, start_mm=0, end_mm=5, prefix="s").names)

    loops = (LoopName("p1", tuple(e.id for e in whole)),)
    k = next(i for i, e in enumerate(whole) if e.id == gone)
    before, after = whole[k - 1], whole[(k + 1) % 5]
    rest = [e for e in whole if e.id not in (gone, before.id)]
    closed = Entity(before.id, "line", before.start, after.start)
    assert named(whole, loops) - named([*rest, closed], loops) == {f"s.side[{gone}]"}


def test_a_chain_runs_on_where_there_is_no_bend_and_stops_at_a_corner():
    body = prism(rounded_rectangle(0, 0, 40, 30, 5, "o"), 10)
    rows = topology_rows(body)
    top = next(e["name"] for e in rows["edges"] if e["name"].startswith("s1.end") and e["kind"] == "line")
    found = chain_of(resolve_edges(ref_to(body, top, ChainRef), rows["edges"], rows["faces"]), rows["edges"])
    length = sum(rows["edges"][i]["length"] for i in found)
    assert len(found) == 8 and length == pytest.approx(2 * (30 + 20) + 10 * np.pi, abs=1e-3)
    sharp = prism(rectangle(40, 30), 10)
    rows = topology_rows(sharp)
    assert len(chain_of([0], rows["edges"])) == 1
    assert all(e["smooth"] for n, e in rows_by_name(body).items() if n.count("side") == 2)


def test_an_edge_that_was_parted_means_all_its_pieces_and_a_joined_face_is_still_the_face():
    block = prism(rectangle(40, 30), 10)
    ref = ref_to(block, "s1.end[p1]|s1.side[e1]")
    slotted = combine(block, prism(rectangle(6, 50, at=(17, -5)), 10, z=6, prefix="s2"), "subtract")
    assert sorted(e["centre"][0] for e in meant(ref, slotted)) == [8.5, 31.5]
    longer = combine(block, prism(rectangle(20, 30, at=(40, 0)), 10, prefix="s3"), "add")
    (edge,) = meant(ref, longer)
    assert edge["length"] == 60.0
    piece = ref_to(
        slotted,
        next(n for n in rows_by_name(slotted) if n.startswith("s1.end[p1]~(s1.side[e4]") and "|s1.side[e1]" in n),
    )
    assert [e["centre"][0] for e in meant(piece, slotted)] == [8.5]
    assert [e["length"] for e in meant(piece, block)] == [40.0]  # whole again


def test_what_is_gone_is_lost_and_what_cannot_be_told_is_reported():
    block = prism(rectangle(40, 30), 10)
    ref = ref_to(block, "s1.side[e1]|s1.side[e2]")
    cut = combine(block, prism(rectangle(9, 9, at=(35, -4)), 40, z=-5, prefix="s2"), "subtract")
    with pytest.raises(ContourError) as caught:
        meant(ref, cut)
    assert caught.value.problem.code == "ref-lost"
    drilled = cross_drilled()
    with pytest.raises(ContourError) as caught:
        meant(EdgeRef(body="b", edge="drill.side[c1]|shaft.side[c1]@#1/3"), drilled)
    assert caught.value.problem.code == "ref-ambiguous" and caught.value.problem.remedy


def test_corners_are_found_through_joins_and_lost_with_their_edge():
    block = prism(rectangle(40, 30), 10)
    ref = VertexRef(body="b", vertex="s1.end[p1]|s1.side[e1]|s1.side[e2]")
    longer = topology_rows(combine(block, prism(rectangle(20, 30, at=(40, 0)), 10, prefix="s3"), "add"))
    with pytest.raises(ContourError) as caught:
        resolve_vertex(ref, longer["vertices"], longer["faces"])
    assert caught.value.problem.code == "ref-lost"
    left = VertexRef(body="b", vertex="s1.end[p1]|s1.side[e1]|s1.side[e4]")
    found = longer["vertices"][resolve_vertex(left, longer["vertices"], longer["faces"])]
    assert found["centre"] == [0.0, 0.0, 10.0]


def after(history: History, result: TopoDS_Shape, before: NamedShape, made: str = "") -> dict[str, int]:
    named = inherit_names([(history, result)], [before], made=made)
    assert len(named.names) == len(faces(result))
    return {n: named.names.count(n) for n in named.names}


def test_a_fillet_is_named_by_its_edge_and_its_corner_by_the_corner():
    block = prism(rectangle(40, 30), 10)
    wanted = ["s1.end[p1]|s1.side[e1]", "s1.end[p1]|s1.side[e2]", "s1.side[e1]|s1.side[e2]"]
    maker = BRepFilletAPI_MakeFillet(block.shape)
    for edge in edges_named(block, wanted):
        maker.Add(2.0, edge)
    names = after(OperationHistory(maker), maker.Shape(), block, "f")
    corner = "f[s1.end[p1]|s1.side[e1]|s1.side[e2]]"
    assert set(names) == {*block.names, *(f"f[{n}]" for n in wanted), corner}
    assert set(names.values()) == {1}


def test_a_shell_keeps_the_outside_and_names_the_inside_by_it():
    block = prism(rectangle(40, 30), 10)
    top = next(f for f, n in zip(faces(block.shape), block.names, strict=True) if n.startswith("s1.end"))
    maker = BRepOffsetAPI_MakeThickSolid()
    maker.MakeThickSolidByJoin(block.shape, shape_list([top]), -2.0, 1e-4)
    names = after(OperationHistory(maker), maker.Shape(), block, "wall")
    assert {n for n in block.names if not n.startswith("s1.end")} <= set(names)


def test_moving_sewing_healing_and_rebuilding_keep_every_name():
    block = prism([*rectangle(40, 30), circle(15, 15, 6)], 10)
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(5, 0, 0))
    moved = BRepBuilderAPI_Transform(block.shape, move, True)
    sewing = BRepBuilderAPI_Sewing(1e-4)
    for face in faces(block.shape):
        sewing.Add(face)
    sewing.Perform()
    context = BRepTools_ReShape()
    other = read_shape(write_shape(block.shape))
    for old, new in zip(faces(block.shape), faces(other), strict=True):
        context.Replace(old, new)
    told = [
        (OperationHistory(moved), moved.Shape()),
        (SewingHistory(sewing), sewing.SewedShape()),
        (ReshapeHistory(context), context.Apply(block.shape)),
        (ReplacedHistory(faces(block.shape), faces(other)), other),
    ]
    for history, result in told:
        assert set(after(history, result, block)) == set(block.names)


def test_a_face_that_nothing_tells_of_is_refused_unless_it_was_made():
    block, other = prism(rectangle(40, 30), 10), prism(rectangle(10, 10, at=(90, 0)), 10)
    replaced = ReplacedHistory(faces(block.shape)[:1], faces(other.shape)[:1])
    with pytest.raises(ContourError, match="came from nowhere"):
        inherit_names([(replaced, other.shape)], [block])
    named = inherit_names([(replaced, other.shape)], [block], made="new")
    assert sum(n.startswith("new") for n in named.names) == 5


def test_labels_name_the_steps_on_both_sides():
    steps = {"s1": "Base plate", "s2": "Boss"}
    assert edge_label("s1.end[p1]|s2.side[e4]", steps) == "edge between Base plate, end and Boss, side e4"
    assert edge_label("s1.side[c1]", steps) == "seam of Base plate, side c1"
    assert corner_label("s1.end[p1]|s1.side[e1]|s1.side[e2]", steps).startswith("corner of Base plate, end")
    assert len(edges(cross_drilled().shape)) == len(edge_names(cross_drilled()))


def test_round_faces_tell_their_axis_or_centre():
    top = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(0, 1, 0)), 6, 2, 9).Shape()
    ring = BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(4, 0, 0), gp_Dir(1, 0, 0)), 20, 3).Shape()
    ball = BRepPrimAPI_MakeSphere(gp_Pnt(7, 8, 9), 5).Shape()
    for shape, kind, origin, axis in [
        (top, "cone", (1, None, 3), (0, 1, 0)),  # abreast of its middle, somewhere along y
        (ring, "torus", (4, 0, 0), (1, 0, 0)),
        (ball, "sphere", (7, 8, 9), None),
    ]:
        named = NamedShape(shape, tuple(str(k) for k in range(len(faces(shape)))))
        row = next(f for f in face_facts(named) if f["kind"] == kind)
        assert all(b is None or a == pytest.approx(b, abs=1e-4) for a, b in zip(row["origin"], origin, strict=True))
        assert row.get("axis") == (None if axis is None else pytest.approx(list(axis)))
