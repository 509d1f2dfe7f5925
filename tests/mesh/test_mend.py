"""Defects planted in meshes of known shape: found where they were planted, and mended without moving the rest."""

import numpy as np
import pytest

from contour.check.exact_arrays import exact_arrays
from contour.mesh.defects import BLOCKING, find_defects, raw_defects
from contour.mesh.facets import Mesh, border_loops, side_lengths
from contour.mesh.fill import all_loops, fill_loops
from contour.mesh.mend import drop_islands, mend_all, orient, require_mended, stitched, taken_apart
from contour.mesh.piercing import pierced_pairs
from contour.mesh.stitch import dropped_repeats
from contour.mesh.topology import signed_volume
from contour.recipe.problem import ContourError
from contour.simulate.scanner import ScanSettings, virtual_scan
from demo.pump_cover import pump_cover, spoilt
from tests.conftest import cube
from tests.shapes import punched, soup, sphere, subdivided


def kinds(mesh: Mesh) -> dict[str, int]:
    return {d.kind: d.count for d in find_defects(mesh) if d.kind != "sliver"}


def near(defects, kind: str, place, within: float) -> bool:
    found = next(d for d in defects if d.kind == kind)
    return any(np.linalg.norm(np.array(p.point) - place) < within for p in found.places)


def test_a_clean_mesh_has_no_defect():
    assert kinds(sphere()) == {}
    assert kinds(soup(cube((10, 20, 30)))) == {}


def test_a_knife_edge_counts_as_a_fold_only_beyond_150_degrees():
    for deg, folded in ((40, False), (25, True)):
        a = np.radians(deg)
        tip = np.array(
            [
                [0, 0, 0],
                [0, 10, 0],
                [10, 0, 0],
                [10, 10, 0],
                [10 * np.cos(a), 0, 10 * np.sin(a)],
                [10 * np.cos(a), 10, 10 * np.sin(a)],
            ]
        )
        wedge = [(0, 3, 2), (0, 1, 3), (0, 4, 5), (0, 5, 1), (0, 2, 4), (1, 5, 3), (2, 3, 5), (2, 5, 4)]
        mesh = Mesh(tip, np.array(wedge, dtype=np.int32), np.arange(8))
        assert ("fold" in kinds(mesh)) == folded


def test_holes_are_grouped_with_their_places():
    mesh = punched(punched(sphere(), (20, 0, 0), 3), (0, 20, 0), 2)
    hole = find_defects(mesh)[0]
    assert (hole.kind, hole.count, hole.blocking) == ("hole", 2, True)
    assert near((hole,), "hole", (20, 0, 0), 1.0)
    assert near((hole,), "hole", (0, 20, 0), 1.0)


def test_each_planted_defect_is_found_where_it_was_planted():
    clean = sphere()
    turned = clean.facets.copy()
    turned[500] = turned[500][::-1]
    found = find_defects(Mesh(clean.vertices, turned, clean.source))
    assert near(found, "flipped", clean.vertices[clean.facets[500]].mean(axis=0), 1e-9)
    spiky = clean.vertices.copy()
    spiky[1000] *= 1.4
    assert near(find_defects(Mesh(spiky, clean.facets, clean.source)), "spike", clean.vertices[1000] * 1.1, 3.0)
    through = clean.vertices.copy()
    through[1000] *= -1.2
    assert near(find_defects(Mesh(through, clean.facets, clean.source)), "piercing", -clean.vertices[1000], 25.0)
    crumb = soup(clean.vertices[clean.facets], cube((0.1, 0.1, 0.1)) + 40)
    assert near(find_defects(crumb), "island", (40.05, 40.05, 40.05), 0.1)


def test_repeats_and_flat_facets_are_named_from_the_file():
    corners = cube((2, 2, 2))
    flat = np.array([[[0, 0, 0], [1, 1, 1], [2, 2, 2]]], float)
    defects = raw_defects(soup(corners, corners[:3], flat))
    counts = {d.kind: d.count for d in defects}
    assert counts["duplicate"] == 3
    assert counts["degenerate"] == 1


def test_touching_cubes_are_junctions_and_come_apart():
    edge = soup(cube((2, 2, 2)), cube((2, 2, 2)) + [2, 2, 0])
    assert kinds(edge)["non-manifold-edge"] == 1
    point = soup(cube((2, 2, 2)), cube((2, 2, 2)) + 2)
    assert kinds(point)["non-manifold-vertex"] == 1
    for mesh in (edge, point):
        parted, count, moved = taken_apart(mesh)
        assert count > 0
        assert kinds(parted) == {}
        assert 0 < moved < 0.1
        again = parted.vertices[parted.facets].astype(np.float32).astype(float)  # as the next file would hold it
        assert kinds(soup(again)) == {}


