"""Where a line runs through a solid, against solids whose faces are known."""

import numpy as np
import pytest

from contour.check.bore_reach import bore_reach, crossings
from contour.check.exact_arrays import exact_arrays
from contour.check.exact_solid import ExactSolid
from contour.sketch.entities import Entity
from contour.solid.shape import NamedShape
from tests.conftest import prism, rectangle

Y, Z = np.array([0, 1.0, 0]), np.array([0, 0, 1.0])


def plane_at(solid: ExactSolid, face: int) -> tuple[float, ...]:
    """Outward normal of a flat face, and how far along it the face lies."""
    mine = solid.vertices[solid.triangles[solid.face == face]]
    normal = np.cross(mine[0, 1] - mine[0, 0], mine[0, 2] - mine[0, 0])
    normal /= np.linalg.norm(normal)
    return (*np.round(normal, 9), round(float(mine[0, 0] @ normal), 9))


@pytest.fixture(scope="module")
def block() -> ExactSolid:
    """40 x 30 x 10, from z = 0."""
    return exact_arrays(prism(rectangle(40, 30), 10).shape)


@pytest.fixture(scope="module")
def lugs() -> ExactSolid:
    """A fork: plates at y = 0 to 10 and 30 to 40, on a wall at x = 0 to 10; 30 wide."""
    spots = [(0, 0), (40, 0), (40, 10), (10, 10), (10, 30), (40, 30), (40, 40), (0, 40)]
    outline = [Entity(f"e{k}", "line", a, b) for k, (a, b) in enumerate(zip(spots, spots[1:] + spots[:1], strict=True))]
    return exact_arrays(prism(outline, 30).shape)


def test_a_line_through_a_block_enters_and_leaves_it_once(block) -> None:
    [(enters, entry, leaves, exit_)] = crossings(block, np.array([7.0, 9.0, 3.0]), Z)
    assert (enters, leaves) == pytest.approx((-3, 7), abs=1e-12)
    assert plane_at(block, entry) == (0, 0, -1, 0) and plane_at(block, exit_) == (0, 0, 1, 10)
    assert crossings(block, np.array([50.0, 9.0, 3.0]), Z) == []


@pytest.mark.parametrize("at", [(20, 15, 5), (13.333333333, 10, 5), (8, 6, -40), (32, 24, 90)])
def test_a_line_along_the_border_of_two_triangles_meets_the_block_once(block, at) -> None:
    """The diagonal of a rectangle goes through its middle."""
    [(enters, _, leaves, _)] = crossings(block, np.array(at, float), -Z)
    assert (enters, leaves) == pytest.approx((at[2] - 10, at[2]), abs=1e-9)


def test_lines_in_every_direction_cross_a_drilled_block_as_its_formulas_say(drilled_block: NamedShape) -> None:
    """Length inside: of the box less that of the bore's cylinder, both in closed form."""
    solid = exact_arrays(drilled_block.shape)
    rng = np.random.default_rng(5)
    for _ in range(60):
        at = rng.uniform([2, 2, 1], [38, 28, 9])
        along = rng.normal(size=3)
        along /= np.linalg.norm(along)
        ways = np.sort(np.array([(0 - at) / along, (np.array([40, 30, 10]) - at) / along]), axis=0)
        box = (ways[0].max(), ways[1].min())
        to, flat = at[:2] - 15, along[:2]
        a, b, c = flat @ flat, 2 * to @ flat, to @ to - 36
        root = np.sqrt(max(b * b - 4 * a * c, 0.0))
        bore = (max((-b - root) / (2 * a), box[0]), min((-b + root) / (2 * a), box[1]))
        inside = box[1] - box[0] - max(bore[1] - bore[0], 0.0) * (root > 0)
        found = sum(leaves - enters for enters, _, leaves, _ in crossings(solid, at, along))
        assert found == pytest.approx(
            inside, abs=0.1
        )  # its triangles stray from the bore by so much at most where the line grazes it


@pytest.mark.parametrize(
    ("span", "along", "side", "depth"),
    [
        ((0.2, 9.7), 1.0, 0, None),  # seen nearly whole: through, from the side it is seen nearest to
        ((0.4, 9.9), 1.0, 10, None),
        ((2.1, 9.6), 1.0, 10, None),  # its far end is seldom seen
        ((4.0, 10.0), 1.0, 10, 6.0),
        ((0.0, 5.5), 1.0, 0, 5.5),
        ((-5.5, 0.0), -1.0, 0, 5.5),
        ((-9.9, -4.0), -1.0, 10, 6.0),
    ],
)
def test_a_hole_begins_where_the_scan_comes_nearest_to_a_face(block, span, along, side, depth) -> None:
    found = bore_reach(block, np.array([20.0, 12.0, 0.0]), along * Z, span)
    assert found is not None and found.until is None
    assert plane_at(block, found.face) == (0, 0, 1 if side else -1, side)
    assert found.depth == (pytest.approx(depth) if depth else None)


def test_a_hole_in_one_lug_ends_before_the_other(lugs) -> None:
    lower = bore_reach(lugs, np.array([25.0, 0.0, 15.0]), Y, (0.1, 9.7))
    assert lower is not None and lower.depth is None
    assert plane_at(lugs, lower.face) == (0, -1, 0, 0)
    assert lower.until is not None and plane_at(lugs, lower.until) == (0, 1, 0, 10)
    upper = bore_reach(lugs, np.array([25.0, 0.0, 15.0]), Y, (30.3, 39.9))
    assert upper is not None and plane_at(lugs, upper.face) == (0, 1, 0, 40)
    assert upper.until is not None and plane_at(lugs, upper.until) == (0, -1, 0, -30)


def test_where_there_is_no_material_no_face_is_named(block, lugs) -> None:
    assert bore_reach(block, np.array([60.0, 12.0, 0.0]), Z, (0, 10)) is None
    assert bore_reach(block, np.array([20.0, 12.0, 0.0]), Z, (11, 20)) is None
    assert bore_reach(lugs, np.array([25.0, 0.0, 15.0]), Y, (12, 28)) is None
