import pytest

from contour.recipe.problem import ContourError
from contour.recipe.reference import FaceRef
from contour.solid.topology.labels import face_label
from contour.solid.topology.resolve import candidates, resolve_face, roots


def face(name: str, *beside: str, kind: str = "plane", centre=(0.0, 0.0, 0.0)) -> dict:
    return {"name": name, "kind": kind, "beside": list(beside), "centre": centre}


def ref(name: str, *beside: str, kind: str = "plane", **more) -> FaceRef:
    return FaceRef(body="b", name=name, kind=kind, beside=beside, **more)


def test_roots_look_through_joins_and_fragments():
    assert roots("a.end[p1]") == {"a.end[p1]"}
    assert roots("a.end[p1]~(b.side[e2]&c.side[e3]+d.end[p4])") == {"a.end[p1]"}
    assert roots("a.end[p1]+b.side[e2]~(c.side[e1])?") == {"a.end[p1]", "b.side[e2]"}


def test_the_very_name_wins():
    faces = [face("a.end[p1]"), face("a.end[p1]+b.end[p1]")]
    assert resolve_face(ref("a.end[p1]"), faces) == 0


def test_a_joined_face_is_still_the_face():
    assert resolve_face(ref("a.end[p1]"), [face("x"), face("a.end[p1]+b.end[p1]")]) == 1


def test_a_face_that_was_joined_and_is_alone_again():
    assert resolve_face(ref("a.end[p1]+b.end[p1]"), [face("a.end[p1]"), face("c.end[p1]")]) == 0


def test_a_fragment_that_is_whole_again():
    assert resolve_face(ref("a.end[p1]~(s.side[e1])"), [face("a.end[p1]")]) == 0


def test_fragments_are_told_apart_by_their_neighbours():
    faces = [face("a.end~(s1&t)", "s1", "t", "common"), face("a.end~(s2)", "s2", "common")]
    assert resolve_face(ref("a.end~(s1)", "s1", "common"), faces) == 0
    assert resolve_face(ref("a.end~(s9)", "s2", "common"), faces) == 1


@pytest.mark.parametrize("beside", [(), ("common",), ("elsewhere",), ("s1", "s2")])
def test_what_neighbours_do_not_settle_is_reported(beside):
    faces = [face("a.end~(s1)", "s1", "common"), face("a.end~(s2)", "s2", "common")]
    with pytest.raises(ContourError) as caught:
        resolve_face(ref("a.end", *beside), faces)
    assert caught.value.problem.code == "ref-ambiguous"


def test_position_never_settles_anything():
    faces = [face("a.end~(s1)?", "s1", centre=(0, 0, 0)), face("a.end~(s1)?", "s1", centre=(9, 9, 9))]
    with pytest.raises(ContourError, match="2 pieces"):
        resolve_face(ref("a.end~(s1)?", "s1", place=(0, 0, 0)), faces)


@pytest.mark.parametrize("faces", [[], [face("b.end[p1]")], [face("a.end[p1]", kind="cylinder")]])
def test_what_is_gone_or_of_another_kind_is_lost(faces):
    with pytest.raises(ContourError) as caught:
        resolve_face(ref("a.end[p1]+z"), faces)
    assert caught.value.problem.code == "ref-lost"


def test_candidates_are_kin_first_then_alike_and_near():
    faces = [
        face("far", centre=(90, 0, 0)),
        face("near", centre=(1, 0, 0)),
        face("round", kind="cylinder"),
        face("a.end[p1]~(x)", centre=(50, 0, 0)),
    ]
    own, each = roots("a.end[p1]"), [roots(f["name"]) for f in faces]
    assert candidates(own, "plane", (0.0, 0.0, 0.0), faces, each) == [3, 1, 0, 2]


def test_labels_name_the_step():
    steps = {"ab12cd34": "Base plate"}
    assert face_label("ab12cd34.side[e4]", steps) == "Base plate, side e4"
    assert face_label("ab12cd34.end[p1]+ff.end[p2]", steps) == "Base plate, end (and 1 more)"