def test_a_pinched_ring_of_bodies_is_parted_too():
    """Four cubes around a common edge: two bodies that share the edge at both ends of it and nowhere else."""
    mesh = soup(cube((1, 1, 1)), cube((1, 1, 1)) + [1, 1, 0], cube((1, 1, 1)) + [0, 0, 1], cube((1, 1, 1)) + [1, 1, 1])
    mesh, _ = dropped_repeats(mesh)
    mesh, _, _ = taken_apart(mesh)
    assert "non-manifold-edge" not in kinds(mesh)
    assert signed_volume(mesh.vertices, mesh.facets) == pytest.approx(4, rel=0.05)


def test_double_walls_between_touching_bodies_go_and_a_plain_repeat_keeps_one():
    two = soup(cube((2, 2, 2)), cube((2, 2, 2)) + [2, 0, 0])
    joined, count = dropped_repeats(two)
    assert count == 4
    assert kinds(joined) == {}
    assert signed_volume(joined.vertices, joined.facets) == pytest.approx(16)
    once = soup(cube((2, 2, 2)), cube((2, 2, 2))[:2][:, ::-1])  # repeated the other way round
    kept, _ = dropped_repeats(once)
    assert kinds(kept) == {}


@pytest.mark.parametrize("seed", range(3))
def test_orientation_is_found_again_and_cavities_face_inwards(seed):
    rng = np.random.default_rng(seed)
    shell, cavity, beside = cube((10, 10, 10)), cube((4, 4, 4))[:, ::-1] + 3, cube((5, 5, 5)) + [30, 0, 0]
    corners = np.vstack([shell, cavity, beside])
    flip = rng.random(len(corners)) < 0.5
    corners[flip] = corners[flip][:, ::-1]
    mesh, count = orient(soup(corners))
    assert count > 0
    assert signed_volume(mesh.vertices, mesh.facets) == pytest.approx(1000 - 64 + 125)


def test_loose_faces_become_one_closed_skin():
    """A cube whose faces are meshed by themselves, one of them finer, each a little off."""
    rng = np.random.default_rng(2)
    faces = [cube((10, 10, 10))[2 * k : 2 * k + 2] for k in range(6)]
    finer = []
    for t in faces[0]:
        m = (t[0] + t[1]) / 2
        finer += [[t[0], m, t[2]], [m, t[1], t[2]]]
    faces[0] = np.array(finer)
    mesh = soup(*[f + rng.normal(0, 2e-6, 3) for f in faces])
    assert kinds(mesh)["hole"] >= 6
    mesh, count, moved = stitched(mesh)
    assert count > 0
    assert moved < 1e-4
    assert kinds(mesh) == {}
    assert signed_volume(mesh.vertices, mesh.facets) == pytest.approx(1000, rel=1e-4)


def test_interpenetrating_shells_become_their_union():
    mesh = soup(cube((4, 4, 4)), cube((4, 4, 4)) + [2, 1, 1])
    work, left = mend_all(mesh, holes=False)
    assert [c.operation for c in work.done] == ["unite shells"]
    assert signed_volume(work.mesh.vertices, work.mesh.facets) == pytest.approx(64 + 64 - 2 * 3 * 3)
    assert not [d for d in left if d.blocking]
    assert (work.mesh.source >= 0).all()


@pytest.mark.parametrize("shape", ["flat", "curved"])
def test_a_filled_hole_is_closed_and_as_dense_as_its_rim(shape):
    mesh = punched(sphere(96), (20, 0, 0), 5)
    made = fill_loops(mesh, all_loops(mesh), shape=shape)
    assert (made.closed, made.left) == (1, ())
    assert kinds(made.mesh) == {}
    fresh = made.mesh.vertices[len(mesh.vertices) :]
    assert len(fresh) > 30
    assert np.array_equal(made.mesh.vertices[: len(mesh.vertices)], mesh.vertices)
    off = np.abs(np.linalg.norm(fresh, axis=1) - 20)
    # A flat fill lies up to the cap's height below the sphere; one that follows the curvature hardly at all.
    cap = 20 - np.sqrt(400 - 25)
    assert off.max() == pytest.approx(cap, rel=0.25) if shape == "flat" else off.max() < 0.5 * cap
    sides = side_lengths(made.mesh)
    assert np.median(sides[len(mesh.facets) :]) == pytest.approx(np.median(sides[: len(mesh.facets)]), rel=0.4)


def test_only_the_holes_asked_for_are_filled():
    mesh = punched(punched(sphere(), (20, 0, 0), 6), (0, 20, 0), 2)
    assert len(all_loops(mesh)) == 2
    small = all_loops(mesh, most_mm=28)
    assert len(small) == 1
    left = border_loops(
        fill_loops(mesh, small, shape="flat").mesh.facets, fill_loops(mesh, small, shape="flat").mesh.across()
    )
    assert len(left) == 1


