"""What is asked again and again of the same body is worked out once; of another one with other names, anew."""

from __future__ import annotations

from contour.products import Extras, keep_product
from contour.products.body import BodyProduct
from contour.recipe.reference import EdgeRef, FaceRef
from contour.solid.shape import NamedShape, faces, read_shape, remembered, write_shape
from contour.solid.topology.edges import edge_names
from contour.solid.topology.parts import BODY_PARTS
from tests.conftest import prism, rectangle


def test_the_last_few_are_remembered_by_shape_and_names():
    asked = []

    @remembered(2)
    def count(named):
        asked.append(named)
        return len(faces(named.shape))

    a, b, c = (prism(rectangle(10 + k, 10), 5, prefix=f"p{k}") for k in range(3))
    assert [count(x) for x in (a, a, b, a)] == [6, 6, 6, 6] and len(asked) == 2
    renamed = NamedShape(a.shape, tuple(f"other.{n}" for n in a.names))
    assert count(renamed) == 6 and len(asked) == 3
    count(c)
    count(a)
    assert len(asked) == 5


def test_names_of_edges_can_be_changed_by_whoever_got_them():
    named = prism(rectangle(10, 10), 5, prefix="p")
    edge_names(named).clear()
    assert len(edge_names(named)) == 12


def test_the_same_bytes_under_other_names_have_other_edges():
    named = prism(rectangle(10, 10), 5, prefix="p")
    again = NamedShape(read_shape(write_shape(named.shape)), tuple(n.replace("p.", "q.") for n in named.names))
    assert not set(edge_names(again)) & set(edge_names(named))


def test_in_passing_faces_and_edges_are_found_by_their_names_without_the_rows(tmp_path):
    named = prism(rectangle(10, 10), 5, prefix="p")
    keep_product(BodyProduct(write_shape(named.shape), named.names), tmp_path, Extras(False, False, False))
    (tmp_path / "outcome.json").write_text('{"about": {}}')
    for _ in range(2):
        edge = EdgeRef(body="b", edge="p.end[p1]|p.side[e2]")
        assert BODY_PARTS["edge"].present(edge, tmp_path) == (edge.edge,)
        assert BODY_PARTS["face"].present(FaceRef(body="b", name="p.side[e1]"), tmp_path) == ("p.side[e1]",)
    assert not (tmp_path / "topology.json").exists()
    # What has no such name any more is looked for among the rows.
    old = EdgeRef(body="b", edge="p.end[p1]|p.side[e2]@(gone.side[e1])")
    assert BODY_PARTS["edge"].present(old, tmp_path) == ("p.end[p1]|p.side[e2]",)
    assert (tmp_path / "topology.json").exists()
