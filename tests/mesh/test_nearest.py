"""The tree over triangles against plain search over all of them."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from contour.mesh.nearest import TriangleTree, build_tree, near_slots, nearest_on_triangles, triangle_foot

Array = NDArray[np.float64]


def crowd(seed: int, count: int, size: float) -> tuple[Array, NDArray[np.int32]]:
    rng = np.random.default_rng(seed)
    middles = rng.uniform(-10, 10, (count, 1, 3))
    vertices = (middles + rng.normal(0, size, (count, 3, 3))).reshape(-1, 3)
    return vertices, np.arange(3 * count, dtype=np.int32).reshape(-1, 3)


def dense_distances(vertices: Array, triangles: NDArray[np.int32], p: Array) -> Array:
    """(m,) by the triangle's own formula: the least over its plane, where the foot is inside, and its three sides."""
    t = vertices[triangles]
    best = np.full(len(t), np.inf)
    for k in range(3):
        a, b = t[:, k], t[:, (k + 1) % 3]
        s = np.einsum("ij,ij->i", p - a, b - a) / np.maximum(np.einsum("ij,ij->i", b - a, b - a), 1e-300)
        best = np.minimum(best, np.linalg.norm(p - a - s.clip(0, 1)[:, None] * (b - a), axis=1))
    n = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
    size = np.linalg.norm(n, axis=1)
    flat = size > 1e-12
    n[flat] /= size[flat, None]
    h = np.einsum("ij,ij->i", p - t[:, 0], n)
    foot = p - h[:, None] * n
    inside = flat.copy()
    for k in range(3):
        a, b = t[:, k], t[:, (k + 1) % 3]
        inside &= np.einsum("ij,ij->i", np.cross(b - a, foot - a), n) >= 0
    return np.where(inside, np.abs(h), best)


SHAPES = {
    "a crowd of small ones": crowd(1, 900, 0.4),
    "long ones across each other": crowd(2, 200, 8.0),
    "sizes from dust to planks": (
        np.vstack([crowd(3, 200, s)[0] for s in (1e-3, 0.1, 12.0)]),
        np.arange(1800, dtype=np.int32).reshape(-1, 3),
    ),
    "one": crowd(4, 1, 3.0),
    "all in one place": (
        np.tile([[0.0, 0, 0], [1, 0, 0], [0, 1, 0]], (50, 1)),
        np.arange(150, dtype=np.int32).reshape(-1, 3),
    ),
    "ever smaller ones": (
        np.vstack([np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0]]) * 0.5**k + [0.5**k * 3, 0, 0] for k in range(200)]),
        np.arange(600, dtype=np.int32).reshape(-1, 3),
    ),
    "without any area": (
        np.array([[0.0, 0, 0], [1, 1, 1], [2, 2, 2], [3, 3, 3], [3, 3, 3], [3, 3, 3]]),
        np.arange(6, dtype=np.int32).reshape(-1, 3),
    ),
}


@pytest.mark.parametrize("name", SHAPES)
def test_the_nearest_place_is_that_of_a_search_over_all(name: str) -> None:
    vertices, triangles = SHAPES[name]
    points = np.random.default_rng(9).uniform(-14, 14, (120, 3))
    feet, owner = nearest_on_triangles(build_tree(vertices, triangles), points)
    for p, foot, k in zip(points, feet, owner, strict=True):
        want = dense_distances(vertices, triangles, p)
        assert np.linalg.norm(p - foot) == pytest.approx(want.min(), abs=1e-9)
        assert want[k] == pytest.approx(want.min(), abs=1e-9)