@pytest.mark.parametrize("seed", range(3))
def test_what_a_scanner_spoils_is_mended_and_nothing_else_moves(seed):
    clean = sphere(80)
    rng = np.random.default_rng(seed)
    points = clean.vertices * (1 + rng.normal(0, 1e-3, (len(clean.vertices), 1)))
    v, f = spoilt(points, clean.facets, seed=seed + 3)
    mesh = Mesh(v, f, np.arange(len(f)))
    before = {d.kind for d in raw_defects(mesh)}
    assert {"spike", "fold", "non-manifold-edge", "duplicate"} <= before
    work, left = mend_all(mesh, holes=True)
    require_mended(mesh, work, left, holes=True)
    assert not [d for d in left if d.blocking]
    volume = signed_volume(clean.vertices, clean.facets)
    assert signed_volume(work.mesh.vertices, work.mesh.facets) == pytest.approx(volume, rel=1e-3)
    gap = np.linalg.norm(v[:, None, :] - v[None, :1, :], axis=2)  # vertices far from any damage are there to the bit
    assert gap.shape[0] == len(v)
    kept = {tuple(p) for p in work.mesh.vertices}
    undamaged = np.linalg.norm(v[: len(points)] - points, axis=1) == 0
    share = np.mean([tuple(p) in kept for p in v[: len(points)][undamaged]])
    assert share > 0.97


def test_what_is_past_mending_is_refused():
    rng = np.random.default_rng(1)
    mesh = soup(rng.uniform(0, 50, (300, 3, 3)))
    with pytest.raises(ContourError) as caught:
        mend_all(mesh, holes=True)
    assert caught.value.problem.code == "not-mended"
    assert caught.value.problem.where.point is not None
    assert "100 % of the sides open" in caught.value.problem.line()


def test_a_strip_with_a_half_turn_is_named_with_its_place():
    n = 40
    u = np.arange(n) * 2 * np.pi / n
    p = np.array(
        [
            [(20 + w * np.cos(a / 2)) * np.cos(a), (20 + w * np.cos(a / 2)) * np.sin(a), w * np.sin(a / 2)]
            for a in u
            for w in (-3, 3)
        ]
    )
    facets = []
    for i in range(n):
        a, b = 2 * i, 2 * i + 1
        c, d = (2 * (i + 1), 2 * (i + 1) + 1) if i < n - 1 else (1, 0)
        facets += [(a, c, b), (b, c, d)]
    mesh = Mesh(p, np.array(facets, dtype=np.int32), np.arange(2 * n))
    work, left = mend_all(mesh, holes=False)
    with pytest.raises(ContourError, match="flipped"):
        require_mended(mesh, work, left, holes=False)


def test_islands_go_by_their_size():
    mesh = soup(cube((10, 10, 10)), cube((0.5, 0.5, 0.5)) + 20, cube((5, 5, 5)) + 30)
    kept, count = drop_islands(mesh)
    assert count == 1
    assert signed_volume(kept.vertices, kept.facets) == pytest.approx(1125)


def test_every_kind_that_blocks_is_a_kind_that_exists():
    from contour.mesh.defects import KINDS

    assert set(KINDS) >= BLOCKING
    assert "sliver" not in BLOCKING
    assert "island" not in BLOCKING


def test_facets_that_share_no_corner_are_welded_as_far_as_it_takes():
    rng = np.random.default_rng(4)
    whole = subdivided(cube((40, 40, 40)), 5)
    corners = whole.vertices[whole.facets]
    side = np.linalg.norm(corners[:, 0] - corners[:, 1], axis=1).mean()
    loose = soup(corners + rng.normal(0, 0.02 * side, corners.shape))
    work, left = mend_all(loose, holes=True)
    assert not [d.kind for d in left if d.blocking]
    assert signed_volume(work.mesh.vertices, work.mesh.facets) == pytest.approx(40**3, rel=0.005)
    assert work.moved < 0.25 * side


def test_a_facet_over_thousands_pierces_those_it_passes_through():
    """A pair is looked at from the smaller of the two: none is lost, however uneven they are."""
    small = np.array([[x, y, -1.0] for x in range(60) for y in range(60)])[:, None] + np.array(
        [[0.1, 0.1, 0], [0.9, 0.1, 2.0], [0.1, 0.9, 2.0]]
    )
    large = np.array([[[-200.0, -200, 0.1], [500, -200, 0.1], [-200, 500, 0.1]]])
    mesh = soup(np.vstack([small, large]))
    pairs = pierced_pairs(mesh.vertices, mesh.facets)
    assert len(pairs) == len(small)
    assert (pairs.max(axis=1) == len(small)).all()


def test_ragged_holes_are_filled_without_edges_of_more_than_two_facets():
    """A scan from two sides has narrow bridges between its gaps: no patch may join what a bridge joins already."""
    views = ((0.0, 0.0, 1.0), (0.5, 0.0, 0.8))
    made = virtual_scan(
        exact_arrays(pump_cover().shape), ScanSettings(spacing_mm=1.3, noise_mm=0.03, seed=0, deep=0.3, views=views)
    )
    mesh = Mesh(made.vertices, made.facets, np.arange(len(made.facets)))
    loops = all_loops(mesh)
    assert len(loops) > 40
    filled = fill_loops(mesh, loops, shape="curved")
    assert filled.closed > 40
    assert not (filled.mesh.across() == -2).any()