@pytest.mark.parametrize("name", SHAPES)
def test_the_tree_holds_every_triangle_once_within_its_boxes(name: str) -> None:
    vertices, triangles = SHAPES[name]
    tree = build_tree(vertices, triangles)
    assert sorted(tree.order.tolist()) == list(range(len(triangles)))
    assert tree.corners == pytest.approx(vertices[triangles][tree.order].reshape(-1, 9))
    assert depth_of(tree) < 100  # what the search keeps in hand
    seen = np.zeros(len(triangles), int)
    for q in range(len(tree.left)):
        a, b = tree.spans[q]
        inside = tree.corners[a:b].reshape(-1, 3)
        assert np.all(inside >= tree.boxes[q, :3] - 1e-12)
        assert np.all(inside <= tree.boxes[q, 3:] + 1e-12)
        if tree.left[q] < 0:
            seen[a:b] += 1
            assert b - a <= 4
    assert np.all(seen == 1)


def depth_of(tree: TriangleTree) -> int:
    depth = np.zeros(len(tree.left), int)
    for q, child in enumerate(tree.left):
        if child >= 0:
            depth[child] = depth[child + 1] = depth[q] + 1
    return int(depth.max())


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("slack", [0.0, 0.3, 3.0])
def test_near_slots_are_all_that_are_near(name: str, slack: float) -> None:
    vertices, triangles = SHAPES[name]
    tree = build_tree(vertices, triangles)
    slots, far, stack = np.empty(2000, np.int64), np.empty(2000), np.empty(128, np.int32)
    slot = 0
    for p in np.random.default_rng(5).uniform(-12, 12, (60, 3)):
        slot, *foot, best, count = near_slots(
            tree.boxes, tree.left, tree.spans, tree.corners, *p, slot, slack, stack, slots, far
        )
        want = dense_distances(vertices, triangles, p)[tree.order]
        assert np.sqrt(best) == pytest.approx(want.min(), abs=1e-9)
        assert np.linalg.norm(p - foot) == pytest.approx(want.min(), abs=1e-9)
        near = set(np.flatnonzero(want <= want.min() + slack - 1e-9).tolist())
        assert near <= set(slots[:count].tolist())
        assert np.sqrt(far[:count]) == pytest.approx(want[slots[:count]], abs=1e-6)
        assert len(set(slots[:count].tolist())) == count


def test_where_more_are_near_than_fit_the_nearest_stay() -> None:
    """Five hundred spheres' worth of triangles at random distances around one place, and room for forty."""
    rng = np.random.default_rng(6)
    way = rng.normal(0, 1, (500, 3))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    middles = way * rng.uniform(5.0, 5.9, (500, 1))
    vertices = (middles[:, None] + rng.normal(0, 0.01, (500, 3, 3))).reshape(-1, 3)
    tree = build_tree(vertices, np.arange(1500, dtype=np.int32).reshape(-1, 3))
    slots, far, stack = np.empty(40, np.int64), np.empty(40), np.empty(128, np.int32)
    _, _, _, _, best, count = near_slots(
        tree.boxes, tree.left, tree.spans, tree.corners, 0.0, 0.0, 0.0, 0, 1.0, stack, slots, far
    )
    want = np.sort(dense_distances(vertices, np.arange(1500).reshape(-1, 3), np.zeros(3)))
    assert np.sqrt(best) == pytest.approx(want[0], abs=1e-9)
    assert 0 < count <= 40
    # What is kept reaches back to the nearest without a hole.
    kept = np.sort(np.sqrt(far[:count]))
    assert kept[:5] == pytest.approx(want[:5], abs=1e-9)


def test_feet_on_corners_sides_and_inside() -> None:
    t = np.array([0.0, 0, 0, 4, 0, 0, 0, 4, 0])
    for p, foot in [
        ((1, 1, 5), (1, 1, 0)),
        ((-2, -3, 1), (0, 0, 0)),
        ((2, -1, 0), (2, 0, 0)),
        ((-1, 2, 0), (0, 2, 0)),
        ((3, 3, 2), (2, 2, 0)),
        ((9, -1, 0), (4, 0, 0)),
        ((-1, 9, 3), (0, 4, 0)),
    ]:
        assert triangle_foot.py_func(*p, t) == pytest.approx(foot)
